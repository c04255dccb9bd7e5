"""Sets of hours: drawn, excepted, shared, switched, read from files, and made ready to answer."""
