"""Edits, media files and jobs, kept safely. See the README beside this file."""
