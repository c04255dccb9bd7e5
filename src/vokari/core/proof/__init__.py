"""The proof: every way a call can go, and where each ends."""
