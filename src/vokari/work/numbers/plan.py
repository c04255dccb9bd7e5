"""The plan of a client: every lead source with its numbers, what each number brings, and where something is missing."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import Integer, cast, func, select
from sqlalchemy.orm import Session

from ...core.calls.fates import FATES
from ...core.numbers import naming, numbering, silence
from ...core.numbers.silence import Silence
from ...store.agency import Client
from ...store.calls import CallDay
from ...store.flows import CallFlow, FlowVersion
from ..agency.access import Actor, allow
from ..house.house import House
from ..house.views import ClientView, FlowNameView, LeadSourceView
from .numbers import NumberLine, flow_names, lines, naming_facts, untold
from .sources import sources_of

DAYS = 30
BAR_WIDTH = 60
PAST_DAYS = 120
"""How far back a number's own past is looked at to judge its silence."""

NEVER_WITHIN = timedelta(days=7)
"""A number that had no source for so long since it was taken was never assigned."""

LACKS: dict[str, str] = {
    "source": "no lead source", "flow": "no live flow", "fail_safe": "no fail-safe", "name": "off-pattern name",
    "silent": "gone quiet", "planned": "change planned",
}  # fmt: skip
"""What the plan can be narrowed to."""

SORTS = ("source", "number", "place", "flow", "since", "calls", "answered", "lost", "last", "rent")


@dataclass(frozen=True, slots=True)
class Asked:
    """How the plan is asked for: a few letters or digits, a state, a flow, what is lacking, and the order."""

    text: str = ""
    state: str = ""
    flow_id: int | None = None
    lacks: str = ""
    sort: str = ""
    down: bool = False


@dataclass(frozen=True, slots=True)
class KeySource:
    """A key or extension of a number's live flow that states a lead source of its own."""

    keys: str
    name: str
    source: LeadSourceView


@dataclass(slots=True)
class PlanLine:
    """A number as the plan shows it. `by_fate` counts 30 days; `last` is the day of the last call."""

    line: NumberLine
    by_fate: dict[str, int] = field(default_factory=dict)
    last: date | None = None
    days_silent: int | None = None
    silent: Silence | None = None
    keys: list[KeySource] = field(default_factory=list)
    fail_safe: str = ""
    untold: str = ""
    lacks: set[str] = field(default_factory=set)
    suggested_name: str = ""

    @property
    def calls(self) -> int:
        return sum(self.by_fate.values())

    @property
    def bar(self) -> list[tuple[str, float, float]]:
        """The calls by fate as parts of a bar: fate, left edge and width in pixels."""
        found: list[tuple[str, float, float]] = []
        left = 0.0
        for fate in FATES:
            width = round(BAR_WIDTH * self.by_fate.get(fate, 0) / max(self.calls, 1), 1)
            if width:
                found.append((fate, round(left, 1), width))
            left += width
        return found

    @property
    def since(self) -> datetime:
        return self.line.now.since if self.line.now else self.line.number.taken_at

    @property
    def source(self) -> LeadSourceView | None:
        """Who has it now; of a resting number, who had it last."""
        out_of_use = self.line.number.state in ("resting", "released")
        holding = self.line.now or (self.line.last if out_of_use else None)
        return holding.source if holding else None


@dataclass(frozen=True, slots=True)
class Plan:
    """A client's plan: its numbers in the order asked for, the sources that have none, and how many there are in all."""

    client: ClientView
    numbers: list[PlanLine]
    without_number: list[LeadSourceView]
    sources: list[LeadSourceView]
    flows: list[FlowNameView]
    whole: int


def view(house: House, actor: Actor, client_id: int, asked: Asked | None = None) -> Plan:
    """The plan, narrowed and ordered as asked."""
    asked = asked or Asked()
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        sources = sources_of(session, client_id)
        flows = sorted(flow_names(session, client_id).values(), key=lambda flow: flow.name.lower())
        by_key = {source.key: source for source in sources}
        everything = plan_lines(session, house, client, by_key, released=asked.state == "released")
    held = {one.line.now.source.id for one in everything if one.line.now}
    stated = {key.source.id for one in everything for key in one.keys}
    planned = {one.line.planned.source.id for one in everything if one.line.planned}
    without = [one for one in sources if not one.extension and one.id not in held | stated | planned]
    found = [one for one in everything if _fits(one, asked)]
    if asked.text or asked.state or asked.flow_id or asked.lacks:
        words = asked.text.lower()
        without = [one for one in without if words and words in f"{one.name} {one.campaign} {one.medium}".lower()]
    return Plan(
        ClientView.of(client),
        _ordered(found, asked),
        without,
        sources,
        flows,
        len(everything),
    )


def plan_lines(
    session: Session, house: House, client: Client, by_key: dict[str, LeadSourceView], *, released: bool = False
) -> list[PlanLine]:
    """Every number of a client with what it brings; those that were released only when asked for."""
    found = {line.number.id: PlanLine(line) for line in lines(session, house, client.id, released=released)}
    today = house.now().astimezone(ZoneInfo(client.time_zone)).date()
    _tallies(session, client.id, today, found)
    keys = _keys(session, client.id, by_key)
    for one in found.values():
        number = one.line.number
        one.fail_safe = number.fail_safe or client.fail_safe
        one.untold = untold(number, client)
        one.keys = keys.get(number.flow_id or 0, [])
        facts = naming_facts(client, number, one.source)
        if number.state == "in_service" and naming.strays(number.name, client.naming_pattern, facts):
            one.suggested_name = naming.fill(client.naming_pattern, facts)
        one.lacks = _lacks(one)
    return list(found.values())


