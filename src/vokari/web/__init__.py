"""The application for people: thin routes that parse, call `work`, and render."""
