"""Notices to the pages that are open: something of a client's calls, or of who takes them, has changed."""

import json
from uuid import UUID

from sqlalchemy import text
from sqlalchemy.orm import Session

CHANNEL = "vokari_calls"

_NOTIFY = text("SELECT pg_notify(:channel, :payload)")


def notify(session: Session, agency_id: int, client_id: int, call: UUID | None = None) -> None:
    """Tells open pages once the transaction is committed; `call` is the call that changed, if it was one."""
    payload = json.dumps({"agency": agency_id, "client": client_id, "call": str(call or "")})
    session.execute(_NOTIFY, {"channel": CHANNEL, "payload": payload})


def ended(session: Session, sign_in_id: int) -> None:
    """Tells pages of a sign-in that it has ended, once the transaction is committed."""
    session.execute(_NOTIFY, {"channel": CHANNEL, "payload": json.dumps({"ended": sign_in_id})})
