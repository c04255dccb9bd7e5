"""Hold lines of live calls, and the board that shows them."""
