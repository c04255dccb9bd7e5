"""Looking for free numbers at the carrier, and taking them."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from decimal import Decimal

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.numbers import memorable, numbering
from ...core.numbers.keypad import to_digits
from ...store.agency import Client
from ...store.numbers import Carrier, LeadSource, TrackingNumber
from ..agency.access import Actor, allow, note
from ..house.house import House
from ..house.ports import CarrierRefuses, FreeNumber
from ..house.problems import Problem, Problems, Refused, refused
from ..house.views import TrackingNumberView
from .assignments import give_first
from .numbers import CARRIER, given_names, own_flow
from .sources import own_source

MOST_LOOKED_AT = 2000
"""Free numbers that are ranked at most."""

SHOWN = 48
LONGEST_DIGITS = 10


@dataclass(frozen=True, slots=True)
class Wanted:
    """What numbers are looked for; empty fields fit all. `area_codes` may name several, with commas; `digits` may hold
    letters of the keypad; `pattern` is one of `memorable.KINDS`."""

    country: str = ""
    area_codes: str = ""
    place: str = ""
    kind: str = ""
    digits: str = ""
    at_end: bool = False
    pattern: str = ""


@dataclass(frozen=True, slots=True)
class Found:
    """A free number, with what makes it easy to remember."""

    free: FreeNumber
    score: int
    reasons: tuple[str, ...]


def search(house: House, actor: Actor, client_id: int, wanted: Wanted) -> list[Found] | Refused:
    """Free numbers that fit, the most memorable first."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
    return looked_up(house, wanted)


def looked_up(house: House, wanted: Wanted, *, most: int = SHOWN) -> list[Found] | Refused:
    """As `search`, for a use case that asked already who may."""
    codes = [one for one in wanted.area_codes.replace(";", ",").replace(" ", ",").split(",") if one]
    problems = [problem for code in codes for problem in _of_code(code, wanted.country)]
    word = "".join(one for one in wanted.digits if one.isalnum())
    digits = to_digits(word) if word else ""
    if digits is None or len(digits or "") > LONGEST_DIGITS:
        sentence = f"Look for up to {LONGEST_DIGITS} digits, or letters A to Z as they stand on the keypad."
        problems.append(Problem("digits", sentence))
    if wanted.pattern and wanted.pattern not in memorable.KINDS:
        problems.append(Problem("pattern", "There is no such pattern."))
    if problems:
        return Refused(problems)
    found: dict[str, FreeNumber] = {}
    try:
        for code in codes or [""]:
            offers = house.carrier.search(
                country=wanted.country, area_code=code, place=wanted.place.strip(), kind=wanted.kind,
                contains=digits or "", limit=MOST_LOOKED_AT,
            )  # fmt: skip
            found |= {offer.e164: offer for offer in offers}
    except CarrierRefuses as refusal:
        return refused("", refusal.sentence)
    ranked = [_ranked(offer, word if not word.isdigit() else "") for offer in found.values()]
    fitting = [one for one in ranked if _fits(one, digits or "", wanted)]
    return sorted(fitting, key=lambda one: (-one.score, one.free.e164))[:most]


def _of_code(code: str, country: str) -> list[Problem]:
    sentence = numbering.area_code_problem(code, country or "US")
    return [Problem("area_codes", sentence)] if sentence else []


def _ranked(offer: FreeNumber, word: str) -> Found:
    spelled = memorable.word_pattern(offer.e164, word) if word else None
    strong = [one for one in memorable.patterns(offer.e164) if one.weight >= memorable.WORTH_TELLING]
    reasons = ([spelled.reason] if spelled else []) + [one.reason for one in strong[:2]]
    return Found(offer, memorable.score(offer.e164) + (spelled.weight if spelled else 0), tuple(reasons))


def _fits(one: Found, digits: str, wanted: Wanted) -> bool:
    national = numbering.national_digits(one.free.e164)
    if digits and not (national.endswith(digits) if wanted.at_end else digits in national):
        return False
    kinds = {pattern.kind for pattern in memorable.patterns(one.free.e164) if pattern.weight >= memorable.WORTH_TELLING}
    return not wanted.pattern or wanted.pattern in kinds


def take(
    house: House, actor: Actor, client_id: int, e164: str, source_id: int | None, flow_id: int | None
) -> TrackingNumberView | Problems:
    """Takes a number from the carrier, gives it to a lead source from now on, and points it at a flow."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        own_source(session, client_id, source_id)
        own_flow(session, client_id, flow_id)
        held = in_use(session, client, [e164])
        if held:
            return [Problem("number", held[e164])]
    try:
        free = house.carrier.take(e164, fail_safe=client.fail_safe, key=f"take-{client_id}-{e164}")
    except CarrierRefuses as refusal:
        return [Problem("number", refusal.sentence)]
    try:
        with house.begin() as session:
            return TrackingNumberView.of(keep(session, house, actor, client, [Taken(free, source_id, flow_id)])[0])
    except IntegrityError:
        return [Problem("number", "Somebody took this number a moment ago. Choose another one.")]


def in_use(session: Session, client: Client, wanted: Collection[str]) -> dict[str, str]:
    """Why some of these numbers cannot be taken because somebody has them; whose they are, is told within the agency only."""
    held = session.execute(
        select(TrackingNumber.e164, Client.id, Client.agency_id, Client.name)
        .join(Client, Client.id == TrackingNumber.client_id)
        .where(TrackingNumber.e164.in_(wanted), TrackingNumber.state != "released")
    )
    found = {}
    for e164, client_id, agency_id, name in held:
        if client_id == client.id:
            found[e164] = "This client has this number already."
        elif agency_id == client.agency_id:
            found[e164] = f"{name} has this number already."
        else:
            found[e164] = "This number is in use already. Choose another one."
    return found


@dataclass(frozen=True, slots=True)
class Taken:
    """A number that the carrier gave, for a lead source (None: for none), pointed at a flow (None: at none)."""

    free: FreeNumber
    source_id: int | None
    flow_id: int | None


def keep(session: Session, house: House, actor: Actor, client: Client, taken: Sequence[Taken]) -> list[TrackingNumber]:
    """Writes down numbers that the carrier gave. Raises IntegrityError when somebody else's row was first."""
    carrier = session.scalars(select(Carrier).where(Carrier.name == CARRIER)).one()
    sources = {one.id: one for one in session.scalars(select(LeadSource).where(LeadSource.id.in_(_source_ids(taken))))}
    numbers = [
        TrackingNumber(
            agency_id=actor.agency_id, client_id=client.id, carrier_id=carrier.id, e164=one.free.e164,
            place=one.free.place, kind=one.free.kind, asked_for=list(one.free.asks), flow_id=one.flow_id, fail_safe="", fail_safe_told=client.fail_safe,
            name="", taken_at=house.now(), rent=Decimal(one.free.rent), set_up=Decimal(one.free.set_up),
            state="awaiting_documents" if one.free.asks else "in_service",
        )
        for one in taken
    ]  # fmt: skip
    names = given_names(session, client, numbers, sources, [one.source_id for one in taken])
    for number, name in zip(numbers, names, strict=True):
        number.name = name
    session.add_all(numbers)
    session.flush()
    for number, one in zip(numbers, taken, strict=True):
        if one.source_id:
            give_first(session, number, one.source_id, house.now())
        note(session, house, actor, client.id, f"took the number {numbering.shown(number.e164, client.country)}")
    session.flush()
    return numbers


def _source_ids(taken: Sequence[Taken]) -> set[int]:
    return {one.source_id for one in taken if one.source_id}
