"""What is made of a file when it has been read, for all that works with it."""
