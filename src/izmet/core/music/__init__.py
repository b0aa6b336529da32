"""What is decided about cues: which are selected, how beats are counted, how two analyses compare."""
