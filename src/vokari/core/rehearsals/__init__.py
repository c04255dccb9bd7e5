"""Kept rehearsals: calls that are run again at each change, and what they should come to."""
