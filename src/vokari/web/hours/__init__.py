"""Pages of hours."""
