"""Proving flows: the coming 13 months of a client, walked by the worker."""
