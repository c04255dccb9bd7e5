"""Small flows that the program makes itself."""
