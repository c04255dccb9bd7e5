"""Calls that somebody has seen to, told by hand: lost callers who were rung back, and what an answering service took. They leave Today
and the list of calls to call back."""

import uuid

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from ...core.numbers import numbering
from ...store.calls import Call, CallBack, ServiceCall
from ..agency.access import Actor, NotFound, allow, note
from ..house.house import House
from ..house.problems import Problem, Problems
from .history import month_of


def done(house: House, actor: Actor, client_id: int, call_id: uuid.UUID) -> Problems:
    """The caller of a lost call was rung back: this call and all that were lost before it are settled. A call that a service took
    was dealt with."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "call_back", changing=True)
        call = _own(session, client_id, call_id)
        if taken := session.get(ServiceCall, call_id, with_for_update=True):
            taken.dealt_at, taken.user_id = taken.dealt_at or house.now(), taken.user_id or actor.user_id
            note(session, house, actor, client_id, f"dealt with the call of {_who(call, client.country)}")
            return []
        if call.fate != "lost" or not call.caller:
            return [Problem("", "Only a lost caller whose number is known can be called back.")]
        session.add(
            CallBack(
                agency_id=actor.agency_id, client_id=client_id, call_id=call_id, caller=call.caller, user_id=actor.user_id,
                at=house.now(),
            )
        )  # fmt: skip
        note(session, house, actor, client_id, f"called {_who(call, client.country)} back")
    return []


def undone(house: House, actor: Actor, client_id: int, call_id: uuid.UUID) -> None:
    """Nobody has seen to it after all: what was told since the call no longer counts."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "call_back", changing=True)
        call = _own(session, client_id, call_id)
        if taken := session.get(ServiceCall, call_id, with_for_update=True):
            taken.dealt_at = taken.user_id = None
            note(session, house, actor, client_id, f"opened the call of {_who(call, client.country)} again")
        told = (CallBack.client_id == client_id, CallBack.caller == call.caller, CallBack.at > call.started_at)
        if session.scalars(delete(CallBack).where(*told).returning(CallBack.id)).all():
            words = f"took back that {_who(call, client.country)} was called back"
            note(session, house, actor, client_id, words)


def _who(call: Call, country: str) -> str:
    return numbering.caller_in_words(call.caller, country)


def _own(session: Session, client_id: int, call_id: uuid.UUID) -> Call:
    """A call of the client's history; NotFound where it is none."""
    call = session.scalar(select(Call).where(Call.id == call_id, Call.client_id == client_id, *month_of(call_id)))
    if call is None:
        raise NotFound
    return call
