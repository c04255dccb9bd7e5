"""Keeping a call: a rehearsal, or an example of the proof, made into one that can be run again, with what it came to as what it should come to."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from ..calls.fates import ending
from ..flows.model.kept import Expected, KeptRehearsal, OnDate, PhoneDoes, PhoneScript, Pressed, SystemSays
from ..flows.model.steps import KeypadEntry, Menu
from ..flows.questions.kinds import Answer, CanBeRung, LookedUp, Question, WhoIsFree
from ..flows.running import engine
from ..flows.running.commands import RingLeg
from ..flows.running.events import Digit, Event, Gone, Leg, LegOutcome, Recorded, Silence
from ..flows.running.flow import Flow
from ..flows.running.state import State
from ..flows.running.turn import Passage
from ..proof.examples import Happening
from . import moments
from .calls import Setting, Went, call
from .holding import came_to

_DOES: Mapping[LegOutcome, PhoneDoes] = {
    "answered": "answers", "accepted": "answers", "refused": "no_key", "busy": "busy", "declined": "declines", "rang_out": "rings_out",
    "unreachable": "unreachable", "machine": "mailbox",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Began:
    """How a call began: when, from whom (empty: withheld), with which facts set, to a number of which lead source, and behind how many."""

    at: datetime
    caller: str
    facts: Mapping[str, str] = field(default_factory=dict)
    lead_source: str = ""
    ahead: int = 0


@dataclass
class _Heard:
    """What is read off a call, event by event."""

    presses: list[Pressed] = field(default_factory=list)
    phones: dict[str, list[PhoneDoes]] = field(default_factory=dict)
    engaged: set[str] = field(default_factory=set)
    system: list[SystemSays] = field(default_factory=list)
    message: float | None = None
    stays: bool = False
    hangs_up: int | None = None
    answering: bool = False
    legs: dict[int, str] = field(default_factory=dict)
    visits: set[int] = field(default_factory=set)
    since: float = 0.0


def kept(
    flow: Flow, began: Began, happenings: Sequence[Happening], setting: Setting, id: str, name: str
) -> KeptRehearsal:
    """A call that was made, to be run again: when by what its moment means, unless only that very day goes the same way."""
    heard, state = _Heard(), State()
    rang: list[str] = []
    way: list[Passage] = []
    for one in happenings:
        answers = dict(one.answers)
        _note(flow, heard, state, one.event, one.seconds)
        _asked(flow, heard, answers)
        following, _ = engine.run(flow, state, one.event, answers.__getitem__)
        if following.state.at != state.at:
            heard.since = one.seconds
        state = following.state
        way += following.way
        for command in following.commands:
            if isinstance(command, RingLeg):
                heard.legs[command.id] = _who(state, command)
                rang.append(heard.legs[command.id])
    end = ending(state, happenings[-1].seconds if happenings else 0.0)
    expects = Expected(
        fate=end.fate if state.ended else None, ends_at=state.at or None, rings=tuple(dict.fromkeys(rang))[:20]
    )
    scripts = [PhoneScript(who=who, does=tuple(does[:20])) for who, does in heard.phones.items()]
    scripts += [PhoneScript(who=who, does=("on_call",)) for who in sorted(heard.engaged - set(heard.phones))]
    call_ = KeptRehearsal(
        id=id, name=name, when=OnDate(date=began.at.date(), at="00:00"), caller=began.caller,
        lead_source=began.lead_source, facts=tuple(began.facts.items()), presses=tuple(heard.presses[:60]), phones=tuple(scripts[:60]),
        message=heard.message, stays=heard.stays, hangs_up=heard.hangs_up, ahead=began.ahead, system=tuple(heard.system[:20]), expects=expects,
    )  # fmt: skip
    meant = moments.meanings(began.at, setting.client.hours, setting.client.zone)
    tried = [call_.model_copy(update={"when": one}) for one in meant]
    if heard.engaged and not heard.phones:
        everybody = (PhoneScript(does=("on_call",)),)
        tried = [one.model_copy(update={"phones": everybody}) for one in tried] + tried
    alike = [_alike(call(flow, one, setting), way, expects) for one in tried]
    return tried[alike.index(max(alike))]


def _alike(went: Went | None, way: Sequence[Passage], wanted: Expected) -> int:
    """How far a call goes as it went: the same way, only to the same end, or neither."""
    if went is None:
        return 0
    same_end = went.run.state.at == wanted.ends_at and wanted.fate in (None, came_to(went).fate)
    return same_end + (same_end and [one for entry in went.run.log for one in entry.following.way] == way)


def _note(flow: Flow, heard: _Heard, state: State, event: Event, seconds: float) -> None:
    here = flow.steps.get(state.at)
    asks = isinstance(here, Menu | KeypadEntry) and state.phase in ("waiting", "saying")
    match event:
        case Digit() if asks and heard.answering and state.pending:
            last = heard.presses[-1]
            heard.presses[-1] = last.model_copy(update={"keys": (last.keys + event.key)[:40]})
        case Digit() if asks:
            heard.presses.append(Pressed(keys=event.key))
            heard.answering = True
        case Digit():
            after = max(0, min(7200, int(seconds - heard.since)))
            heard.presses.append(Pressed(keys=event.key, at=state.at or None, after=after))
        case Silence() if asks and not state.pending:
            heard.presses.append(Pressed())
        case Leg() if event.outcome in _DOES and event.command in heard.legs:
            _rang(heard, heard.legs[event.command], event.outcome)
        case Recorded():
            heard.message, heard.stays = event.voice, not event.gone
        case Gone():
            heard.hangs_up = min(7200, round(seconds))
        case _:
            return
    if not isinstance(event, Digit):
        heard.answering = False


def _rang(heard: _Heard, who: str, outcome: LegOutcome) -> None:
    does = heard.phones.setdefault(who, [])
    if outcome in ("accepted", "refused") and does and does[-1] == "answers":
        does[-1] = _DOES[outcome]
    else:
        does.append(_DOES[outcome])


def _asked(flow: Flow, heard: _Heard, answers: Mapping[Question, Answer]) -> None:
    for question, answer in answers.items():
        if isinstance(question, WhoIsFree) and isinstance(answer, tuple):
            called = {one.id: one.name or one.dialed for one in getattr(flow.steps.get(question.step), "to", ())}
            states = zip(question.destinations, answer, strict=True)
            heard.engaged |= {called.get(who, who) for who, state in states if state == "on_call"}
        elif isinstance(question, CanBeRung) and isinstance(answer, tuple):
            heard.engaged |= {one.who for one, state in zip(question.phones, answer, strict=True) if state == "on_call"}
        elif isinstance(question, LookedUp) and isinstance(answer, tuple) and question.visit not in heard.visits:
            what = str(answer[0])
            if what != "pending":
                heard.visits.add(question.visit)
                heard.system.append(SystemSays.model_validate({"what": what, "value": str(answer[1])}))


def _who(state: State, command: RingLeg) -> str:
    leg = next((one for one in state.ring.legs if one.command == command.id), None) if state.ring else None
    return (
        leg.rung.who
        if leg is not None and leg.rung is not None
        else command.destination.name or command.destination.dialed
    )
