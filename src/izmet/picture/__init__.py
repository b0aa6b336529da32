"""What can be seen in a take: arrays in, arrays out."""
