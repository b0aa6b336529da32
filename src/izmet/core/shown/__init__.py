"""What an edit shows and sounds like: frame by frame, in parts, and where it lands."""
