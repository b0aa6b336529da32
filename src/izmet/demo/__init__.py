"""The demo world. See the README beside this file."""
