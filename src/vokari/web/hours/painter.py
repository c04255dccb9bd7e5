"""The painted week: what its form holds, and what one gesture on it does. Keeps nothing; saving is another matter."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ...core.hours import drawing, painting, words
from ...core.hours.document import CLOSED, DAY, DAY_NAMES, EMPTY_WEEK, Day, Hours, Span, clashes
from ...core.hours.timetable import open_minutes
from ...core.hours.typed import read_week, write_week
from ...work.house.keys import new_key
from ..doors import Posted

Line = tuple[str, str, str]
"""A period as the form holds it: id, name, and its times as text."""

MOST_PERIODS = 24
UNDO_MOST = 40
USUAL_WEEKS = ("Mon-Fri 9-17", "Mon-Fri 8-12, 13-17", "Mon-Sat 9-18", "Mon-Fri 9-17; Sat 9-13", "Daily 0-24")
"""What an empty field of times proposes."""


@dataclass
class Painting:
    """The periods with their texts, how each was read, and the states before and after. `fixed`: the periods stay."""

    lines: list[Line]
    past: list[list[Line]] = field(default_factory=list)
    future: list[list[Line]] = field(default_factory=list)
    brush: str = ""
    snap: int = 15
    fixed: bool = False
    used: Sequence[str] = ()
    problem: str = ""

    def __post_init__(self) -> None:
        if self.brush not in (CLOSED, *(key for key, _, _ in self.lines)):
            self.brush = self.lines[0][0] if self.lines else CLOSED
        self.read: dict[str, tuple[Day, ...]] = {}
        self.wrong: dict[str, str] = {}
        for key, _, text in self.lines:
            week = read_week(text, key)
            if isinstance(week, str):
                self.wrong[key] = week
            else:
                self.read[key] = week

    @property
    def periods(self) -> list[tuple[str, str]]:
        """The periods as (id, name)."""
        return [(key, name) for key, name, _ in self.lines]

    @property
    def week(self) -> tuple[Day, ...]:
        """All that could be read, unchecked for overlaps."""
        return painting.merged(self.read.values()) if self.read else EMPTY_WEEK

    def with_week(self, week: Sequence[Day]) -> "Painting":
        """The same periods with another week; texts that were not understood stay as they are."""
        lines = [
            (key, name, text if key in self.wrong else write_week(painting.of_period(week, key)))
            for key, name, text in self.lines
        ]
        return self.with_lines(lines)

    def with_lines(self, lines: list[Line]) -> "Painting":
        """The painting with its week read from the typed lines."""
        return Painting(lines, self.past, self.future, self.brush, self.snap, self.fixed, self.used)


def of_hours(hours: Hours, used: Sequence[str] = ()) -> Painting:
    """The week of a set, with the periods that flows name."""
    lines = [(one.id, one.name, write_week(painting.of_period(hours.week, one.id))) for one in hours.periods]
    return Painting(lines, used=used)


def of_week(week: Sequence[Day], periods: Sequence[tuple[str, str]]) -> Painting:
    """A season's week, whose periods are given; spans without one are the first's."""
    first = periods[0][0]
    named = [tuple(one if one.period else one.model_copy(update={"period": first}) for one in day) for day in week]
    lines = [(key, name, write_week(painting.of_period(named, key))) for key, name in periods]
    return Painting(lines, fixed=True)


def posted_painting(posted: Posted) -> Painting:
    """The painting that a form holds. What is no such form gives an empty one, never an error."""
    keys = [key for key in posted.text("order").split(",") if key][:MOST_PERIODS]
    lines = [(key, posted.text(f"name-{key}")[:200], posted.text(f"p-{key}")) for key in dict.fromkeys(keys)]
    made = Painting(
        lines, _states(posted.text("past")), _states(posted.text("future")), posted.text("brush"),
        posted.whole("snap") or 15, posted.text("fixed") == "1", posted.text("used").split(","),
    )  # fmt: skip
    before = _states(f"[{posted.text('last') or '[]'}]")
    if before and before[0] and before[0] != made.lines:
        made.past = [*made.past, before[0]][-UNDO_MOST:]
        made.future = []
    return made


def gesture(posted: Posted, painting_: Painting, like: Hours | None = None) -> Painting:
    """What one gesture makes of a painting; one that cannot be understood changes nothing."""
    do = posted.text("do")
    if do == "undo" and painting_.past:
        made = painting_.with_lines(painting_.past[-1])
        made.past, made.future = painting_.past[:-1], [painting_.lines, *painting_.future][:UNDO_MOST]
        return made
    if do == "redo" and painting_.future:
        made = painting_.with_lines(painting_.future[0])
        made.past, made.future = [*painting_.past, painting_.lines], painting_.future[1:]
        return made
    made = _changed(posted, painting_, do, like)
    if made.lines != painting_.lines:
        made.past, made.future = [*painting_.past, painting_.lines][-UNDO_MOST:], []
    return made


def _changed(posted: Posted, old: Painting, do: str, like: Hours | None) -> Painting:
    week, brush = old.week, old.brush
    day, start, end = (_whole(posted, name) for name in ("day", "start", "end"))
    span = _span(posted.text("period"), start, end)
    match do:
        case "paint" if day is not None and start is not None and end is not None:
            return old.with_week(painting.paint(week, brush, day % 7, start, end))
        case "move" if day is not None and span is not None:
            to_day, to_start, to_end = (_whole(posted, f"to_{name}") for name in ("day", "start", "end"))
            if to_day is not None and to_start is not None and to_end is not None:
                return old.with_week(painting.replace(week, day % 7, span, to_day % 7, to_start, to_end))
        case "remove" if day is not None and span is not None:
            return old.with_week(painting.remove(week, day % 7, span))
        case "copy":
            source = posted.whole("from") or 0
            targets = [int(one) for one in posted.form.getlist("to") if one in set("0123456")]
            return old.with_week(painting.copy_day(week, source % 7, [one for one in targets if one != source]))
        case "like" if like is not None:
            return _like(old, like)
        case "add" if not old.fixed and len(old.lines) < MOST_PERIODS:
            name = posted.text("new_name").strip()[:60] or f"Period {len(old.lines) + 1}"
            made = old.with_lines([*old.lines, (new_key("p"), name, "")])
            made.brush = made.lines[-1][0]
            return made
        case "drop" if not old.fixed and len(old.lines) > 1:
            return old.with_lines([line for line in old.lines if line[0] != posted.text("period")])
    return old


def _like(old: Painting, other: Hours) -> Painting:
    """The other set's week: periods of the same name take its times, those missing are added, the rest are emptied."""
    texts = {
        one.name.casefold(): (one.name, write_week(painting.of_period(other.week, one.id))) for one in other.periods
    }
    lines = [(key, name, texts.pop(name.casefold(), ("", ""))[1]) for key, name, _ in old.lines]
    if not old.fixed:
        lines += [(new_key("p"), name, text) for name, text in texts.values()]
    return old.with_lines(lines[:MOST_PERIODS])


