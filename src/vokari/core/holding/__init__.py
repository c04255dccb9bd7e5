"""Hold lines: who waits, who is asked next, and what a line means for a caller."""
