"""Where calls come to among the situations that were walked; when, and by which numbers."""

from collections.abc import Callable, Iterable, Sequence
from typing import Protocol

from ..flows.running.events import Event
from .times import Times


class Leads(Protocol):
    """An edge: by an event, or by time that passes (None), in some cells of time and of numbers, to a target (below 0: to none)."""

    @property
    def target(self) -> int: ...
    @property
    def event(self) -> Event | None: ...
    @property
    def time(self) -> int: ...
    @property
    def number(self) -> int: ...


def spread(
    edges: Sequence[Sequence[Leads]], times: Times, numbers: int, alike: Sequence[int] = ()
) -> tuple[list[int], list[int]]:
    """For each situation the cells of time and of numbers with which a call can be in it, from the first on; `edges` are those that leave each.
    `alike` are the cells in which each is the same situation: where they are given, time that passes from one of them to another counts too."""
    time, number = [0] * len(edges), [0] * len(edges)
    time[0], number[0] = times.first, numbers
    todo = [0]
    while todo:
        at = todo.pop()
        for edge in edges[at]:
            if edge.target < 0:
                continue
            came = times.passed(time[at]) if edge.event is None else time[at] & edge.time
            by = number[at] if edge.event is None else number[at] & edge.number
            if alike:
                later = came
                while later := times.passed(later) & alike[edge.target] & ~came:
                    came |= later
            if came | time[edge.target] != time[edge.target] or by | number[edge.target] != number[edge.target]:
                time[edge.target] |= came
                number[edge.target] |= by
                todo.append(edge.target)
    return time, number


def reached(starts: Iterable[int], follow: Callable[[int], Iterable[int]]) -> list[int]:
    """The situations that calls come to from some, these included, in order; `follow` gives where one leads."""
    seen = set(starts)
    todo = list(seen)
    while todo:
        for target in follow(todo.pop()):
            if target not in seen:
                seen.add(target)
                todo.append(target)
    return sorted(seen)
