"""What a caller meets in one event of a call, and how two versions of a flow differ in it.

What a version does is said in words that go on from “key 4 now” and from “before, it”.
"""

from collections.abc import Hashable, Iterator, Mapping
from typing import Literal, NamedTuple

from ..flows.model.steps import Announcement, AnyStep, HoldLine, KeypadEntry, Menu, Ring, Voicemail
from ..flows.running.commands import Hold, Listen, Play, Record, RingLeg
from ..flows.running.engine import Next
from ..flows.running.flow import Flow
from ..flows.running.state import State

LONGEST = 70
"""Letters of what is heard that are told."""


class Did(NamedTuple):
    """What one version does, in words, and the step at which it does."""

    words: str
    step: str


class Unlike(NamedTuple):
    """A difference in one event: what it was (without words where there was nothing), what it is now, and whether calls go another way by it (else only what is heard, or
    how long, differs)."""

    before: Did
    after: Did
    parts: bool


Side = tuple[Flow, Next]
Fit = Literal["same", "unlike", "apart"]


def fit(before: Side, after: Side, called: Mapping[str, str]) -> tuple[Fit, tuple[Unlike, ...]]:
    """Whether two versions do the same in an event, differ only in what is heard or how long, or go apart. `called` are the names of
    mailboxes and lead sources by key."""
    if _apart(before, after):
        return "apart", (otherwise(before, after),)
    (_, old), (_, new) = before, after
    found = [
        Unlike(Did(was, old.state.at), Did(now, new.state.at), False)
        for was, now in _details(old, new, called)
        if was != now
    ]
    return ("unlike" if found else "same"), tuple(found)


def otherwise(before: Side, after: Side) -> Unlike:
    """Another way: what each of two versions comes to first that the other does not."""
    first = _first(before, after)
    if first is None:
        return Unlike(_now(*before), _now(*after), True)
    was, now = first
    return Unlike(_step(before, was), _step(after, now), True)


def added(side: Side, *, now: bool) -> Unlike:
    """An announcement that only one of two versions makes: the one there is `now`, or the one before."""
    flow, one = side
    said = _says(one) or f"plays {flow.steps[one.state.at].quoted}"
    if now:
        return Unlike(Did("", one.state.at), Did(f"{said} first", one.state.at), False)
    return Unlike(Did("", one.state.at), Did(f"no longer {said}", one.state.at), False)


def is_between(said: Side, later: Next, other: Side) -> bool:
    """Whether an announcement of one version only stands before what both come to: what the other comes to first is what follows it."""
    first = _first(other, said)
    flow, _ = said
    follows = [step for _, step in later.way if _is_met(flow, step)]
    return first is None or first[0] == "" or first[0] in follows[:1]


def unrung(before: Side, after: Side) -> bool:
    """Whether both came to phones before their ways are not the same, and went on from there."""
    steps = before[0].steps
    for (_, was), (_, now) in zip(before[1].way, after[1].way, strict=False):
        if was != now:
            return False
        if isinstance(steps.get(was), Ring | HoldLine) and was not in (before[1].state.at, after[1].state.at):
            return True
    return False


def _first(before: Side, after: Side) -> tuple[str, str] | None:
    """The first steps that each comes to of those that a caller notices, from where their ways are not the same; "" where one comes to none."""
    ways = [[step for _, step in one.way if _is_met(flow, step)] for flow, one in (before, after)]
    common = 0
    while common < min(len(ways[0]), len(ways[1])) and ways[0][common] == ways[1][common]:
        common += 1
    was, now = (way[common] if common < len(way) else "" for way in ways)
    return (was, now) if was or now else None


def _is_met(flow: Flow, step_id: str) -> bool:
    """Whether a caller notices that a step is entered."""
    return isinstance(flow.steps.get(step_id), Announcement | HoldLine | KeypadEntry | Menu | Ring | Voicemail)


def _step(side: Side, step_id: str) -> Did:
    flow, one = side
    here = flow.steps.get(step_id)
    if here is None:
        return _now(flow, one)
    return Did(_comes_to(here), step_id)


def _comes_to(here: AnyStep) -> str:
    """What it is to come to a step."""
    match here:
        case Ring():
            return f"rings {here.quoted}"
        case HoldLine():
            return f"puts the caller in line at {here.quoted}"
        case Voicemail():
            return f"goes to {here.quoted}"
        case Menu() | KeypadEntry():
            return f"asks “{_short(here.prompt.say)}”"
        case Announcement():
            return f"says “{_short(here.prompt.say)}”"
    return f"goes on at {here.quoted}"


