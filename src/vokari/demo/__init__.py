"""The demo world: a made-up agency with its clients, their flows, and ninety days of simulated calls."""
