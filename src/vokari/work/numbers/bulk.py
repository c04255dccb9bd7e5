"""Changing many numbers together: a preview of what changes, one step to do it, and one to take it back."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.numbers import naming, numbering
from ...store.agency import AuditEntry, Client
from ...store.flows import CallFlow
from ...store.numbers import LeadSource, TrackingNumber
from ..agency.access import Actor, NotFound, allow
from ..house.house import House
from ..house.problems import Problem, Problems, Refused, refused
from ..house.views import AuditEntryView, LeadSourceView
from . import fail_safes
from .assignments import RESTS, give_now, spans_of
from .numbers import LONGEST_WHISPER, OUT_OF_USE, Holding, naming_facts, read_fail_safe
from .sources import sources_of

MOST = 500
FIELDS = {
    "source": "lead source", "flow": "flow", "placement": "placement", "whisper": "whisper", "fail_safe": "fail-safe",
    "name": "name",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is to be set; None leaves a field as it is, an empty text or 0 clears it. A `name` that is not None names
    each number by the client's pattern."""

    source: int | None = None
    flow: int | None = None
    placement: str | None = None
    whisper: str | None = None
    fail_safe: str | None = None
    name: str | None = None


@dataclass(frozen=True, slots=True)
class Change:
    """One field of one number: its raw values for the log, and both in words."""

    number_id: int
    e164: str
    field: str
    before: Any
    after: Any
    was: str
    becomes: str


def preview(
    house: House, actor: Actor, client_id: int, number_ids: Sequence[int], wanted: Wanted
) -> list[Change] | Refused:
    """What would change; fields that hold the value already are left out."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        return _changes(session, house, client, number_ids, wanted)


def apply(
    house: House, actor: Actor, client_id: int, number_ids: Sequence[int], wanted: Wanted
) -> AuditEntryView | Problems:
    """Changes all of them in one step, which the audit trail keeps and `undo` can take back."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        changes = _changes(session, house, client, number_ids, wanted, lock=True)
        if isinstance(changes, Refused):
            return changes.problems
        if not changes:
            return [Problem("", "Nothing would change.")]
        looked = _look(session, house, client, number_ids, lock=True)
        refusal = _set_all(session, house, looked, [(one.number_id, one.field, one.after) for one in changes])
        if refusal:
            return [refusal]
        fields = sorted({FIELDS[change.field] for change in changes})
        count = len({change.number_id for change in changes})
        words = f"changed {' and '.join(fields)} of {count} {'number' if count == 1 else 'numbers'}"
        return AuditEntryView.of(_note(session, house, actor, client_id, words, [asdict(change) for change in changes]))


def undo(house: House, actor: Actor, client_id: int, entry_id: int) -> Problems:
    """Takes one such step back, where every number is still as the step left it."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        entry = session.get(AuditEntry, entry_id, with_for_update=True)
        if entry is None or entry.client_id != client_id or "numbers" not in entry.detail:
            raise NotFound
        if entry.detail.get("undone"):
            return [Problem("", "This was taken back already.")]
        done = entry.detail["numbers"]
        looked = _look(session, house, client, [raw["number_id"] for raw in done], lock=True)
        numbers = {number.id: number for number in looked.numbers}
        for raw in done:
            number = numbers[raw["number_id"]]
            if looked.value(number, raw["field"]) != raw["after"]:
                return [Problem("", f"{looked.shown(number)} was changed since, so this cannot be taken back.")]
        back = [(raw["number_id"], raw["field"], raw["before"]) for raw in done]
        refusal = _set_all(session, house, looked, back)
        if refusal:
            return [refusal]
        entry.detail = {**entry.detail, "undone": True}
        _note(session, house, actor, client_id, f"took back: {entry.words}", [])
    return []


def _note(
    session: Session, house: House, actor: Actor, client_id: int, words: str, changes: list[dict[str, Any]]
) -> AuditEntry:
    entry = AuditEntry(agency_id=actor.agency_id, client_id=client_id, user_id=actor.user_id, at=house.now())
    entry.words, entry.detail = words, {"numbers": changes} if changes else {}
    session.add(entry)
    session.flush()
    return entry


@dataclass(frozen=True, slots=True)
class _Looked:
    """The chosen numbers, who holds each now, and what the client's sources and flows are called: read in a fixed number of
    statements, however many numbers there are."""

    client: Client
    numbers: list[TrackingNumber]
    holders: dict[int, Holding]
    sources: dict[int, LeadSourceView]
    flows: dict[int, str]

    def value(self, number: TrackingNumber, name: str) -> Any:
        if name == "flow":
            return number.flow_id or 0
        if name in ("whisper", "fail_safe", "name"):
            return getattr(number, name)
        held = self.holders.get(number.id)
        if name == "source":
            return held.source.id if held else 0
        return held.source.placement if held else ""

    def words(self, name: str, value: Any) -> str:
        if name in ("source", "flow"):
            source = self.sources.get(value)
            return (source.name if source else "none") if name == "source" else self.flows.get(value, "none")
        if name == "fail_safe":
            return numbering.shown(value, self.client.country) if value else "the client’s"
        return f"“{value}”" if value else "none"

    def shown(self, number: TrackingNumber) -> str:
        return numbering.shown(number.e164, self.client.country)


def _look(session: Session, house: House, client: Client, number_ids: Sequence[int], *, lock: bool) -> _Looked:
    """Raises NotFound when one of the numbers is not this client's, or released."""
    wanted = sorted(set(number_ids))
    query = (
        select(TrackingNumber)
        .where(
            TrackingNumber.id.in_(wanted), TrackingNumber.client_id == client.id,
            TrackingNumber.state.not_in(OUT_OF_USE),
        )
        .order_by(TrackingNumber.id)
    )  # fmt: skip
    numbers = list(session.scalars(query.with_for_update() if lock else query))
    if len(numbers) < len(wanted):
        raise NotFound
    sources = {one.id: one for one in sources_of(session, client.id)}
    now = house.now()
    holders = {}
    for number_id, spans in spans_of(session, wanted).items():
        span = next((one for one in spans if one.covers(now)), None)
        if span is not None and span.source_id in sources:
            holders[number_id] = Holding(sources[span.source_id], span.since, span.until)
    flows = session.execute(select(CallFlow.id, CallFlow.name).where(CallFlow.of(client.id)))
    return _Looked(client, numbers, holders, sources, {row.id: row.name for row in flows})


