"""A week of hours drawn: a strip a day, time from left to right, up to six in the next morning. Pure geometry in pixels."""

from collections.abc import Sequence
from dataclasses import dataclass

from .document import DAY, Day, Span, clock

LABEL = 46
HOUR = 31.0
SHOWN_HOURS = 30
ROW = 38
BAR = 26
HEAD = 22
LETTER = 7.0
KINDS = 6
"""How many patterns tell periods apart; they come round after that."""

WIDTH = LABEL + SHOWN_HOURS * HOUR + 8
HEIGHT = HEAD + 7 * ROW + 6


@dataclass(frozen=True, slots=True)
class Bar:
    """An interval on the strip of its day. `runs_on`: it ends past the right edge; `label` is empty where it would not fit."""

    day: int
    span: Span
    x: float
    y: float
    width: float
    pattern: int
    label: str
    runs_on: bool

    @property
    def said(self) -> str:
        """The times as they are read aloud."""
        return f"{clock(self.span.start)} to {clock(self.span.end)}"


@dataclass(frozen=True, slots=True)
class Tail:
    """The part of an interval that runs into the next day, as a shadow at the left of that day's strip."""

    day: int
    x: float
    y: float
    width: float
    pattern: int


@dataclass(frozen=True, slots=True)
class WeekDrawing:
    """All that is drawn of a week."""

    bars: tuple[Bar, ...]
    tails: tuple[Tail, ...]
    hours: tuple[tuple[float, str], ...]


def x_of(minute: float) -> float:
    """Where a minute of the day, or of the next morning, lies."""
    return round(LABEL + min(minute, SHOWN_HOURS * 60) / 60 * HOUR, 1)


def y_of(day: int) -> float:
    """The top of a day's strip."""
    return HEAD + day * ROW


def plate_of(label: str) -> float:
    """How wide the plate under a label is."""
    return round(len(label) * LETTER + 8, 1)


def draw(week: Sequence[Day], order: Sequence[str], names: dict[str, str]) -> WeekDrawing:
    """Draws the spans of all periods; `order` says which pattern a period has."""
    bars: list[Bar] = []
    tails: list[Tail] = []
    for index, day in enumerate(week):
        for span in day:
            pattern = order.index(span.period) % KINDS if span.period in order else 0
            x = x_of(span.start)
            width = round(x_of(span.end) - x, 1)
            name = names.get(span.period, "")
            times = f"{_short(span.start)}–{_short(span.end)}"
            label = next((text for text in (f"{name} {times}", times) if plate_of(text) + 8 < width), "")
            bars.append(
                Bar(index, span, x, y_of(index) + (ROW - BAR) / 2, width, pattern, label, span.end > SHOWN_HOURS * 60)
            )
            if span.end > DAY:
                tails.append(
                    Tail(
                        (index + 1) % 7,
                        LABEL,
                        y_of((index + 1) % 7) + (ROW - BAR) / 2,
                        x_of(span.end - DAY) - LABEL,
                        pattern,
                    )
                )
    marks = tuple(
        (x_of(hour * 60), f"{hour % 24 or (24 if hour == 24 else 0)}") for hour in range(0, SHOWN_HOURS + 1, 2)
    )
    return WeekDrawing(tuple(bars), tuple(tails), marks)


def _short(minute: int) -> str:
    hour, rest = divmod(minute if minute == DAY else minute % DAY, 60)
    return f"{hour}:{rest:02d}" if rest else f"{hour}"
