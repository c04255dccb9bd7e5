"""What a Ring step means for a caller, worked out: which phone rings from which second to which, whose own mailbox could
answer first, the longest wait, and the chance that all are busy at the client's real load."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol, TypeVar

from ..flows.questions.kinds import LineUpAnswer, Rung
from ..numbers.ringing import usual_seconds
from . import erlang
from .directory import Person

MOST_ROUNDS = 10
TOO_BUSY = 0.05
"""From this part of callers on, one more person is proposed (common practice, no source)."""

WIDTH, LABEL, ROW, HEAD = 760, 190, 26, 24
"""Pixels of the time line: the whole width, the names at the left, a row, and the seconds above."""


@dataclass(frozen=True, slots=True)
class Bar:
    """A phone that rings, in seconds from when the caller comes to the step; `mailbox` is when a mailbox of its own could
    answer, if that is while it rings, and `sure` whether that figure is the person's own."""

    rung: Rung
    start: float
    end: float
    mailbox: float | None = None
    sure: bool = False


@dataclass(frozen=True, slots=True)
class Meaning:
    """The bars in order, the longest wait in seconds, and what to say of it."""

    bars: tuple[Bar, ...]
    longest: float
    sentences: tuple[str, ...]


def meaning(
    rounds: Sequence[LineUpAnswer], limit: int | None, people: Mapping[str, Person], *, guarded: bool
) -> Meaning:
    """What the rounds of one step mean when nobody answers. `limit` is that on the whole; `guarded`: an accept key or
    machine detection keeps mailboxes from taking the call."""
    bars: list[Bar] = []
    at = 0.0
    for waves, _, _ in rounds:
        for wave in waves:
            for rung in wave:
                bars.append(_bar(rung, at, people, guarded=guarded))
            at += max(rung.seconds for rung in wave)
    if limit is not None and at > limit:
        bars = [
            Bar(bar.rung, bar.start, min(bar.end, limit), bar.mailbox if bar.mailbox and bar.mailbox < limit else None, bar.sure)
            for bar in bars if bar.start < limit
        ]  # fmt: skip
        at = float(limit)
    return Meaning(tuple(bars), at, tuple(_sentences(bars, at, rounds)))


def _bar(rung: Rung, at: float, people: Mapping[str, Person], *, guarded: bool) -> Bar:
    person = people.get(rung.who)
    phone = next((one for one in person.phones if one.to == rung.to), None) if person else None
    own = phone.mailbox_after if phone else None
    after = own if own is not None else float(usual_seconds(rung.to))
    answers = phone.answered if phone else rung.answered
    if guarded or rung.to.startswith("sip") or answers != "picked_up" or rung.seconds <= after:
        return Bar(rung, at, at + rung.seconds)
    return Bar(rung, at, at + rung.seconds, at + after, own is not None)


def _sentences(bars: Sequence[Bar], longest: float, rounds: Sequence[LineUpAnswer]) -> list[str]:
    if not bars:
        states = {state for _, found, _ in rounds for state in found}
        why = "everybody is on a call" if "on_call" in states else "everybody is off duty or switched off"
        return [f"Right now nobody would be rung: {why}."]
    found = [f"A caller whom nobody answers hears it ring for {longest:.0f} seconds."]
    sure = sorted({bar.rung.name or bar.rung.to for bar in bars if bar.mailbox is not None and bar.sure})
    maybe = sorted({bar.rung.name or bar.rung.to for bar in bars if bar.mailbox is not None and not bar.sure})
    if sure:
        found.append(f"The phone’s own mailbox takes the call before the ring is over: {', '.join(sure)}.")
    if maybe:
        found.append(
            f"A mailbox of the phone’s own could answer first: {', '.join(maybe)}. Ring shorter, or ask for a key."
        )
    return found


@dataclass(frozen=True, slots=True)
class Hour:
    """An hour of the day: how many calls come in it, the load in erlangs, how many can be rung, and the chance that all
    are busy (Erlang B)."""

    hour: int
    calls: float
    erlangs: float
    people: int
    chance: float


def hours_of(calls: Mapping[int, float], mean_seconds: float, people: Mapping[int, int]) -> list[Hour]:
    """The hours in which calls come, by the mean count of calls in each and the people who can be rung in it."""
    found = []
    for hour, count in sorted(calls.items()):
        load = erlang.load(count, mean_seconds)
        some = people.get(hour, 0)
        found.append(Hour(hour, count, load, some, erlang.blocking(some, load)))
    return found


def proposal(hours: Sequence[Hour]) -> str:
    """What would help most: one more person in the hours in which too many find all busy, with what that brings; empty
    where nothing is needed."""
    bad = [one for one in hours if one.people and one.chance > TOO_BUSY]
    if not bad:
        return ""
    worst = max(runs(bad), key=lambda run: sum(one.calls * one.chance for one in run))
    before = sum(one.calls * one.chance for one in worst) / sum(one.calls for one in worst)
    after = sum(one.calls * erlang.blocking(one.people + 1, one.erlangs) for one in worst) / sum(
        one.calls for one in worst
    )
    return (
        f"One more person between {worst[0].hour} and {worst[-1].hour + 1} o’clock would bring the callers who find all"
        f" busy from {before:.0%} to {after:.0%}."
    )


class _OfHour(Protocol):
    @property
    def hour(self) -> int: ...


Sometime = TypeVar("Sometime", bound=_OfHour)


def runs(hours: Sequence[Sometime]) -> list[list[Sometime]]:
    """Hours that follow each other, together."""
    found: list[list[Sometime]] = []
    for one in hours:
        if found and found[-1][-1].hour == one.hour - 1:
            found[-1].append(one)
        else:
            found.append([one])
    return found


# geometry


def x_of(second: float, longest: float) -> float:
    """Where a second lies on the time line."""
    return round(LABEL + second / max(longest, 1.0) * (WIDTH - LABEL - 26), 1)


def ticks(longest: float) -> list[int]:
    """The seconds that are marked: round ones, at most about ten."""
    step = next(size for size in (5, 10, 20, 30, 60, 120, 300, 600) if longest / size <= 10 or size == 600)
    return list(range(0, int(longest) + 1, step))
