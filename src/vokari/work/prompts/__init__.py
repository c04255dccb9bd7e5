"""Prompts: the library, takes, which take is played, and the sound of all that is said."""
