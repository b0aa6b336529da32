"""What is proposed, and what is laid out at once: working backwards, recipes, repairs, shifts."""
