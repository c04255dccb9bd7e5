"""Tracking numbers and their lead sources: found, ordered, given, planned, ported, rested."""
