"""Bars of calls by day and fate. Pure geometry: rectangles and the ticks of the scale."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

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


def nice_top(most: int) -> int:
    """The least of 1, 2, 5, 10, 20, 50 … times ten’s powers, or 4 and 8 of them, that is not below `most`."""
    if most <= 4:
        return 4
    power = 10 ** int(math.log10(most))
    return next(int(step * power) for step in (1, 2, 4, 5, 6, 8, 10) if step * power >= most)


def bars(
    counted: Sequence[tuple[Period, Mapping[str, int]]], *, width: float, height: float, left: float = 34
) -> Chart:
    """A bar for the calls of each part of a period; its pieces are stacked in the order of the fates."""
    top = nice_top(max([sum(total.values()) for _, total in counted] + [1]))
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
    ticks = tuple((round(top * part / 4), round(height - height * part / 4, 1)) for part in range(5))
    step = max(1, math.ceil(len(made) / 12))
    dated = frozenset(bar.first for bar in made[::step])
    return Chart(tuple(made), ticks, dated, width, height)


def strip(days: Mapping[date, Mapping[str, int]], last: date, count: int, most: int, height: float) -> dict[str, str]:
    """A strip of narrow bars for the last so many days, all on the scale of `most`; days without calls are empty. All that a fate
    has of it is one SVG path."""
    paths: dict[str, list[str]] = {}
    for index in range(count):
        counts = days.get(last - timedelta(days=count - 1 - index), {})
        foot = height
        for fate in FATES:
            tall = counts.get(fate, 0) / max(most, 1) * height
            foot -= tall
            if counts.get(fate):
                paths.setdefault(fate, []).append(f"M{index * 9} {foot:.1f}h7v{max(tall, 0.8):.1f}h-7z")
    return {fate: "".join(path) for fate, path in paths.items()}
