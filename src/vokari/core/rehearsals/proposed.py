"""A set of rehearsals to keep: as few calls as take every exit that a call can take."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from heapq import heapify, heappop, heappush

from ..calls.fates import FATE_NAMES, ending
from ..checks.finding import sentence
from ..flows.conditions.of_caller import FATE_WORDS
from ..flows.model.kept import KeptRehearsal
from ..flows.questions.facts import HasCalled, LastCallCameTo, LastSpokeWith, OfContact, OfTouch, WhichShare, Withheld
from ..flows.questions.kinds import Answer, Question
from ..flows.running.events import Digit
from ..flows.running.flow import Flow
from ..flows.running.turn import Passage
from ..proof.claims import LATE
from ..proof.examples import Example, NoExample, along
from ..proof.situations import Edge
from ..proof.walk import Walk
from ..traffic.line import Entry
from . import holding, keeping
from .calls import Setting, call

MOST = 60
"""Calls that are proposed at most."""
MOST_TRIED = 200

Exit = tuple[str, str]
"""A step and one of its exits; no step and "start" for the first."""


@dataclass(frozen=True, slots=True)
class Proposal:
    """Calls to keep, how many exits they take, of how many that a call can take, without those that the kept ones take already."""

    rehearsals: tuple[KeptRehearsal, ...]
    takes: int
    exits: int


def proposal(walk: Walk, setting: Setting, caller: str) -> Proposal:
    """Calls for what the rehearsals that are kept do not take, those of most exits first. Each holds when it is run as it will be; an exit for which
    no such call was found is not among them."""
    flow = walk.flow
    wanted = {one for edges in walk.edges for edge in edges if not edge.limit for one in exits_of(walk, edge)}
    left = set(wanted)
    for kept in flow.document.rehearsals:
        went = call(flow, kept, setting)
        left -= taken(went.run.log) if went else set()
    found: list[KeptRehearsal] = []
    ways = _ways(walk, left)
    takes = [(way, {one for edge in way for one in exits_of(walk, edge)}) for way in ways]
    tried = 0
    while left and takes and len(found) < MOST and tried < MOST_TRIED:
        tried += 1
        best = max(range(len(takes)), key=lambda place: (len(takes[place][1] & left), -len(takes[place][0])))
        way, exits = takes.pop(best)
        if not exits & left:
            break
        kept_ = _kept(walk, way, setting, caller, len(found))
        went = call(flow, kept_, setting) if kept_ else None
        if kept_ is None or went is None or not holding.verdict(flow, kept_, setting).holds:
            continue
        new = taken(went.run.log) & left
        if new:
            left -= new
            same = sum(
                one.name.removesuffix(")").rpartition(" (")[0] == kept_.name or one.name == kept_.name for one in found
            )
            found.append(kept_.model_copy(update={"name": f"{kept_.name[:74]} ({same + 1})"}) if same else kept_)
    return Proposal(tuple(found), len(wanted) - len(left), len(wanted))


def exits_of(walk: Walk, edge: Edge) -> list[Exit]:
    """The exits that an edge of a walk takes."""
    return _exits(walk.situations[edge.source].state.at, edge.way, edge.ends)


def taken(log: Iterable[Entry]) -> set[Exit]:
    """The exits that a call took."""
    found: set[Exit] = set()
    at = ""
    for entry in log:
        found.update(_exits(at, entry.following.way, entry.following.ends))
        at = entry.state.at
    return found


def _exits(at: str, way: Sequence[Passage], ends: str) -> list[Exit]:
    found = []
    for by, step in way:
        found.append((at, by))
        at = step
    return [*found, (at, ends)] if ends else found


def _ways(walk: Walk, left: set[Exit]) -> list[list[Edge]]:
    """For each exit a whole call that takes it, by the easiest way there and on to an end."""
    onward = _onward(walk)
    found: dict[Exit, list[Edge]] = {}
    for index in range(len(walk.situations)):
        for edge in walk.edges[index]:
            new = [one for one in exits_of(walk, edge) if one in left and one not in found]
            if not new or edge.limit:
                continue
            way = [*walk.way_to(index), edge]
            while not walk.situations[way[-1].target].state.ended and way[-1].target in onward:
                way.append(onward[way[-1].target])
            if walk.situations[way[-1].target].state.ended:
                found |= dict.fromkeys(new, way)
    return list(found.values())


def _onward(walk: Walk) -> Mapping[int, Edge]:
    """For each situation the first edge of the way by the fewest events to an end, one at which the caller is not lost if there is one near."""
    into: dict[int, list[Edge]] = {}
    for edges in walk.edges:
        for edge in edges:
            if not edge.limit:
                into.setdefault(edge.target, []).append(edge)
    ended = {index: one for index, one in enumerate(walk.situations) if one.state.ended}
    cost = {index: 6 * (ending(one.state, LATE).fate == "lost") for index, one in ended.items()}
    todo = [(so_far, index) for index, so_far in cost.items()]
    heapify(todo)
    found: dict[int, Edge] = {}
    while todo:
        so_far, index = heappop(todo)
        if so_far > cost[index]:
            continue
        for edge in into.get(index, ()):
            there = so_far + (2 if isinstance(edge.event, Digit) else 1 if edge.event else 8)
            if there < cost.get(edge.source, there + 1):
                cost[edge.source], found[edge.source] = there, edge
                heappush(todo, (there, edge.source))
    return found


def _kept(walk: Walk, way: list[Edge], setting: Setting, caller: str, number: int) -> KeptRehearsal | None:
    try:
        example = along(walk, way)
    except NoExample:
        return None
    answers = [pair for one in example.happenings for pair in one.answers]
    withheld = any(answer is True for question, answer in answers if isinstance(question, Withheld))
    touch = example.number
    facts = _facts(answers, setting.names.people)
    began = keeping.Began(example.at, "" if withheld else caller, facts, (touch.lead_source or "") if touch else "")
    kept = keeping.kept(walk.flow, began, example.happenings, setting, f"p{number + 1}", "proposed")
    return kept.model_copy(update={"name": _named(walk.flow, kept, example)})


def _facts(answers: Sequence[tuple[Question, Answer]], people: Mapping[str, str]) -> dict[str, str]:
    """What is set of the caller, so that the questions about them come to the same answers."""
    found: dict[str, str] = {}
    past: list[str] = []
    for question, answer in answers:
        match question:
            case WhichShare() if isinstance(answer, int):
                found[f"share {question.split}"] = str(answer)
            case OfTouch(what="visits") if answer is True:
                found["visits"] = str(question.at_least or 1)
            case OfTouch(what="visit_age") if answer is True:
                found["visit_age"] = f"{question.hours or 1} hours"
            case OfTouch() | OfContact() if answer is True and question.any_of:
                key = "contact " + question.of if question.what == "contact_field" else str(question.what)
                found[key] = question.any_of[0]
            case HasCalled() if answer is True:
                past += [_earlier(question.came_to)] * max(0, question.at_least - len(past))
            case LastCallCameTo() if answer is True:
                past.insert(0, _earlier(question.came_to))
            case LastSpokeWith() if answer is True and question.people:
                past.insert(
                    0,
                    f"{FATE_WORDS['answered']} 20 minutes ago by {people.get(question.people[0], question.people[0])}",
                )
    return {**found, "past": ", ".join(past)} if past else found


def _earlier(came_to: Sequence[str]) -> str:
    return f"{FATE_WORDS.get(came_to[0], came_to[0]) if came_to else FATE_WORDS['answered']} 30 minutes ago"


def _named(flow: Flow, kept: KeptRehearsal, example: Example) -> str:
    """“2, 1: answered at Yard office”."""
    keys = "".join(one.event.key for one in example.happenings if isinstance(one.event, Digit))
    step = flow.steps.get(kept.expects.ends_at or "")
    came = FATE_NAMES[kept.expects.fate] if kept.expects.fate else "goes on"
    said = f"{came}{f' at {step.called}' if step else ''}"
    return (f"{keys}: {said}" if keys else sentence(said))[:80]
