"""What the caller hears: names, words and mark-up of prompts, fields in them, voices, takes and when each is played."""
