"""The signature on an event: HMAC-SHA256 (RFC 2104) over the wall time and the body, so that neither can be changed."""

import hashlib
import hmac
import re
from typing import Literal

SIGNATURE_HEADER = "Vokari-Signature"
CARRIER_HEADER = "Vokari-Carrier"
VALID_SECONDS = 300

Verdict = Literal["good", "missing", "malformed", "stale", "wrong"]


def sign(secret: bytes, body: bytes, wall: int) -> str:
    """The header's value for a body sent at `wall`, in whole seconds since 1970."""
    return f"t={wall},v1={_digest(secret, body, wall)}"


def check(secret: bytes, body: bytes, header: str | None, wall: float) -> Verdict:
    """Whether a header signs this body, and was made within 300 seconds of `wall`."""
    if not header:
        return "missing"
    match = re.fullmatch(r"t=([0-9]{1,12}),v1=([0-9a-f]{64})", header)
    if match is None:
        return "malformed"
    made = int(match.group(1))
    if not hmac.compare_digest(_digest(secret, body, made), match.group(2)):
        return "wrong"
    return "good" if abs(wall - made) <= VALID_SECONDS else "stale"


def carrier_secret(application_secret: bytes, carrier: str, version: int = 1) -> bytes:
    """The secret shared with one carrier, derived from the application's own, so that none is stored."""
    return hmac.new(application_secret, f"carrier:{carrier}:{version}".encode(), hashlib.sha256).hexdigest().encode()


def _digest(secret: bytes, body: bytes, wall: int) -> str:
    return hmac.new(secret, f"{wall}.".encode() + body, hashlib.sha256).hexdigest()
