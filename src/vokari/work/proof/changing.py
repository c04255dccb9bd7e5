"""What changes for callers: between two versions of a flow, and by a saved change of hours, people or teams; worked out by the worker, once."""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from ...core.flows.conditions.base import Names
from ...core.flows.model.document import FlowDocument
from ...core.flows.shown.reasons import fact_as_case
from ...core.hours.document import Hours
from ...core.hours.timetable import Timetable
from ...core.people import uses
from ...core.people.directory import Person, Team
from ...core.proof.changes import changes
from ...core.proof.sentences import sentences
from ...core.proof.world import AHEAD
from ...core.proof.world import Client as Known
from ...store.agency import Client
from ...store.edits import RowEdit
from ...store.flows import CallFlow
from ...store.hours import HoursSet
from ...store.people import PersonRow, TeamRow
from ...store.proofs import Comparison
from ..agency.access import Actor, NotFound, allow
from ..agency.mailboxes import boxes_of
from ..flows.naming import names_of
from ..flows.open_drafts import as_spoken, own_flow
from ..flows.versions import own_version
from ..flows.within import inner_live, other_flows
from ..hours.ready import shared_exceptions
from ..house import apart, jobs, open_pages
from ..house.house import House
from ..house.problems import Problem, Row
from ..house.views import CallFlowView
from ..numbers.sources import sources_of
from ..people.ringers import callee_names
from .documents import as_rows, from_rows
from .proving import AGAIN, LIMITS, stamp_of
from .walking import MOST, SHAPE
from .worlds import known

DRAFT = 0
"""Stands for the draft where versions have their ids."""
MOST_TOLD = 40
"""Changes that are told; the rest is counted."""
ROWS = {"hours": HoursSet, "person": PersonRow, "team": TeamRow}
"""The kinds of rows whose changes are told, by their names in the log."""


@dataclass(frozen=True, slots=True)
class Told:
    """What changes, as pages show it; None before it is worked out. Not `current`: it is of an earlier draft, or of the client as it was."""

    current: bool
    document: Row | None


def of_versions(older: int, newer: int) -> str:
    """Two versions by id, as what is compared."""
    return f"{older}:{newer}"


def of_edit(of: str, row_id: int, seq: int) -> str:
    """An entry of the log of a row, as what is compared."""
    return f"{of}:{row_id}:{seq}"


