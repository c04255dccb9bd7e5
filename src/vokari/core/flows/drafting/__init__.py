"""Building a flow: edits, and lines and conditions as they are typed."""
