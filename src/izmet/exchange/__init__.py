"""Cues in and out as files that other programs read."""