def _tallies(session: Session, client_id: int, today: date, found: dict[int, PlanLine]) -> None:
    """Calls of 30 days by fate, the last day with a call, and whether a silence since then is more than chance."""
    first = today - timedelta(days=PAST_DAYS)
    count, recent = func.sum(CallDay.calls), CallDay.day > today - timedelta(days=DAYS)
    rows = session.execute(
        select(
            CallDay.number_id,
            CallDay.fate,
            cast(count, Integer),
            cast(count.filter(recent), Integer),
            func.max(CallDay.day),
        )
        .where(CallDay.client_id == client_id, CallDay.day.between(first, today))
        .group_by(CallDay.number_id, CallDay.fate)
    )
    past: dict[int, int] = {}
    for number_id, fate, calls, lately, last in rows:
        one = found.get(number_id)
        if one is not None:
            if lately:
                one.by_fate[fate] = lately
            past[number_id] = past.get(number_id, 0) + calls
            one.last = max(one.last or last, last)
    for number_id, calls in past.items():
        one = found[number_id]
        assert one.last is not None
        one.days_silent = (today - one.last).days
        began = max(first, one.line.number.taken_at.date())
        one.silent = silence.judge(calls, (one.last - began).days + 1, one.days_silent)


def _keys(session: Session, client_id: int, by_key: dict[str, LeadSourceView]) -> dict[int, list[KeySource]]:
    """The keys that state a lead source, by the flow whose live version has them."""
    found: dict[int, list[KeySource]] = {}
    rows = session.execute(
        select(CallFlow.id, FlowVersion.document)
        .join(FlowVersion, FlowVersion.id == CallFlow.live_version_id)
        .where(CallFlow.of(client_id), func.cardinality(CallFlow.stated) > 0)
    )
    for flow_id, document in rows:
        stated = [
            KeySource(branch["keys"], branch.get("name", ""), by_key[branch["source"]])
            for branch in _branches(document)
            if branch.get("source") in by_key
        ]
        if stated:
            found[flow_id] = sorted(stated, key=lambda one: (len(one.keys), one.keys))
    return found


def _branches(document: dict[str, Any]) -> Iterable[dict[str, Any]]:
    return (branch for step in document["steps"] if step["kind"] == "menu" for branch in step["branches"])


def _lacks(one: PlanLine) -> set[str]:
    in_service = one.line.number.state == "in_service"
    flow = one.line.flow
    found = {
        "source": in_service and one.source is None and one.line.planned is None,
        "flow": in_service and (flow is None or flow.live_version_id is None),
        "fail_safe": in_service and not one.fail_safe,
        "name": bool(one.suggested_name),
        "silent": in_service and one.silent is not None,
        "planned": one.line.planned is not None,
    }
    return {name for name, holds in found.items() if holds}


def _fits(one: PlanLine, asked: Asked) -> bool:
    number = one.line.number
    if asked.state and number.state != asked.state:
        return False
    if asked.flow_id is not None and (number.flow_id or 0) != asked.flow_id:
        return False
    if asked.lacks and asked.lacks not in one.lacks:
        return False
    text = " ".join(asked.text.lower().split())
    if not text:
        return True
    source = one.source
    words = [number.name, number.place, source.name if source else "", source.campaign if source else ""]
    words += [source.placement if source else "", one.line.flow.name if one.line.flow else ""]
    words += [key.source.name for key in one.keys]
    return any(text in word.lower() for word in words) or numbering.matches(number.e164, text)


def _ordered(found: list[PlanLine], asked: Asked) -> list[PlanLine]:
    """By lead source, online first, unless a column is asked for."""
    by_source = sorted(found, key=_by_source)
    if asked.sort not in SORTS or asked.sort == "source":
        return by_source[::-1] if asked.sort == "source" and asked.down else by_source

    def key(one: PlanLine) -> tuple[Any, ...]:
        number = one.line.number
        value: dict[str, Any] = {
            "number": number.e164, "place": number.place.lower(), "since": one.since, "calls": one.calls,
            "flow": one.line.flow.name.lower() if one.line.flow else "~", "rent": number.rent,
            "answered": one.by_fate.get("answered", 0), "lost": one.by_fate.get("lost", 0),
            "last": one.days_silent if one.days_silent is not None else PAST_DAYS,
        }  # fmt: skip
        return (value[asked.sort],)

    return sorted(by_source, key=key, reverse=asked.down)


def _by_source(one: PlanLine) -> tuple[Any, ...]:
    source = one.source
    if source is None or one.line.number.state != "in_service":
        return (2 if one.line.number.state == "in_service" else 3, "", one.line.number.e164)
    return (0 if source.online else 1, source.name.lower(), one.line.number.e164)
