"""Keys by which flows name materials."""

import secrets


def new_key(prefix: str) -> str:
    """A short key by which flows name a material; it never changes."""
    return f"{prefix}_{secrets.token_hex(4)}"
