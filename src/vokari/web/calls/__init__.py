"""Pages of calls."""
