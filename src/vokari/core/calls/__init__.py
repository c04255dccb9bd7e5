"""What a call is once it is over: its fate."""
