"""Call flows: the document, the engine that runs it, and what can be said about it without running it."""
