"""Pages of prompts, and sounds."""
