"""Calls: each event of one in progress, its end, what follows from it, and the history."""
