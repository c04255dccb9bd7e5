"""The rules of the job: pure Python, no I/O, no clock, no randomness of its own."""
