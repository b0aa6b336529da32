"""What the music holds. See the README beside this file."""
