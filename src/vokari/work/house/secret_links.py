"""Private addresses that are read without a sign-in: an id, and a signature over it that a version renews."""

import hashlib
import hmac
import re

from .house import House

_TOKEN = re.compile(r"([0-9]{1,18})-([0-9a-f]{32})")


def token(house: House, what: str, row_id: int, version: int) -> str:
    """What stands in the address of a thing of some sort."""
    said = f"{what} {row_id} {version}".encode()
    return f"{row_id}-{hmac.new(house.secret, said, hashlib.sha256).hexdigest()[:32]}"


def id_of(given: str) -> int | None:
    """The id that an address names; None where it has another form. Says nothing about whether it is signed."""
    match = _TOKEN.fullmatch(given)
    return int(match[1]) if match else None


def fits(house: House, given: str, what: str, row_id: int, version: int) -> bool:
    """Whether an address is the one of this thing and version."""
    return hmac.compare_digest(given.encode(), token(house, what, row_id, version).encode())
