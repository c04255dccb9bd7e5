"""What is wrong with the hours in a flow: exits that no caller can take, times in which nobody could be rung."""

from collections.abc import Collection, Iterator, Mapping, Sequence
from datetime import date, datetime, timedelta

from ..flows.model.condition import CLOSED, OF_HOURS
from ..flows.model.dates import spans
from ..flows.model.document import FlowDocument
from ..flows.model.steps import Junction, Ring
from ..flows.model.values import SAME
from ..flows.model.walks import reached_from
from ..hours.cover import cover
from ..hours.timetable import Timetable
from .finding import Finding

AHEAD = timedelta(days=7)
SHORTEST_GAP = timedelta(minutes=5)
NAMED_GAPS = 2


def findings(document: FlowDocument, hours: Mapping[str, Timetable], now: datetime | None) -> Iterator[Finding]:
    """All findings about hours. Without a moment, the coming week is not looked at."""
    for step in document.steps:
        for named in step.names() if isinstance(step, Ring) else ():
            if named.kind == "hours" and named.key not in hours:
                words = f"{step.begins} rings {named.called} by hours that are gone: choose other hours or none."
                yield Finding("no_hours", words, step.id)
    for step in document.steps:
        if isinstance(step, Junction):
            yield from _of_junction(step, hours, now)
    if now is not None:
        yield from _gaps(document, hours, now)


def _of_junction(step: Junction, hours: Mapping[str, Timetable], now: datetime | None) -> Iterator[Finding]:
    if not step.branches:
        yield Finding("no_branches", f"{step.begins} sorts by nothing: choose hours or dates.", step.id)
    seen: set[tuple[str, str]] = set()
    for branch in step.branches:
        for leaf in branch.when.leaves():
            if leaf.test in OF_HOURS:
                table = hours.get(leaf.of or "")
                if table is None:
                    words = f"{step.begins} asks for hours that are gone: choose other hours."
                    yield Finding("no_hours", words, step.id, branch.id)
                    continue
                gone = [one for one in leaf.any_of if one != CLOSED and table.hours.period(one) is None]
                if leaf.test == "period" and gone:
                    words = f"{step.begins} asks for a period that {table.hours.name} no longer has: nobody takes that exit."
                    yield Finding("gone_period", words, step.id, branch.id, "asks")
            elif leaf.test == "dates" and now is not None and not _comes(leaf.any_of, now):
                said = "has no dates" if not leaf.any_of else "asks for dates that are past"
                words = f"{step.begins} {said}: nobody takes that exit."
                yield Finding("past_dates", words, step.id, branch.id, "advises")
        if branch.when.test == "period":
            asked = {(branch.when.of or "", period) for period in branch.when.any_of}
            if asked and asked <= seen:
                words = f"{step.begins} asks for the same period twice: nobody takes the second exit."
                yield Finding("same_twice", words, step.id, branch.id, "asks")
            seen |= asked
    key = step.sole_hours
    if key in hours:
        left = [one.name for one in hours[key].hours.periods if (key, one.id) not in seen]
        if left:
            words = f"{step.begins} has no exit for {' and '.join(left)}: such callers go as when it is closed."
            yield Finding("no_exit", words, step.id, "otherwise", "asks")


def _comes(ranges: tuple[str, ...], now: datetime) -> bool:
    """Whether one of some ranges is still to come, or holds now."""
    return any(any(spans(text, now.date(), date.max)) for text in ranges)


def _gaps(document: FlowDocument, hours: Mapping[str, Timetable], now: datetime) -> Iterator[Finding]:
    """Rings whose phones all have own times, compared with the periods by which callers come there. One to which they come by
    periods of several sets is not looked at."""
    rings = [
        step
        for step in document.steps
        if isinstance(step, Ring) and step.to and all(getattr(one, "hours", None) in hours for one in step.to)
    ]
    asked = _asked_on_the_way(document, hours, {ring.id for ring in rings}) if rings else {}
    for ring in rings:
        keys = {key for key, _ in asked.get(ring.id, ())}
        if len(keys) > 1:
            continue
        wanted = hours[keys.pop()] if keys else None
        periods = [period for _, period in asked.get(ring.id, ())]
        members = [hours[str(getattr(one, "hours", ""))] for one in ring.to]
        whole = cover(wanted, periods, members, now, now + AHEAD)
        gaps = [gap for gap in whole.gaps if gap[1] - gap[0] >= SHORTEST_GAP]
        if gaps:
            names = [wanted.hours.names.get(period, period) for period in periods] if wanted else []
            during = f" while {' or '.join(dict.fromkeys(names))} holds" if names else ""
            then = "" if ring.nobody not in (None, SAME) else ", and there is no exit of its own for nobody available"
            words = f"Nobody of {ring.quoted} can be rung {_times(gaps, wanted or members[0])}{during}{then}."
            yield Finding("uncovered", words, ring.id, "nobody", "asks")


def _asked_on_the_way(
    document: FlowDocument, hours: Mapping[str, Timetable], rings: Collection[str]
) -> dict[str, list[tuple[str, str]]]:
    """For each of some rings the periods, as set and period, of the exits by which callers come there."""
    found: dict[str, list[tuple[str, str]]] = {}
    for step in document.steps:
        for branch in step.branches if isinstance(step, Junction) else ():
            if branch.when.test == "period" and branch.when.of in hours and branch.to:
                for ring in reached_from(document.by_id, [branch.to]) & set(rings):
                    found.setdefault(ring, []).extend((str(branch.when.of), period) for period in branch.when.any_of)
    return found


def _times(gaps: Sequence[tuple[datetime, datetime]], table: Timetable) -> str:
    shown = []
    for since, until in gaps[:NAMED_GAPS]:
        begin, end = since.astimezone(table.zone), until.astimezone(table.zone)
        close = f"{end:%H:%M}" if end.date() == begin.date() else f"{end:%a %H:%M}"
        shown.append(f"{begin:%a %H:%M} to {close}")
    more = len(gaps) - NAMED_GAPS
    others = f" and {more} other {'time' if more == 1 else 'times'} in the coming week" if more > 0 else ""
    return ", ".join(shown) + others
