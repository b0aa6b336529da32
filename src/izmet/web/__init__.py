"""The web interface. See the README beside this file."""
