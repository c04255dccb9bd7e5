"""What the engine must be told from outside, and what can be known of it."""
