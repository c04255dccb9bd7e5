"""Pages of numbers."""
