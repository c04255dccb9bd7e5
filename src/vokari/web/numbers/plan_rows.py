"""The rows of the plan as the page shows them: words made once, so that five hundred rows render quickly."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from ...core.calls.fates import FATE_NAMES, FATES
from ...core.numbers.numbering import shown
from ...work.numbers.plan import KeySource, Plan, PlanLine
from ..pages import day_words, moment


@dataclass(frozen=True, slots=True)
class PlanRow:
    """One number in words; a field that ends in `_wants` says that its words want attention."""

    id: int
    state: str
    group: str
    number: str
    name: str
    suggested_name: str
    source_id: int
    source: str
    source_wants: bool
    tags: str
    place: str
    flow_id: int
    mark: str
    flow: str
    flow_wants: bool
    not_live: bool
    no_fail_safe: bool
    untold: str
    since: str
    then: str
    calls: int
    bar: list[tuple[str, float, float]]
    bar_words: str
    last: str
    silence: str
    rent: str
    keys: list[KeySource]


def rows_of(plan: Plan, state_names: dict[str, str], now: datetime, most: int | None) -> list[PlanRow]:
    """The rows of a plan in its order, at most so many of them."""
    return [_row(one, plan, state_names, now) for one in plan.numbers[:most]]


def _row(one: PlanLine, plan: Plan, state_names: dict[str, str], now: datetime) -> PlanRow:
    number, source, flow, zone = one.line.number, one.source, one.line.flow, plan.client.time_zone
    in_use = number.state not in ("resting", "released")
    lead, wants = _lead(one, zone)
    path, path_wants = _path(one, zone, now)
    return PlanRow(
        id=number.id, state=number.state, group=_group(one, state_names), number=shown(number.e164, plan.client.country),
        name=number.name, suggested_name=one.suggested_name, source_id=source.id if source and in_use else 0, source=lead,
        source_wants=wants, tags=", ".join(_tags(one)), place="toll-free" if number.kind == "toll_free" else number.place,
        flow_id=flow.id if flow and in_use else 0, mark=flow.mark if flow else "", flow=path, flow_wants=path_wants,
        not_live=bool(in_use and flow and flow.live_version_id is None), no_fail_safe="fail_safe" in one.lacks,
        untold=one.untold if in_use else "",
        since=day_words(one.since, zone, now), then=_then(one, zone, now), calls=one.calls, bar=one.bar,
        bar_words=", ".join(f"{one.by_fate[fate]} {FATE_NAMES[fate]}" for fate in FATES if one.by_fate.get(fate)),
        last=_last(one.days_silent), silence=one.silent.words if one.silent and "silent" in one.lacks else "",
        rent=f"${number.rent:.2f}" if number.rent else "included", keys=one.keys,
    )  # fmt: skip


def _group(one: PlanLine, state_names: dict[str, str]) -> str:
    if one.line.number.state != "in_service":
        return state_names[one.line.number.state].capitalize()
    if one.source is None:
        return "Without a lead source"
    return "Online" if one.source.online else "Offline"


def _lead(one: PlanLine, zone: str) -> tuple[str, bool]:
    if one.line.number.state in ("resting", "released"):
        return (f"was {one.source.name}" if one.source else "never given"), False
    if one.source:
        return one.source.name, False
    if one.line.planned:
        return f"{one.line.planned.source.name} from {moment(one.line.planned.since, zone)}", False
    return "no lead source", True


def _tags(one: PlanLine) -> Iterator[str]:
    if one.source:
        yield from (tag for tag in (one.source.medium, one.source.campaign, one.source.placement) if tag)


def _path(one: PlanLine, zone: str, now: datetime) -> tuple[str, bool]:
    number = one.line.number
    if number.state == "resting" and number.rest_until:
        return f"rests until {day_words(number.rest_until, zone, now)}", False
    if number.state == "released" and number.ended_at:
        return f"{number.ended_how} {day_words(number.ended_at, zone, now)}", False
    return (one.line.flow.name, False) if one.line.flow else ("no flow", True)


def _then(one: PlanLine, zone: str, now: datetime) -> str:
    if one.line.planned and one.source:
        return f"then {one.line.planned.source.name}, {day_words(one.line.planned.since, zone, now)}"
    if one.line.now and one.line.now.until:
        return f"until {day_words(one.line.now.until, zone, now)}"
    return ""


def _last(days: int | None) -> str:
    if days is None:
        return "none yet"
    return "today" if days == 0 else "1 day ago" if days == 1 else f"{days} days ago"
