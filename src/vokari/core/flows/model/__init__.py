"""A flow as it is stored: the document, its kinds of step, its conditions, and walks over its graph."""
