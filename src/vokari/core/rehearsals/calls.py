"""A kept rehearsal as a call: the engine run from end to end with its caller, its phones, and the client's hours and people at its moment."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from functools import cache, cached_property
from random import Random

from ..flows.conditions.base import Names
from ..flows.model.kept import KeptRehearsal, PhoneDoes, Pressed
from ..flows.model.steps import HoldLine, KeypadEntry, LookUp, Menu, Ring
from ..flows.model.values import NumberDestination
from ..flows.questions.facts import Touch
from ..flows.questions.kinds import AnswerSource, HoldAnswer, HoldTurn, LookedUp, LookedUpAnswer
from ..flows.running import set_facts
from ..flows.running.answering import answer_source
from ..flows.running.commands import Command, Hold, Listen, Play, RingLeg
from ..flows.running.flow import Flow
from ..flows.running.state import State
from ..holding.line import Served, served, turn
from ..people.line_up import Around, Staff, Unit
from ..places.document import Places
from ..places.whereabouts import Whereabouts
from ..proof.world import Client
from ..traffic.line import CallRun, Message, Phone, run_call
from . import moments

TALK, PICKS_UP, DECLINES = 60.0, 4.0, 5.0
EACH = 60.0
"""Seconds after which the next of those who wait before this caller is served."""
GAP = 0.5
"""Seconds between two keys, and before the first of them."""


@dataclass(frozen=True)
class Setting:
    """What a flow's client has, and what its conditions can name, for the rehearsals kept with it; `secret` is what shares are drawn by."""

    client: Client
    now: datetime
    names: Names = field(default_factory=Names)
    where: Whereabouts = field(default_factory=lambda: Whereabouts(Places(), "US"))
    secret: bytes = b"kept"


@dataclass(frozen=True, slots=True)
class Rang:
    """A phone that rang, after so many seconds: whose it is (the key of a person or the id of a destination), the name, and what was dialed."""

    who: str
    name: str
    to: str
    seconds: float


@dataclass(frozen=True, slots=True)
class Went:
    """A call as it went, from when on, and the phones that rang."""

    at: datetime
    run: CallRun
    rang: tuple[Rang, ...]


def call(flow: Flow, kept: KeptRehearsal, setting: Setting) -> Went | None:
    """Runs a kept rehearsal; None where its moment does not come any more. Nobody is switched off by hand in it, and all turns are first ones."""
    client = setting.client
    at = moments.instant(kept.when, client.hours, client.zone, setting.now)
    if at is None:
        return None
    phones = _Phones(kept, flow)
    facts = dict(kept.facts)
    touch = _touch(kept, client.numbers)
    known = set_facts.caller(
        facts,
        kept.caller,
        at,
        setting.names,
        lambda: touch,
        lambda: setting.where,
        setting.secret,
        kept.caller or kept.id,
    )
    system = _System(kept)

    def source_at(seconds: float) -> AnswerSource:
        moment = at + timedelta(seconds=seconds)

        @cache
        def around() -> Around:
            return Around(
                moment,
                client.zone,
                client.hours.get,
                phones.engaged_of(client),
                client.people,
                client.teams,
                chooser=Random(0),
            )

        def hold_turn(step: HoldLine, question: HoldTurn) -> HoldAnswer:
            return turn(step, question, served(step.team, around(), {question.but}), _InLine(kept.ahead, seconds))

        return answer_source(
            flow, moment, client.zone, client.hours.get, phones.engaged, Staff(around, lambda step: step.id), hold_turn,
            look_up=system.answers, caller=known,
        )  # fmt: skip

    run = run_call(flow, _Caller(kept, flow), phones, source_at=source_at)
    begun = [entry.at for entry in run.log for one in entry.commands if isinstance(one, RingLeg)]
    return Went(at, run, tuple(replace(one, seconds=when) for one, when in zip(phones.rang, begun, strict=True)))


def _touch(kept: KeptRehearsal, numbers: tuple[Touch, ...]) -> Touch:
    """What the number dialed tells: one of the lead source, else the flow's first."""
    of_source = (one for one in numbers if one.lead_source == kept.lead_source and kept.lead_source)
    return next(of_source, None) or (Touch("", kept.lead_source) if kept.lead_source else next(iter(numbers), Touch()))


