"""Call flows: drafts, live versions, files, rehearsals, and the sound of prompts."""
