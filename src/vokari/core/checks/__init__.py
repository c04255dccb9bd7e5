"""What is wrong, in words: of a flow and all that it stands on, of exceptions of hours; and what mends it."""
