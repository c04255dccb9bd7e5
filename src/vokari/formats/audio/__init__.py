"""Sound: telephone audio, loudness, what a sound is by its content, and its shape."""
