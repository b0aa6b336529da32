"""Background work. See the README beside this file."""
