"""Asking a client's own system for a call that looks something up: by the worker, beside the call, outside of any transaction."""

import json
from datetime import timedelta
from typing import Any

from sqlalchemy import select

from ...core.flows.questions.kinds import LOOKED_UP_LONGEST, LookedUpAnswer
from ...core.flows.running.events import Poked, TimerFired
from ...store.calls import LiveCall, LookUpRow
from ..holding import turns
from ..house.house import House
from ..house.ports import Unreachable
from ..house.sweeps import each
from . import folding

GIVEN_UP_AFTER = timedelta(seconds=90)
"""How long a call whose caller has gone is waited for; no look-up takes as long, so its job is lost."""


def run(house: House, look_up_id: int) -> None:
    """Asks once, and has the call go on: by a poke of the carrier, or by an event of our own once the caller has gone. What
    was answered already is not asked again."""
    with house.begin() as session:
        row = session.get(LookUpRow, look_up_id)
        if row is None:
            return
        url, sent, seconds, ref, call_id, state = row.url, row.sent, row.seconds, row.ref, row.call_id, row.state
    if state == "pending":
        what, value = asked(house, url, sent, seconds)
        with house.begin() as session:
            kept = session.get(LookUpRow, look_up_id, with_for_update=True)
            if kept is None:
                return
            kept.state, kept.value = what, value
    if not folding.go_on(house, call_id, Poked()) and not turns.poke(house, ref):
        folding.go_on(house, call_id, Poked())


def asked(house: House, url: str, sent: dict[str, str], seconds: int) -> LookedUpAnswer:
    """Asks a system: 200 with JSON {"answer": …} is found, an empty answer or 404 is not found, all else has failed."""
    try:
        status, body = house.web.get(url, sent, seconds)
    except Unreachable:
        return ("failed", "")
    if status == 404:
        return ("not_found", "")
    try:
        raw: Any = json.loads(body)["answer"] if status == 200 else None
    except (ValueError, KeyError, TypeError):
        return ("failed", "")
    if status != 200 or isinstance(raw, dict | list | bool):
        return ("failed", "")
    value = "" if raw is None else " ".join(str(raw).split())[:LOOKED_UP_LONGEST]
    return ("found", value) if value else ("not_found", "")


def give_up(house: House) -> int:
    """Has calls go on that have waited too long for a look-up after their caller had gone, as if it had failed; gives their
    count."""
    with house.begin() as session:
        query = select(LiveCall.id, LiveCall.state["awaiting"].as_integer()).where(
            LiveCall.gone, LiveCall.alive_at < house.now() - GIVEN_UP_AFTER
        )
        waiting = session.execute(query).all()
    return each("a call could not go on", waiting, lambda one: folding.go_on(house, one[0], TimerFired(one[1] or 0)))
