"""Vokari: tracking numbers, call flows and call attribution for many client businesses."""
