"""A flow as it is shown: the outline, the map, the line of each step, the way that a call took."""
