"""Hours: named periods of a client's week, with exceptions, in a time zone, and what holds at a moment."""
