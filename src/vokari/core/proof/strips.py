"""A kept cover as strips: for each day pieces of quarter hours, with who would be rung and the fate if nobody answers."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from ..calls.fates import Fate

QUARTERS = 96
"""Quarter hours of a usual day, by the clock."""


@dataclass(frozen=True, slots=True)
class Piece:
    """A part of a day: its first quarter hour and how many, by the clock, the instants, who would be rung, and the fate if nobody answers."""

    at: int
    quarters: int
    since: datetime
    until: datetime
    who: tuple[str, ...]
    fate: Fate | str

    @property
    def rings(self) -> str:
        """How many would be rung, as a word: nobody, one, several."""
        return ("nobody", "one", "several")[min(2, len(self.who))]


@dataclass(frozen=True, slots=True)
class DayStrip:
    """A day with its pieces."""

    day: date
    pieces: tuple[Piece, ...]


def pieces_of(cover: Mapping[str, Any], stretches: Sequence[Sequence[Any]]) -> list[Piece]:
    """Stretches as they are kept, each whole; times of the day are of no use in it."""
    return [
        Piece(0, 0, datetime.fromisoformat(since), datetime.fromisoformat(until), tuple(cover["who"][who]), fate)
        for since, until, who, fate in stretches
    ]


def strips(cover: Mapping[str, Any], zone: ZoneInfo, first: date, days: int = 7) -> list[DayStrip]:
    """The days from one on; a piece that crosses midnight lies in both."""
    whole = pieces_of(cover, cover["strip"])
    found = []
    for day in (first + timedelta(days=number) for number in range(days)):
        begins, ends = (datetime(one.year, one.month, one.day, tzinfo=zone) for one in (day, day + timedelta(days=1)))
        inside = [_cut(one, begins, ends, zone) for one in whole if one.since < ends and begins < one.until]
        found.append(DayStrip(day, tuple(one for one in inside if one.quarters)))
    return found


def _cut(piece: Piece, begins: datetime, ends: datetime, zone: ZoneInfo) -> Piece:
    """The part of a piece that lies in a day."""
    since, until = max(piece.since, begins), min(piece.until, ends)
    at = _quarter(since, zone)
    to = QUARTERS if until >= ends else _quarter(until, zone)
    return Piece(at, max(0, to - at), since, until, piece.who, piece.fate)


def _quarter(at: datetime, zone: ZoneInfo) -> int:
    local = at.astimezone(zone)
    return local.hour * 4 + local.minute // 15


def gaps(days: Sequence[DayStrip]) -> list[Piece]:
    """The pieces in which callers are lost, or one person is all there is who would be rung; those that follow each other as one."""
    found: list[Piece] = []
    for piece in (one for day in days for one in day.pieces):
        if piece.fate != "lost" and piece.rings != "one":
            continue
        last = found[-1] if found else None
        if last and last.until == piece.since and (last.who, last.fate) == (piece.who, piece.fate):
            found[-1] = Piece(last.at, last.quarters + piece.quarters, last.since, piece.until, piece.who, piece.fate)
        else:
            found.append(piece)
    return sorted(found, key=lambda one: (one.fate != "lost", one.since))
