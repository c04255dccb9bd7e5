"""What is set of one number: its name, whisper, fail-safe and flow, changed together or not at all."""

from dataclasses import asdict, dataclass
from typing import Any

from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.numbers import naming, numbering
from ...store.agency import Client
from ...store.numbers import TrackingNumber
from ..agency.access import Actor, allow, note
from ..house import meanwhile
from ..house.house import House
from ..house.problems import Problem, Problems, Row
from ..house.views import TrackingNumberView
from . import fail_safes
from .numbers import LONGEST_WHISPER, own_flow, own_number, read_fail_safe

FIELD_NAMES = {"name": "the name", "whisper": "the whisper", "fail_safe": "the fail-safe", "flow": "the flow"}


@dataclass(frozen=True, slots=True)
class NumberForm:
    """What is typed of a number; None leaves a field as it is, an empty text or 0 clears it. `fail_safe` is the destination
    that the carrier uses when Vokari does not answer (empty: the client's), `flow` an id."""

    name: str | None = None
    whisper: str | None = None
    fail_safe: str | None = None
    flow: int | None = None


def form_of(number: TrackingNumber | TrackingNumberView) -> NumberForm:
    """What is set of a number as it stands."""
    return NumberForm(number.name, number.whisper, number.fail_safe, number.flow_id or 0)


def keep(
    house: House, actor: Actor, client_id: int, number_id: int, form: NumberForm, was: Row | None = None
) -> Problems:
    """Sets what was typed of a number; `was` are the fields that the form was made of. The carrier is told of another
    fail-safe once this is committed."""
    try:
        with house.begin() as session:
            client = allow(session, actor, client_id, "work", changing=True)
            number = own_number(session, client_id, number_id)
            typed = _read(form, client, number)
            if isinstance(typed, list):
                return typed
            fields = meanwhile.laid(typed, was, asdict(form_of(number)), FIELD_NAMES, keys=("flow",))
            if isinstance(fields, list):
                return fields
            said = _set(session, client_id, number, fields)
            if said:
                shown = numbering.shown(number.e164, client.country)
                note(session, house, actor, client_id, f"{shown}: changed {', '.join(said)}")
    except IntegrityError:
        return [Problem("name", "Another number of this client has this name already.")]
    return []


def _read(form: NumberForm, client: Client, number: TrackingNumber) -> dict[str, Any] | Problems:
    """The fields that were typed, as they are kept."""
    typed = {field: value for field, value in asdict(form).items() if value is not None}
    typed |= {field: " ".join(typed[field].split()) for field in ("name", "whisper") if field in typed}
    problems = []
    if len(typed.get("name", "")) > naming.LONGEST:
        problems.append(Problem("name", f"At most {naming.LONGEST} letters."))
    if len(typed.get("whisper", "")) > LONGEST_WHISPER:
        problems.append(Problem("whisper", f"At most {LONGEST_WHISPER} letters, or the caller waits too long."))
    if "fail_safe" in typed:
        read = read_fail_safe(typed["fail_safe"], client, [number.e164])
        if isinstance(read, Problem):
            problems.append(read)
        else:
            typed["fail_safe"] = read
    return problems or typed


def _set(session: Session, client_id: int, number: TrackingNumber, fields: Row) -> list[str]:
    """Sets the fields of a locked number and says which were others."""
    now = asdict(form_of(number))
    changed = {field: value for field, value in fields.items() if value != now[field]}
    said = [FIELD_NAMES[field] for field in changed]
    if "flow" in changed:
        flow = own_flow(session, client_id, changed["flow"] or None)
        number.flow_id = flow.id if flow else None
        said[said.index(FIELD_NAMES["flow"])] = f"the flow to {flow.name if flow else 'none'}"
    if "fail_safe" in changed:
        fail_safes.put(session, number, changed["fail_safe"])
    number.name, number.whisper = changed.get("name", number.name), changed.get("whisper", number.whisper)
    session.flush()
    return said
