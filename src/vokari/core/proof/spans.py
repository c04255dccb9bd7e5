"""How long it takes: the shortest and the longest way to something, in seconds, and the fewest keys."""

import heapq
from collections.abc import Callable
from dataclasses import dataclass

from ..flows.model.steps import HoldLine, Ring
from ..flows.running.canonical import HOLD_LIMIT, RING_TIMER
from ..flows.running.events import Digit, Finished, Leg, Recorded, Silence, TimerFired
from ..flows.running.state import State
from .situations import Edge
from .walk import Walk

PICK_UP = 8.0
"""Seconds in which an accept key must come, unless a step says otherwise."""


@dataclass(frozen=True, slots=True)
class Span:
    """Seconds at least and at most; ways round are not gone."""

    shortest: float
    longest: float


def spent(walk: Walk, edge: Edge) -> tuple[float, float]:
    """How many seconds pass until the event of an edge, at least and at most. Phones that ring together are counted once, with whatever ends
    their ringing."""
    state = walk.situations[edge.source].state
    lasts = walk.awaited[edge.source]
    match edge.event:
        case None:
            return 0.0, 0.0
        case Finished() | Silence():
            return lasts.least, lasts.most
        case Digit():
            return 0.0, lasts.most if state.phase in ("saying", "waiting") else 0.0
        case Recorded():
            return edge.event.voice, lasts.most
        case Leg():
            if state.phase == "talking" or _rings_on(walk, edge, state):
                return 0.0, 0.0
            most = lasts.most + (PICK_UP if edge.event.outcome in ("accepted", "refused") else 0.0)
            return (lasts.least if edge.event.outcome == "rang_out" else 0.0), most
        case TimerFired():
            return _timer(walk, edge, state)
    return 0.0, 0.0


def _rings_on(walk: Walk, edge: Edge, state: State) -> bool:
    """Whether phones that rang with this one ring on."""
    after = walk.situations[edge.target].state
    return after.ring is not None and after.at == state.at and bool(after.ring.legs) and not edge.rings


def _timer(walk: Walk, edge: Edge, state: State) -> tuple[float, float]:
    here = walk.flow.steps.get(state.at)
    command = getattr(edge.event, "command", 0)
    if isinstance(here, Ring) and command == RING_TIMER:
        return float(here.limit or 0), float(here.limit or 0)
    if isinstance(here, HoldLine):
        seconds = float(here.longest_wait) if command == HOLD_LIMIT else 0.0
        return seconds, seconds
    patience = float(getattr(here, "patience", 0.0))
    return patience, patience


def least(walk: Walk, weight: Callable[[Edge], float]) -> list[float]:
    """The least sum of weights from the first situation to each. Source: E. W. Dijkstra, A note on two problems in connexion with graphs,
    1959."""
    found = [float("inf")] * len(walk.situations)
    found[0] = 0.0
    todo = [(0.0, 0)]
    while todo:
        known, at = heapq.heappop(todo)
        if known > found[at]:
            continue
        for edge in walk.edges[at]:
            sum_ = known + weight(edge)
            if sum_ < found[edge.target]:
                found[edge.target] = sum_
                heapq.heappush(todo, (sum_, edge.target))
    return found


def most(walk: Walk, weight: Callable[[Edge], float], stops: Callable[[Edge], bool]) -> list[float]:
    """The greatest sum of weights from the first situation to each, without going round and not beyond edges that `stops`; -inf for what is
    not come to. What limits a step as a whole (a ring's limit, the longest wait) is counted from where the step began."""
    order = _order(walk, stops)
    place = {at: number for number, at in enumerate(order)}
    found = [float("-inf")] * len(walk.situations)
    began = [float("-inf")] * len(walk.situations)
    found[0] = began[0] = 0.0
    for at in order:
        for edge in walk.edges[at]:
            after = place.get(edge.target, -1)
            if stops(edge) or edge.limit or after <= place[at]:
                continue
            whole = _limits_whole(walk, edge)
            sum_ = began[at] + weight(edge) if whole else found[at] + weight(edge)
            same = walk.situations[edge.target].state.at == walk.situations[at].state.at and not edge.way
            found[edge.target] = max(found[edge.target], sum_)
            began[edge.target] = max(began[edge.target], began[at] if same else sum_)
    return found


def _limits_whole(walk: Walk, edge: Edge) -> bool:
    command = getattr(edge.event, "command", 0)
    here = walk.flow.steps.get(walk.situations[edge.source].state.at)
    return isinstance(edge.event, TimerFired) and (
        (isinstance(here, Ring) and command == RING_TIMER) or (isinstance(here, HoldLine) and command == HOLD_LIMIT)
    )


def _order(walk: Walk, stops: Callable[[Edge], bool]) -> list[int]:
    """The situations in an order in which every edge leads on, but those that close a way round."""
    done: list[int] = []
    seen = {0}
    work = [(0, iter(walk.edges[0]))]
    while work:
        at, following = work[-1]
        for edge in following:
            if edge.target not in seen and not stops(edge) and not edge.limit:
                seen.add(edge.target)
                work.append((edge.target, iter(walk.edges[edge.target])))
                break
        else:
            work.pop()
            done.append(at)
    return done[::-1]
