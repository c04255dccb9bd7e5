"""A number's assignments drawn along time. Pure geometry in pixels."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

from .assignments import Span

SHORTEST_FUTURE = timedelta(days=10)
NARROWEST = 3.0


@dataclass(frozen=True, slots=True)
class Piece:
    """A span as it is drawn: its left edge and width, and whether it is past, now or planned."""

    span: Span
    x: float
    width: float
    state: Literal["past", "now", "planned"]


@dataclass(frozen=True, slots=True)
class Timeline:
    """The pieces, where now is, and the months that begin on the way, each with its place."""

    pieces: tuple[Piece, ...]
    now_x: float
    months: tuple[tuple[float, str], ...]
    width: float


def draw(spans: Sequence[Span], began: datetime, now: datetime, zone: ZoneInfo, width: float) -> Timeline:
    """From the moment the number was taken to some time past now and past the last planned change."""
    first = min([began, *(span.since for span in spans)])
    edges = [edge for span in spans for edge in (span.since, span.until) if edge is not None and edge > now]
    last = max([now, *edges])
    last += max(SHORTEST_FUTURE, (last - first) * 0.12)
    scale = width / max((last - first).total_seconds(), 1)

    def place(moment: datetime) -> float:
        return round((moment - first).total_seconds() * scale, 1)

    pieces = []
    for span in sorted(spans, key=lambda one: one.since):
        left = place(span.since)
        right = place(span.until) if span.until else width
        state: Literal["past", "now", "planned"] = (
            "now" if span.covers(now) else "past" if span.since <= now else "planned"
        )
        pieces.append(Piece(span, left, max(NARROWEST, round(right - left, 1)), state))
    return Timeline(tuple(pieces), place(now), tuple(_months(first, last, zone, place(last) / 70, place)), width)


def _months(first: datetime, last: datetime, zone: ZoneInfo, most: float, place: object) -> list[tuple[float, str]]:
    """The first of each month, or of every few where they would stand too close."""
    local = first.astimezone(zone)
    year, month = local.year, local.month
    found: list[tuple[datetime, str]] = []
    while True:
        month += 1
        year, month = year + (month - 1) // 12, (month - 1) % 12 + 1
        moment = datetime(year, month, 1, tzinfo=zone)
        if moment >= last:
            break
        found.append((moment, f"{moment:%b %Y}" if month == 1 else f"{moment:%b}"))
    step = max(1, -(-len(found) // max(int(most), 1)))
    return [(place(moment), words) for moment, words in found[::step]]  # type: ignore[operator]
