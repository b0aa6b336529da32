"""The document: all that a person decided, and the small words and numbers that it is made of."""