def _changes(
    session: Session, house: House, client: Client, number_ids: Sequence[int], wanted: Wanted, *, lock: bool = False
) -> list[Change] | Refused:
    if not number_ids:
        return refused("numbers", "Choose at least one number.")
    if len(set(number_ids)) > MOST:
        return refused("numbers", f"At most {MOST} numbers at once.")
    looked = _look(session, house, client, number_ids, lock=lock)
    values: dict[str, Any] = {name: value for name, value in asdict(wanted).items() if value is not None}
    if not values:
        return refused("", "Choose what to set.")
    if "source" in values and "placement" in values:
        sentence = "A placement belongs to the lead source: set it in a second step."
        return refused("placement", sentence)
    if any(values.get(name) and values[name] not in getattr(looked, f"{name}s") for name in ("source", "flow")):
        raise NotFound
    if "fail_safe" in values:
        read = read_fail_safe(values["fail_safe"], client, [number.e164 for number in looked.numbers])
        if isinstance(read, Problem):
            return Refused([read])
        values["fail_safe"] = read
    for name, most in (("whisper", LONGEST_WHISPER), ("placement", 120)):
        values |= {name: " ".join(values[name].split())} if name in values else {}
        if len(values.get(name, "")) > most:
            return refused(name, f"At most {most} letters.")
    if "name" in values and "source" in values:
        return refused("name", "A name follows the lead source: name the numbers in a second step.")
    if values.get("source") and any(number.state == "resting" for number in looked.numbers):
        return refused("source", RESTS)
    unheld = [number for number in looked.numbers if number.id not in looked.holders]
    if "placement" in values and unheld:
        return refused("placement", f"{looked.shown(unheld[0])} has no lead source, so it has no placement.")
    names = _names(session, looked) if "name" in values else {}
    found = []
    for number in looked.numbers:
        for name, value in values.items():
            after = names[number.id] if name == "name" else value
            before = looked.value(number, name)
            if before != after:
                was, becomes = looked.words(name, before), looked.words(name, after)
                found.append(Change(number.id, number.e164, name, before, after, was, becomes))
    return found


def _names(session: Session, looked: _Looked) -> dict[int, str]:
    """The names that the client's pattern gives, unlike each other and all others of the client."""
    ids = [number.id for number in looked.numbers]
    query = select(TrackingNumber.name).where(
        TrackingNumber.client_id == looked.client.id, TrackingNumber.id.not_in(ids),
        TrackingNumber.state.not_in(OUT_OF_USE),
    )  # fmt: skip
    held = {number.id: looked.holders.get(number.id) for number in looked.numbers}
    facts = {
        number.id: naming_facts(looked.client, number, holding.source if holding else None)
        for number in looked.numbers
        for holding in [held[number.id]]
    }
    filled = {number_id: naming.fill(looked.client.naming_pattern, known) for number_id, known in facts.items()}
    found = {number.id: number.name for number in looked.numbers if not filled[number.id]}
    taken = {*session.scalars(query), *found.values()}
    for number_id, name in filled.items():
        if name:
            found[number_id] = naming.unique(name, facts[number_id]["end"], taken)
            taken.add(found[number_id])
    return found


def _set_all(session: Session, house: House, looked: _Looked, values: Sequence[tuple[int, str, Any]]) -> Problem | None:
    """Sets all values of locked numbers, or none of them. The carrier is told of fail-safes once this is committed."""
    numbers = {number.id: number for number in looked.numbers}
    try:
        with session.begin_nested():
            for number_id, name, _ in values:
                if name == "name":
                    numbers[number_id].name = ""
            session.flush()
            for number_id, name, value in values:
                _set(session, house, looked, numbers[number_id], name, value)
            session.flush()
    except IntegrityError:
        return Problem("name", "Another number of this client got one of these names meanwhile.")
    return None


def _set(session: Session, house: House, looked: _Looked, number: TrackingNumber, name: str, value: Any) -> None:
    match name:
        case "flow":
            number.flow_id = value or None
        case "whisper" | "name":
            setattr(number, name, value)
        case "source":
            give_now(session, house, number, value or None)
        case "placement":
            held = looked.holders.get(number.id)
            if held:
                session.get_one(LeadSource, held.source.id).placement = value
        case "fail_safe":
            fail_safes.put(session, number, value)