def _now(flow: Flow, one: Next) -> Did:
    """What a version does that comes to no other step."""
    state = one.state
    here = flow.steps.get(state.at)
    if state.ended or here is None:
        return Did("ends the call", state.at)
    phones = rung(flow, state)
    if phones:
        return Did(f"rings {', '.join(dict.fromkeys(name or dialed for dialed, name in phones.items()))}", state.at)
    if state.phase == "talking":
        return Did("lets them talk", state.at)
    return Did(_says(one) or f"stays at {here.quoted}", state.at)


def rung(flow: Flow, state: State) -> dict[str, str]:
    """The phones that ring in a state, as they are dialed, each with what it is called."""
    if state.ring is None:
        return {}
    to = getattr(flow.steps.get(state.at), "to", ())
    found = {}
    for leg in state.ring.legs:
        if leg.rung is not None:
            found[leg.rung.to] = leg.rung.name
        elif 0 <= leg.destination < len(to):
            found[to[leg.destination].dialed] = to[leg.destination].name
    return found


def _apart(before: Side, after: Side) -> bool:
    (old_flow, old), (new_flow, new) = before, after
    if old.state.ended or new.state.ended:
        return old.state.ended != new.state.ended
    here, there = old_flow.steps.get(old.state.at), new_flow.steps.get(new.state.at)
    if type(here) is not type(there) or old.state.phase != new.state.phase:
        return True
    return set(rung(old_flow, old.state)) != set(rung(new_flow, new.state))


def _details(old: Next, new: Next, called: Mapping[str, str]) -> Iterator[tuple[str, str]]:
    """What can differ although a call goes on alike: pairs of words, before and now."""
    yield _says(old) or "says nothing", _says(new) or "says nothing"
    was, now = _rung_for(old), _rung_for(new)
    for dialed, (how, words) in now.items():
        if dialed in was and was[dialed][0] != how:
            yield was[dialed][1], words
    yield _listens(old), _listens(new)
    yield _records(old, called), _records(new, called)
    yield _credits(old.state, called), _credits(new.state, called)


def _says(one: Next) -> str:
    """What is heard in an event; empty where there are no words."""
    said = [play.prompt.say for play in one.commands if isinstance(play, Play) and play.prompt.say]
    music = [hold.prompt.say for hold in one.commands if isinstance(hold, Hold) and hold.prompt and hold.prompt.say]
    return f"says “{_short(' '.join([*said, *music]))}”" if said or music else ""


def _short(text: str) -> str:
    text = " ".join(text.split())
    return text if len(text) <= LONGEST else f"{text[: LONGEST - 1].rstrip()}…"


def _rung_for(one: Next) -> dict[str, tuple[Hashable, str]]:
    """How each phone is rung, by what is dialed: what makes a difference to people, and in words."""
    found: dict[str, tuple[Hashable, str]] = {}
    for leg in one.commands:
        if isinstance(leg, RingLeg):
            accept = f", to be taken by {leg.accept.key}" if leg.accept else ""
            whisper = f", with “{_short(leg.whisper)}”" if leg.whisper else ""
            dialed = leg.destination.dialed
            how = (leg.seconds, accept, whisper, leg.shows)
            found[dialed] = (how, f"rings {leg.destination.name or dialed} for {leg.seconds} s{accept}{whisper}")
    return found


def _listens(one: Next) -> str:
    waits = [command.seconds for command in one.commands if isinstance(command, Listen)]
    return f"waits {waits[0]:g} s for a key" if waits else ""


def _records(one: Next, called: Mapping[str, str]) -> str:
    for command in one.commands:
        if isinstance(command, Record) and command.mailbox:
            end = f", ended by {command.stop_key}" if command.stop_key else ""
            return (
                f"keeps a message of at most {command.longest} s in {called.get(command.mailbox, command.mailbox)}{end}"
            )
    return ""


def _credits(state: State, called: Mapping[str, str]) -> str:
    parts = [f"the label {one}" for one in state.labels]
    parts += [f"the lead source {called.get(state.source, state.source)}"] if state.source else []
    parts += [f"the lead status {state.lead_status}"] if state.lead_status else []
    return f"gives the call {', '.join(parts)}" if parts else "gives the call no label or lead source"
