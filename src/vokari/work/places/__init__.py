"""Places of a client and the areas it serves."""
