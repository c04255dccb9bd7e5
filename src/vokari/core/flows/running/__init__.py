"""A flow as it runs: the engine, the state of a call, its events and commands."""
