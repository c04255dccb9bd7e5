"""Notices to the pages that are open: something of a client's calls, of who takes them, or of a flow has changed."""

import json
from uuid import UUID

from sqlalchemy import text
from sqlalchemy.orm import Session

CHANNEL = "vokari_calls"

NOTIFY = "SELECT pg_notify(:channel, :payload)"
_NOTIFY = text(NOTIFY)


def notify(session: Session, agency_id: int, client_id: int, call: UUID | None = None) -> None:
    """Tells open pages once the transaction is committed; `call` is the call that changed, if it was one."""
    session.execute(_NOTIFY, notice(agency_id, client_id, call))


def notice(agency_id: int, client_id: int, call: UUID | None = None) -> dict[str, str]:
    """The values of NOTIFY, for a statement that also does something else."""
    payload = json.dumps({"agency": agency_id, "client": client_id, "call": str(call or "")})
    return {"channel": CHANNEL, "payload": payload}


def flow_changed(session: Session, client_id: int, flow_id: int, revision: int) -> None:
    """Tells pages of a client that a draft has changed, once the transaction is committed."""
    payload = json.dumps({"client": client_id, "flow": flow_id, "revision": revision})
    session.execute(_NOTIFY, {"channel": CHANNEL, "payload": payload})


def flow_proven(session: Session, client_id: int, flow_id: int, revision: int) -> None:
    """Tells pages of a client that a draft was proven, once the transaction is committed."""
    payload = json.dumps({"client": client_id, "flow": flow_id, "proven": revision})
    session.execute(_NOTIFY, {"channel": CHANNEL, "payload": payload})


def ended(session: Session, sign_in_id: int) -> None:
    """Tells pages of a sign-in that it has ended, once the transaction is committed."""
    session.execute(_NOTIFY, {"channel": CHANNEL, "payload": json.dumps({"ended": sign_in_id})})