def context(made: Painting, like: Mapping[int, str] | None = None) -> dict[str, Any]:
    """What the template of the painter needs."""
    order = [key for key, _ in made.periods]
    names = dict(made.periods)
    rows = []
    for key, name, text in made.lines:
        read = made.read.get(key, EMPTY_WEEK)
        reading = "" if key in made.wrong else write_week(read)
        rows.append({
            "id": key, "name": name, "text": text, "wrong": made.wrong.get(key, ""), "pattern": order.index(key) % drawing.KINDS,
            "reading": reading or "no times yet", "echo": reading != text.strip(), "open": words.length(open_minutes(read)),
            "used": key in made.used,
        })  # fmt: skip
    clash = next(clashes(made.week, names), "")
    return {
        "painting": made, "period_rows": rows, "picture": drawing.draw(made.week, order, names), "sizes": drawing,
        "clash": f"{clash}." if clash else "", "day_names": DAY_NAMES, "snaps": painting.SNAPS, "like_sets": like or {},
        "total_open": words.length(open_minutes(made.week)), "past": json.dumps(made.past), "future": json.dumps(made.future),
        "last": json.dumps(made.lines), "closed_brush": CLOSED, "usual_weeks": USUAL_WEEKS,
    }  # fmt: skip


def _whole(posted: Posted, name: str) -> int | None:
    """A whole number that may be negative, as of a drag that began before midnight; a week long at most."""
    text = posted.text(name).strip()
    digits = text.removeprefix("-")
    return int(text) if digits.isascii() and digits.isdigit() and len(digits) < 6 and int(digits) <= 8 * DAY else None


def _span(period: str, start: int | None, end: int | None) -> Span | None:
    if start is None or end is None or not 0 <= start < end <= 2 * DAY or start >= DAY or end - start > DAY:
        return None
    return Span(period=period, start=start, end=end)


def _states(text: str) -> list[list[Line]]:
    """States as a form carried them; anything else is none."""
    try:
        raw = json.loads(text) if len(text) < 400_000 else []
        return [[(str(a), str(b), str(c)) for a, b, c in state] for state in raw][-UNDO_MOST:]
    except (ValueError, TypeError, RecursionError):
        return []
