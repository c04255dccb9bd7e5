"""Bars of calls by day and fate. Pure geometry: rectangles and the ticks of the scale."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from ..calls.fates import FATES
from .periods import Period


@dataclass(frozen=True, slots=True)
class Piece:
    """A part of a bar, in pixels, with the fate and the calls it stands for."""

    x: float
    y: float
    width: float
    height: float
    fate: str
    calls: int


@dataclass(frozen=True, slots=True)
class Bar:
    """One bar: the first and last day it covers, its pieces, its total, and the middle of its foot."""

    first: date
    last: date
    x: float
    pieces: tuple[Piece, ...]
    calls: int


@dataclass(frozen=True, slots=True)
class Chart:
    """The bars, the lines of the scale as (value, y), and which bars carry a date."""

    bars: tuple[Bar, ...]
    ticks: tuple[tuple[int, float], ...]
    dated: frozenset[date]
    width: float
    height: float


def scale(most: int) -> range:
    """The values of the lines of a scale, in round steps: 1, 2 or 5 times a power of ten, at most six of them above 0, the last
    not below `most`."""
    step = next(
        base * 10**power
        for power in range(12)
        for base in (1, 2, 5)
        if math.ceil(max(most, 1) / (base * 10**power)) <= 6
    )
    return range(0, max(math.ceil(most / step), 1) * step + 1, step)


def bars(
    counted: Sequence[tuple[Period, Mapping[str, int]]], *, width: float, height: float, left: float = 34
) -> Chart:
    """A bar for the calls of each part of a period; its pieces are stacked in the order of the fates."""
    values = scale(max([sum(total.values()) for _, total in counted] + [1]))
    top = values[-1]
    pitch = (width - left) / max(len(counted), 1)
    thick = min(34.0, pitch * 0.72)
    made = []
    for index, (part, total) in enumerate(counted):
        x = left + pitch * index + (pitch - thick) / 2
        foot = height
        pieces = []
        for fate in FATES:
            calls = total.get(fate, 0)
            tall = calls / top * height
            foot -= tall
            if calls:
                pieces.append(Piece(round(x, 1), round(foot, 2), round(thick, 1), round(tall, 2), fate, calls))
        made.append(Bar(part.first, part.last, round(x + thick / 2, 1), tuple(pieces), sum(total.values())))
    ticks = tuple((value, round(height - height * value / top, 1)) for value in values)
    step = max(1, math.ceil(len(made) / 12))
    dated = frozenset(bar.first for bar in made[::step])
    return Chart(tuple(made), ticks, dated, width, height)


def strip(days: Mapping[date, Mapping[str, int]], last: date, count: int, most: int, height: float) -> dict[str, str]:
    """A strip of narrow bars for the last so many days, all on the scale of `most`; days without calls are empty. All that a fate
    has of it is one SVG path."""
    paths: dict[str, list[str]] = {}
    for day in sorted(days):
        index = count - 1 - (last - day).days
        foot = height
        for fate in FATES if 0 <= index < count else ():
            calls = days[day].get(fate)
            if calls:
                tall = calls / max(most, 1) * height
                foot -= tall
                paths.setdefault(fate, []).append(f"M{index * 9} {foot:.1f}h7v{max(tall, 0.8):.1f}h-7z")
    return {fate: "".join(path) for fate, path in paths.items()}
