"""People and teams: who is rung, in what order, and what that means for a caller."""
