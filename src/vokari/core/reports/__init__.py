"""Periods, charts and the route map."""
