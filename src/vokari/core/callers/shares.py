"""Shares of callers: the same caller falls into the same hundredth of a split, always, and nobody can tell it beforehand."""

import hashlib

HUNDREDTHS = 100


def hundredth(secret: bytes, caller: str, split: str) -> int:
    """Which hundredth of a split (0 to 99) somebody falls into, by a keyed hash (BLAKE2b with a key, RFC 7693). `caller` is the number in
    E.164, or for a withheld one whatever tells this call from others; the remainder of 64 bits favors none by more than 1 in 10^17."""
    mark = hashlib.blake2b(f"{split}\0{caller}".encode(), key=secret[:64], digest_size=8).digest()
    return int.from_bytes(mark, "big") % HUNDREDTHS
