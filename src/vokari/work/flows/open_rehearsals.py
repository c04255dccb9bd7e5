"""A rehearsal as the telephone shows it."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.calls import fates
from ...core.flows.conditions import tests as conditions
from ...core.flows.conditions.base import Names
from ...core.flows.model.document import FlowDocument
from ...core.flows.running import events, state, stored
from ...core.flows.running.flow import Flow
from ...core.flows.running.inputs import inputs
from ...core.flows.shown.whole import whole
from ...core.people import uses
from ...core.rehearsals import holding
from ...core.rehearsals.proposed import taken
from ...core.rehearsals.tried import Exit, Tried, tried
from ...store.agency import Client
from ...store.flows import CallFlow, Rehearsal
from ..house.house import House
from ..house.problems import Row
from ..house.views import CallFlowView
from ..people.ringers import callee_names
from ..prompts import speech
from .naming import names_of
from .rehearsed import flow_of, timer_due
from .verdicts import setting_of

MOST_OTHERS = 100
"""Earlier rehearsals of a document that are looked at for the ways that were tried."""


@dataclass(frozen=True, slots=True)
class Leg:
    """A phone that rings now: its ring command, whom it belongs to, for how long, and whether it was picked up."""

    command: int
    name: str
    number: str
    seconds: int
    picked_up: bool
    accept_key: str
    machine_detection: bool


@dataclass(frozen=True, slots=True)
class OpenRehearsal:
    """A rehearsal as the telephone shows it. `latest` are the commands of the last event, as on the wire; `due` the timer
    that fires next, with the seconds until then; `names` what the client's hours are called; `tried` which ways this and other rehearsals of the
    same document have taken, and those that are kept with it."""

    id: uuid.UUID
    flow: CallFlowView
    revision: int
    document: FlowDocument
    settings: Row
    log: list[Row]
    state: state.State
    latest: list[Row]
    legs: list[Leg]
    ending: fates.Ending | None
    seconds: float
    offered: Sequence[events.Event]
    due: tuple[int, float] | None
    names: Names
    tried: Tried

    @property
    def is_stale(self) -> bool:
        """Whether the draft was edited after a rehearsal of it began."""
        return self.revision != self.flow.revision and not self.settings.get("version")


def show(house: House, rehearsal: Rehearsal, flow: CallFlow) -> OpenRehearsal:
    with house.begin() as session:
        names = names_of(session, house, session.get_one(Client, rehearsal.client_id))
        callees = callee_names(session, rehearsal.client_id)
        prepared = flow_of(session, house, rehearsal)
        logs = [rehearsal.log, *_others(session, rehearsal)]
        kept = _kept(session, house, rehearsal, prepared)
    document = uses.named(conditions.named(whole(prepared.document, prepared.inner), names), callees)
    now = stored.load_state(rehearsal.state)
    seconds = rehearsal.log[-1]["at"] if rehearsal.log else 0.0
    latest = [_with_sound(house, one) for one in _latest(rehearsal.log, now)]
    return OpenRehearsal(
        id=rehearsal.id, flow=CallFlowView.of(flow), revision=rehearsal.revision, document=document, settings=rehearsal.settings,
        log=rehearsal.log, state=now, latest=latest, legs=_legs(prepared, now, rehearsal.log),
        ending=fates.ending(now, seconds) if now.ended else None, seconds=seconds, offered=inputs(prepared, now),
        due=timer_due(rehearsal.log, now), names=names, tried=tried(document, logs, kept),
    )  # fmt: skip


def _others(session: Session, rehearsal: Rehearsal) -> list[list[Row]]:
    """The logs of the latest other rehearsals of the same revision of the draft, or of the same version."""
    version = Rehearsal.settings["version_id"].as_string()
    same = (
        version.is_(None)
        if rehearsal.settings.get("version_id") is None
        else version == str(rehearsal.settings["version_id"])
    )
    query = (
        select(Rehearsal.log)
        .where(
            Rehearsal.flow_id == rehearsal.flow_id,
            Rehearsal.revision == rehearsal.revision,
            Rehearsal.id != rehearsal.id,
            same,
        )
        .order_by(Rehearsal.created_at.desc())
        .limit(MOST_OTHERS)
    )
    return list(session.scalars(query))


def _kept(session: Session, house: House, rehearsal: Rehearsal, flow: Flow) -> set[Exit]:
    """What the rehearsals that are kept with the document take."""
    if not flow.document.rehearsals:
        return set()
    client = session.get_one(Client, rehearsal.client_id)
    found = holding.verdicts(flow, setting_of(session, house, client, rehearsal.flow_id))
    return {exit_ for one in found if one.went for exit_ in taken(one.went.run.log)}


def _latest(log: list[Row], now: state.State) -> list[Row]:
    """The commands of the last event; where it gave none, what is still heard or waited for, as after a key during a notice."""
    if not log or log[-1]["commands"] or now.ended:
        return log[-1]["commands"] if log else []
    return [
        one
        for entry in log
        for one in entry["commands"]
        if one["id"] == now.awaiting and one["type"] in ("play", "listen", "record")
    ]


def _with_sound(house: House, command: Row) -> Row:
    """A command whose sounds are made by now, with their true length."""
    return speech.with_sounds(house, command) if command["type"] == "play" else command


def _legs(flow: Flow, now: state.State, log: list[Row]) -> list[Leg]:
    here: Any = flow.steps.get(now.at)
    if now.ring is None or here is None:
        return []
    rings = {one["id"]: one for entry in log for one in entry["commands"] if one["type"] == "ring"}
    return [
        Leg(
            leg.command, leg.rung.name if leg.rung else here.to[leg.destination].name, rings[leg.command]["number"], rings[leg.command]["seconds"],
            leg.status == "picked_up", here.accept.key if here.accept else "", here.machine_detection,
        )
        for leg in now.ring.legs
    ]  # fmt: skip
