"""What is kept of a call only so that it can go on, and must tell nothing to whoever reads the database: under the
application's own key. (Fernet, of the package cryptography: AES-128 in CBC mode, authenticated by HMAC-SHA-256.)"""

import base64
import hashlib
import hmac
import json
from typing import Any

from cryptography.fernet import Fernet

from .house import House
from .problems import Row

_FIELD = "sealed"


def seal(house: House, value: Row) -> Row:
    """A value as it is stored."""
    return {_FIELD: _fernet(house).encrypt(json.dumps(value).encode()).decode()}


def opened(house: House, stored: Row) -> Row:
    """A stored value again; one that was not sealed is given as it is."""
    if _FIELD not in stored:
        return stored
    value: Any = json.loads(_fernet(house).decrypt(stored[_FIELD].encode()))
    return dict(value)


def digest(house: House, body: bytes) -> str:
    """What tells a body from any other, and whoever reads it nothing of the body: few keys could be tried out otherwise."""
    return hmac.new(house.secret, b"body " + body, hashlib.sha256).hexdigest()


def _fernet(house: House) -> Fernet:
    return Fernet(base64.urlsafe_b64encode(hmac.new(house.secret, b"calls in progress", hashlib.sha256).digest()))