class _Phones:
    """The phones of a call: what each does, each time it rings."""

    def __init__(self, kept: KeptRehearsal, flow: Flow) -> None:
        self.flow = flow
        self.script = {one.who.casefold(): one.does for one in kept.phones}
        self.rang: list[Rang] = []
        self.times: dict[str, int] = {}

    def __call__(self, leg: RingLeg, state: State) -> Phone:
        """What a phone does that rings now."""
        rung = self._rung(leg, state)
        self.rang.append(rung)
        does = self._of(rung.who, rung.name, rung.to)
        times = self.times.get(rung.to, 0)
        self.times[rung.to] = times + 1
        return _PHONES[does[min(times, len(does) - 1)]]

    def _of(self, *called: str) -> tuple[PhoneDoes, ...]:
        named = (self.script[one.casefold()] for one in called if one and one.casefold() in self.script)
        return next(named, None) or self.script.get("") or ("rings_out",)

    def _rung(self, leg: RingLeg, state: State) -> Rang:
        dialed = leg.destination.dialed
        found = next((one for one in state.ring.legs if one.command == leg.id), None) if state.ring else None
        if found is not None and found.rung is not None:
            return Rang(found.rung.who, found.rung.name, dialed, 0.0)
        return Rang(leg.destination.id, leg.destination.name, dialed, 0.0)

    def engaged(self, numbers: Collection[str]) -> Collection[str]:
        """Which phones of destinations are on another call."""
        return [one for one in numbers if self._of(one, *self._destinations.get(one, ())) == ("on_call",)]

    @cached_property
    def _destinations(self) -> Mapping[str, tuple[str, ...]]:
        found: dict[str, tuple[str, ...]] = {}
        for step in self.flow.steps.values():
            for one in step.to if isinstance(step, Ring) else ():
                if isinstance(one, NumberDestination):
                    found[one.number] = (one.id, one.name)
        return found

    def engaged_of(self, client: Client) -> Callable[[Collection[str]], Collection[str]]:
        """Which phones of people are on another call."""
        owners = {phone.to: (key, person.name) for key, person in client.people.items() for phone in person.phones}
        return lambda numbers: [one for one in numbers if self._of(*owners.get(one, ()), one) == ("on_call",)]


_PHONES: Mapping[PhoneDoes, Phone] = {
    "answers": Phone("answers", PICKS_UP, TALK), "no_key": Phone("answers", PICKS_UP, TALK, accepts=False), "busy": Phone("busy"),
    "declines": Phone("declines", DECLINES), "rings_out": Phone("rings_out"), "unreachable": Phone("unreachable"),
    "mailbox": Phone("mailbox", PICKS_UP * 3, TALK), "on_call": Phone("busy"),
}  # fmt: skip


class _Caller:
    """The caller of a kept rehearsal, as a line has them: answers when keys are asked for, in their order."""

    def __init__(self, kept: KeptRehearsal, flow: Flow) -> None:
        self.flow = flow
        self.press = tuple(
            (one.after + place * GAP, key)
            for one in kept.presses
            if one.after is not None and one.at is None
            for place, key in enumerate(one.keys)
        )
        self.hangs_up: float | None = kept.hangs_up
        self.message = Message(kept.message or 0.0, "key" if kept.stays else "hang_up")
        self._waiting: list[Pressed] = [one for one in kept.presses if one.after is None]
        self._there: list[Pressed] = [one for one in kept.presses if one.at is not None]

    def hears(self, command: Play | Listen | Hold, now: float, seconds: float, state: State) -> list[tuple[float, str]]:
        """Answers once a prompt that asks is over, with all the keys of the answer; the rest of a longer entry is on its way by then. What is pressed
        at some step is pressed from the first that is heard there."""
        here = [one for one in self._there if one.at == state.at]
        if here:
            self._there = [one for one in self._there if one not in here]
            return [((one.after or 0) + GAP * place, key) for one in here for place, key in enumerate(one.keys)]
        asks = isinstance(self.flow.steps.get(state.at), Menu | KeypadEntry) and state.phase == "waiting"
        if not isinstance(command, Listen) or not asks or state.pending or not self._waiting:
            return []
        keys = self._waiting.pop(0).keys
        return [(GAP * (place + 1), key) for place, key in enumerate(keys)]

    def meets(self, command: Command, now: float) -> None:
        return None


class _System:
    """What the client's system answers, one look-up after the other."""

    def __init__(self, kept: KeptRehearsal) -> None:
        self.says = list(kept.system)
        self.known: dict[int, LookedUpAnswer] = {}

    def answers(self, _step: LookUp, question: LookedUp) -> LookedUpAnswer:
        if question.visit not in self.known:
            said = self.says.pop(0) if self.says else None
            self.known[question.visit] = (said.what, said.value) if said else ("failed", "")
        return self.known[question.visit]


@dataclass(frozen=True, slots=True)
class _InLine:
    """A caller with so many before them when they came, of whom one is served a minute."""

    before: int
    seconds: float

    def length(self) -> int:
        return self.before

    def join(self) -> None:
        return None

    def person(self, line: Served) -> Unit | None:
        return line.free[0] if not self.ahead() else None

    def ahead(self) -> int:
        return max(0, self.before - int(self.seconds / EACH))

    def mean_talk(self) -> float:
        return 0.0
