"""Pages of a client's places and areas."""
