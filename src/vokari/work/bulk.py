"""Changing many numbers together: a preview of what changes, one step to do it, and one to take it back."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ..core import naming, numbering
from ..store.agency import AuditEntry, Client
from ..store.numbers import LeadSource, TrackingNumber
from .access import Actor, NotFound, allow
from .assignments import RESTS, give_now, spans_of
from .house import CarrierRefuses, House, Problem, Problems
from .numbers import LONGEST_WHISPER, OUT_OF_USE, Holding, naming_facts, own_flow, own_number, read_fail_safe
from .sources import own_source

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
) -> list[Change] | Problems:
    """What would change; fields that hold the value already are left out."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        return _changes(session, house, client, number_ids, wanted)


def apply(
    house: House, actor: Actor, client_id: int, number_ids: Sequence[int], wanted: Wanted
) -> AuditEntry | Problems:
    """Changes all of them in one step, which the audit trail keeps and `undo` can take back."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        changes = _changes(session, house, client, number_ids, wanted)
        if changes and isinstance(changes[0], Problem):
            return [one for one in changes if isinstance(one, Problem)]
        made = [one for one in changes if isinstance(one, Change)]
        if not made:
            return [Problem("", "Nothing would change.")]
        refusal = _set_all(session, house, client, [(one.number_id, one.field, one.after) for one in made])
        if refusal:
            return [refusal]
        fields = sorted({FIELDS[change.field] for change in made})
        count = len({change.number_id for change in made})
        words = f"changed {' and '.join(fields)} of {count} {'number' if count == 1 else 'numbers'}"
        return _note(session, house, actor, client_id, words, [asdict(change) for change in made])


def undo(house: House, actor: Actor, client_id: int, entry_id: int) -> Problems:
    """Takes one such step back, where every number is still as the step left it."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        entry = session.get(AuditEntry, entry_id, with_for_update=True)
        if entry is None or entry.client_id != client_id or "numbers" not in entry.detail:
            raise NotFound
        if entry.detail.get("undone"):
            return [Problem("", "This was taken back already.")]
        for raw in entry.detail["numbers"]:
            number = own_number(session, client_id, raw["number_id"])
            if _value(session, house, number, raw["field"]) != raw["after"]:
                shown = numbering.shown(number.e164, client.country)
                return [Problem("", f"{shown} was changed since, so this cannot be taken back.")]
        back = [(raw["number_id"], raw["field"], raw["before"]) for raw in entry.detail["numbers"]]
        refusal = _set_all(session, house, client, back)
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


def _changes(
    session: Session, house: House, client: Client, number_ids: Sequence[int], wanted: Wanted
) -> list[Change] | Problems:
    if not number_ids:
        return [Problem("numbers", "Choose at least one number.")]
    if len(set(number_ids)) > MOST:
        return [Problem("numbers", f"At most {MOST} numbers at once.")]
    numbers = [own_number(session, client.id, one) for one in sorted(set(number_ids))]
    values: dict[str, Any] = {name: value for name, value in asdict(wanted).items() if value is not None}
    if not values:
        return [Problem("", "Choose what to set.")]
    if "source" in values and "placement" in values:
        sentence = "A placement belongs to the lead source: set it in a second step."
        return [Problem("placement", sentence)]
    if values.get("source"):
        own_source(session, client.id, values["source"])
    if values.get("flow"):
        own_flow(session, client.id, values["flow"])
    if "fail_safe" in values:
        read = read_fail_safe(values["fail_safe"], client, [number.e164 for number in numbers])
        if isinstance(read, Problem):
            return [read]
        values["fail_safe"] = read
    for name, most in (("whisper", LONGEST_WHISPER), ("placement", 120)):
        values |= {name: " ".join(values[name].split())} if name in values else {}
        if len(values.get(name, "")) > most:
            return [Problem(name, f"At most {most} letters.")]
    if "name" in values and "source" in values:
        return [Problem("name", "A name follows the lead source: name the numbers in a second step.")]
    if values.get("source") and any(number.state == "resting" for number in numbers):
        return [Problem("source", RESTS)]
    names = _names(session, house, client, numbers) if "name" in values else {}
    found = []
    for number in numbers:
        for name, value in values.items():
            after = names[number.id] if name == "name" else value
            if name == "placement" and _holding(session, house, number) is None:
                shown = numbering.shown(number.e164, client.country)
                return [Problem("placement", f"{shown} has no lead source, so it has no placement.")]
            before = _value(session, house, number, name)
            if before != after:
                was, becomes = (_words(session, client, name, value) for value in (before, after))
                found.append(Change(number.id, number.e164, name, before, after, was, becomes))
    return found


