"""The board of hold lines."""
