"""Open formats and protocols that Vokari reads and writes."""
