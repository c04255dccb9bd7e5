"""Lost callers whom somebody rang back, told by hand: they leave Today and the list of calls to call back."""

import uuid

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from ...core.numbers import numbering
from ...store.calls import Call, CallBack
from ..agency.access import Actor, NotFound, allow, note
from ..house.house import House
from ..house.problems import Problem, Problems
from .history import month_of


def done(house: House, actor: Actor, client_id: int, call_id: uuid.UUID) -> Problems:
    """The caller of a lost call was rung back: this call and all that were lost before it are settled."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "call_back", changing=True)
        call = _own(session, client_id, call_id)
        if call.fate != "lost" or not call.caller:
            return [Problem("", "Only a lost caller whose number is known can be called back.")]
        session.add(
            CallBack(
                agency_id=actor.agency_id, client_id=client_id, call_id=call_id, caller=call.caller, user_id=actor.user_id,
                at=house.now(),
            )
        )  # fmt: skip
        note(session, house, actor, client_id, f"called {numbering.shown(call.caller, client.country)} back")
    return []


def undone(house: House, actor: Actor, client_id: int, call_id: uuid.UUID) -> None:
    """The caller was not rung back after all: what was told since the call no longer counts."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "call_back", changing=True)
        call = _own(session, client_id, call_id)
        told = (CallBack.client_id == client_id, CallBack.caller == call.caller, CallBack.at > call.started_at)
        if session.scalars(delete(CallBack).where(*told).returning(CallBack.id)).all():
            words = f"took back that {numbering.shown(call.caller, client.country)} was called back"
            note(session, house, actor, client_id, words)


def _own(session: Session, client_id: int, call_id: uuid.UUID) -> Call:
    """A call of the client's history; NotFound where it is none."""
    call = session.scalar(select(Call).where(Call.id == call_id, Call.client_id == client_id, *month_of(call_id)))
    if call is None:
        raise NotFound
    return call
