"""Speed, compared within one run: ours against the same work without our part, in alternated rounds."""
