"""The traffic simulator: callers and phones made of numbers, run through the same engine as live calls."""