def told(house: House, actor: Actor, client_id: int, flow_id: int, what: str) -> Told:
    """What changes for callers of a flow; what is missing is asked for. Raises NotFound for what is none of this client's."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        flow = own_flow(session, client_id, flow_id)
        sides = _Sides(session, house, client, flow)
        sides.check(what)
        kept, now = session.get(Comparison, (flow_id, what)), house.now()
        wanted = sides.stamp(what)
        current = kept is not None and kept.of == wanted
        if not current and not (kept and kept.asked == wanted and kept.asked_at and now - kept.asked_at < AGAIN):
            _ask(session, client, flow, what, wanted, now)
        return Told(current, dict(kept.document) if kept and kept.document else None)


def _ask(session: Session, client: Client, flow: CallFlow, what: str, of: str, now: datetime) -> None:
    asked = {"asked": of, "asked_at": now}
    ids = {"flow_id": flow.id, "what": what, "agency_id": client.agency_id, "client_id": client.id}
    new = insert(Comparison).values(**ids, of="", document={}, **asked)
    session.execute(new.on_conflict_do_update(index_elements=["flow_id", "what"], set_=asked))
    jobs.defer(session, "tell_changes", lock=f"changes-{flow.id}", flow_id=flow.id, what=what, of=of)


def tell(house: House, flow_id: int, what: str, of: str) -> None:
    """Works out what changes and keeps it, unless it is of what is no more."""
    now = house.now()
    with house.begin() as session:
        flow = session.get(CallFlow, flow_id)
        if flow is None or flow.removed_at is not None:
            return
        client = session.get_one(Client, flow.client_id)
        sides = _Sides(session, house, client, flow)
        if sides.stamp(what) != of:
            return
        before, after = sides.of(what)
        called = {one.key: one.name for one in boxes_of(session, client.id)}
        called |= {one.key: one.name for one in sources_of(session, client.id)}
        names = names_of(session, house, client)
    found = apart.followed(_worked_out, before, after, now, called, names, limits=LIMITS, stops=lambda: False)
    if isinstance(found, Problem) or found is None:
        found = {"changes": [], "more": 0, "unwalked": [found.sentence if found else "it took too long"]}
    with house.begin() as session:
        kept = session.get(Comparison, (flow_id, what), with_for_update=True)
        if kept is None or kept.asked != of:
            return
        kept.of, kept.made_at, kept.document, kept.asked, kept.asked_at = of, now, found, "", None
        open_pages.flow_proven(session, client.id, flow_id, flow.revision)


Side = tuple[Row, dict[str, Row], Known]
"""A document with those that it continues in, as rows, and the client."""


class _Sides:
    """Finds what is compared."""

    def __init__(self, session: Session, house: House, client: Client, flow: CallFlow) -> None:
        self.session, self.house, self.client, self.flow = session, house, client, flow

    def stamp(self, what: str) -> str:
        """What tells one state of it from another: the draft's revision and the client's world where the draft is compared."""
        parts = what.split(":")
        if len(parts) == 2 and str(DRAFT) in parts:
            return f"{SHAPE}:{self.flow.revision}:{stamp_of(self.session, self.client)}"
        return f"{SHAPE}:{self.flow.live_version_id if len(parts) == 3 else ''}"

    def check(self, what: str) -> None:
        """Raises NotFound for what is none of this flow's, or of its client's."""
        parts = what.split(":")
        if len(parts) == 2 and all(one.isdigit() for one in parts):
            for one in parts:
                if int(one) != DRAFT:
                    own_version(self.session, self.flow, int(one))
        elif len(parts) == 3 and all(one.isdigit() for one in parts[1:]):
            edit_of(self.session, self.client.id, parts[0], int(parts[1]), int(parts[2]))
        else:
            raise NotFound

    def of(self, what: str) -> tuple[Side, Side]:
        """Before and after of what was checked."""
        world = known(self.session, self.house, self.client, self.flow.id, self.house.now())
        parts = what.split(":")
        if len(parts) == 2:
            older, newer = (self._side(self._document(int(one)), world) for one in parts)
            return older, newer
        document = self._document(self.flow.live_version_id or DRAFT)
        edit, key = edit_of(self.session, self.client.id, parts[0], int(parts[1]), int(parts[2]))
        before, after = (
            self._side(document, self._with(world, edit.of, key, row)) for row in (edit.before, edit.after)
        )
        return before, after

    def _document(self, version_id: int) -> FlowDocument:
        raw = own_version(self.session, self.flow, version_id).document if version_id != DRAFT else self.flow.draft
        document = FlowDocument.model_validate(raw)
        return as_spoken(self.session, self.house, self.client, document) if version_id == DRAFT else document

    def _side(self, document: FlowDocument, world: Known) -> Side:
        shown = uses.named(document, callee_names(self.session, self.client.id))
        rows, inner = as_rows(shown, inner_live(document, other_flows(self.session, self.house, self.client.id)))
        return rows, inner, world

    def _with(self, world: Known, of: str, key: str, row: Row) -> Known:
        """The client with one of its rows as the log has it."""
        if of == "hours":
            hours = Hours.model_validate(row["document"])
            zone = ZoneInfo(hours.time_zone or self.client.time_zone)
            table = Timetable(hours, zone, shared_exceptions(self.session, row["lists"]))
            return replace(world, hours={**world.hours, key: table})
        if of == "person":
            return replace(world, people={**world.people, key: Person.model_validate(row["document"])})
        return replace(world, teams={**world.teams, key: Team.model_validate(row["document"])})


def edit_of(session: Session, client_id: int, of: str, row_id: int, seq: int) -> tuple[RowEdit, str]:
    """An entry of the log of a row of a client, and the key of the row. Raises NotFound for any other, and for one that removed the row or brought it back."""
    row: Any = session.get(ROWS[of], row_id) if of in ROWS else None
    edit = session.get(RowEdit, (of, row_id, seq)) if row is not None and row.client_id == client_id else None
    if row is None or edit is None or "document" not in edit.before or "document" not in edit.after:
        raise NotFound
    return edit, str(row.key)


@dataclass(frozen=True, slots=True)
class Touched:
    """A saved change of hours, people or teams (see `of_edit`): of which, in words, and when; and the live flows of the client."""

    what: str
    name: str
    words: str
    at: datetime
    flows: list[CallFlowView]


def touched(house: House, actor: Actor, client_id: int, of: str, row_id: int) -> Touched:
    """The latest change of a row, with the flows for whose callers it can matter. Raises NotFound where nothing was changed yet."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        number = session.scalar(select(func.max(RowEdit.seq)).where(RowEdit.of == of, RowEdit.row_id == row_id))
        edit, _ = edit_of(session, client_id, of, row_id, number or 0)
        row: Any = session.get(ROWS[of], row_id)
        live = select(CallFlow).where(
            CallFlow.client_id == client_id, CallFlow.live_version_id.is_not(None), CallFlow.removed_at.is_(None)
        )
        flows = [CallFlowView.of(one) for one in session.scalars(live.order_by(CallFlow.id))]
        return Touched(of_edit(of, row_id, edit.seq), row.name, edit.words, edit.at, flows)


def _worked_out(before: Side, after: Side, now: datetime, called: dict[str, str], names: Names) -> Row:
    """What changes, as it is kept. Runs in a process of its own."""
    sides = [(from_rows(raw, inner), world) for raw, inner, world in (before, after)]
    found = changes(sides[0], sides[1], now, now + AHEAD, called, most=MOST)
    told = sentences(found, lambda asked, answer: fact_as_case(asked, answer, names))
    return {
        "changes": [
            {"sentence": one.text, "parts": one.parts, "step": one.step} for one in told[:MOST_TOLD]
        ],
        "more": max(0, len(told) - MOST_TOLD),
        "unwalked": found.abreast.unwalked,
    }  # fmt: skip
