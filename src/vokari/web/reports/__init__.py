"""The report."""
