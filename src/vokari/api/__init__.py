"""The call-control endpoint for carriers."""