def _names(session: Session, house: House, client: Client, numbers: Sequence[TrackingNumber]) -> dict[int, str]:
    """The names that the client's pattern gives, unlike each other and all others of the client."""
    ids = [number.id for number in numbers]
    query = select(TrackingNumber.name).where(
        TrackingNumber.client_id == client.id, TrackingNumber.id.not_in(ids), TrackingNumber.state.not_in(OUT_OF_USE)
    )
    holdings = {number.id: _holding(session, house, number) for number in numbers}
    facts = {
        number.id: naming_facts(client, number, held.source if held else None)
        for number in numbers
        for held in [holdings[number.id]]
    }
    filled = {number_id: naming.fill(client.naming_pattern, known) for number_id, known in facts.items()}
    found = {number.id: number.name for number in numbers if not filled[number.id]}
    taken = {*session.scalars(query), *found.values()}
    for number_id, name in filled.items():
        if name:
            found[number_id] = naming.unique(name, facts[number_id]["end"], taken)
            taken.add(found[number_id])
    return found


def _holding(session: Session, house: House, number: TrackingNumber) -> Holding | None:
    spans = spans_of(session, [number.id]).get(number.id, ())
    span = next((one for one in spans if one.covers(house.now())), None)
    source = session.get(LeadSource, span.source_id) if span else None
    return Holding(source, span.since, span.until) if span and source else None


def _value(session: Session, house: House, number: TrackingNumber, name: str) -> Any:
    match name:
        case "flow":
            return number.flow_id or 0
        case "whisper" | "fail_safe" | "name":
            return getattr(number, name)
    holding = _holding(session, house, number)
    if name == "source":
        return holding.source.id if holding else 0
    return holding.source.placement if holding else ""


def _set_all(session: Session, house: House, client: Client, values: Sequence[tuple[int, str, Any]]) -> Problem | None:
    """Sets all values or none: a refusal of the carrier takes back what was set before it."""
    try:
        with session.begin_nested():
            for number_id, name, _ in values:
                if name == "name":
                    own_number(session, client.id, number_id).name = ""
            session.flush()
            for number_id, name, value in values:
                _set(session, house, client, number_id, name, value)
    except CarrierRefuses as refusal:
        return Problem("fail_safe", refusal.sentence)
    except IntegrityError:
        return Problem("name", "Another number of this client got one of these names meanwhile.")
    return None


def _set(session: Session, house: House, client: Client, number_id: int, name: str, value: Any) -> None:
    number = own_number(session, client.id, number_id)
    match name:
        case "flow":
            number.flow_id = value or None
        case "whisper" | "name":
            setattr(number, name, value)
        case "source":
            give_now(session, house, number, value or None)
        case "placement":
            holding = _holding(session, house, number)
            if holding:
                holding.source.placement = value
        case "fail_safe":
            house.carrier.set_fail_safe(number.e164, value or client.fail_safe)
            number.fail_safe = value
    session.flush()


def _words(session: Session, client: Client, name: str, value: Any) -> str:
    if name == "source":
        source = session.get(LeadSource, value) if value else None
        return source.name if source else "none"
    if name == "flow":
        flow = own_flow(session, client.id, value or None)
        return flow.name if flow else "none"
    if name == "fail_safe":
        return numbering.shown(value, client.country) if value else "the client’s"
    return f"“{value}”" if value else "none"
