"""A flow as indented plain text, and back."""
