"""What is wrong with the hours in a flow: exits that no caller can take, times in which nobody could be rung."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from ..flows.model.conditions import CLOSED, leaves, read_range, sole_hours, uses
from ..flows.model.document import FlowDocument
from ..flows.model.steps import KIND_NAMES, Junction, Ring
from ..flows.model.walks import reached_from
from ..hours.cover import cover
from ..hours.timetable import Timetable

AHEAD = timedelta(days=7)
SHORTEST_GAP = timedelta(minutes=5)
NAMED_GAPS = 2


@dataclass(frozen=True, slots=True)
class HoursFinding:
    """A finding about hours: as any other, a kind, a sentence, the step, the exit and its weight."""

    kind: str
    sentence: str
    step: str
    exit: str = ""
    weight: Literal["stops", "asks"] = "stops"


def findings(document: FlowDocument, hours: Mapping[str, Timetable], now: datetime | None) -> Iterator[HoursFinding]:
    """All findings about hours. Without a moment, the coming week is not looked at."""
    for use in uses(document):
        if use.hours not in hours and use.phone:
            sentence = f"{_called(use.step)} rings {use.phone} by hours that are gone: choose other hours or none."
            yield HoursFinding("no_hours", sentence, use.step.id)
    for step in document.steps:
        if isinstance(step, Junction):
            yield from _of_junction(step, hours, now)
    if now is not None:
        yield from _gaps(document, hours, now)


def _called(step: Junction | Ring | object) -> str:
    name, kind = getattr(step, "name", ""), getattr(step, "kind", "")
    return f"“{name}”" if name else f"the {KIND_NAMES[kind]} without a name"


def _of_junction(step: Junction, hours: Mapping[str, Timetable], now: datetime | None) -> Iterator[HoursFinding]:
    if not step.branches:
        yield HoursFinding("no_branches", f"{_called(step)} sorts by nothing: choose hours or dates.", step.id)
    seen: set[tuple[str, str]] = set()
    for branch in step.branches:
        for leaf in leaves(branch.when):
            if leaf.test in ("period", "exception"):
                table = hours.get(leaf.of or "")
                if table is None:
                    sentence = f"{_called(step)} asks for hours that are gone: choose other hours."
                    yield HoursFinding("no_hours", sentence, step.id, branch.id)
                    continue
                gone = [one for one in leaf.any_of if one != CLOSED and table.hours.period(one) is None]
                if leaf.test == "period" and gone:
                    sentence = f"{_called(step)} asks for a period that {table.hours.name} no longer has: nobody takes that exit."
                    yield HoursFinding("gone_period", sentence, step.id, branch.id, "asks")
            elif leaf.test == "dates" and now is not None:
                ranges = [read_range(text) for text in leaf.any_of]
                if not any(pair and pair[1] >= now.date() for pair in ranges):
                    words = "has no dates" if not leaf.any_of else "asks for dates that are past"
                    yield HoursFinding(
                        "past_dates", f"{_called(step)} {words}: nobody takes that exit.", step.id, branch.id, "asks"
                    )
        if branch.when.test == "period":
            asked = {(branch.when.of or "", period) for period in branch.when.any_of}
            if asked and asked <= seen:
                sentence = f"{_called(step)} asks for the same period twice: nobody takes the second exit."
                yield HoursFinding("same_twice", sentence, step.id, branch.id, "asks")
            seen |= asked
    key = sole_hours(step)
    if key in hours:
        left = [one.name for one in hours[key].hours.periods if (key, one.id) not in seen]
        if left:
            sentence = f"{_called(step)} has no exit for {' and '.join(left)}: such callers go as when it is closed."
            yield HoursFinding("no_exit", sentence, step.id, "otherwise", "asks")


def _gaps(document: FlowDocument, hours: Mapping[str, Timetable], now: datetime) -> Iterator[HoursFinding]:
    """Rings whose phones all have own times, compared with the periods by which callers come there."""
    rings = {
        step.id: [hours[str(getattr(one, "hours", ""))] for one in step.to]
        for step in document.steps
        if isinstance(step, Ring) and step.to and all(getattr(one, "hours", None) in hours for one in step.to)
    }
    if not rings:
        return
    found: dict[str, list[tuple[str, str]]] = {}
    for step in document.steps:
        if isinstance(step, Junction):
            for branch in step.branches:
                if branch.when.test == "period" and branch.when.of in hours and branch.to:
                    for one in reached_from(document, [branch.to]) & set(rings):
                        found.setdefault(one, []).extend((str(branch.when.of), period) for period in branch.when.any_of)
    for ring, members in rings.items():
        here = document.step(ring)
        nobody = here.nobody if isinstance(here, Ring) else None
        asked = found.get(ring, [])
        keys = {key for key, _ in asked}
        if len(keys) > 1:
            continue
        key = keys.pop() if keys else ""
        wanted = hours[key] if key else None
        periods = [period for _, period in asked]
        gaps = [
            gap for gap in cover(wanted, periods, members, now, now + AHEAD).gaps if gap[1] - gap[0] >= SHORTEST_GAP
        ]
        if gaps:
            names = [wanted.hours.names.get(period, period) for period in periods] if wanted else []
            during = f" while {' or '.join(dict.fromkeys(names))} holds" if names else ""
            then = "" if nobody not in (None, "same") else ", and there is no exit of its own for nobody available"
            words = f"Nobody of {_called(here)} can be rung {_times(gaps, wanted or members[0])}{during}{then}."
            yield HoursFinding("uncovered", words, ring, "nobody", "asks")


def _times(gaps: Sequence[tuple[datetime, datetime]], table: Timetable) -> str:
    shown = []
    for since, until in gaps[:NAMED_GAPS]:
        begin, end = since.astimezone(table.zone), until.astimezone(table.zone)
        close = f"{end:%H:%M}" if end.date() == begin.date() else f"{end:%a %H:%M}"
        shown.append(f"{begin:%a %H:%M} to {close}")
    more = len(gaps) - NAMED_GAPS
    others = f" and {more} other {'time' if more == 1 else 'times'} in the coming week" if more > 0 else ""
    return ", ".join(shown) + others
