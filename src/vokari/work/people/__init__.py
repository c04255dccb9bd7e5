"""People and teams: kept, rung, verified, switched on and off."""
