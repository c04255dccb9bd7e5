"""Tracking numbers: how they are written, chosen, named, given to lead sources, and judged."""
