"""Many days of calls to one client: when they come, from whom, to which number, and what becomes of them."""

import math
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from functools import cache, partial
from random import Random
from zoneinfo import ZoneInfo

from ..callers.past import MOST_CALLS, EarlierCall, Past
from ..calls import fates
from ..flows.model.values import POSTAL_CODE
from ..flows.questions.facts import Touch
from ..flows.questions.kinds import AnswerSource
from ..flows.running.answering import Tables, answer_source, no_tables
from ..flows.running.facts import Caller
from ..flows.running.flow import Flow
from ..people.directory import Person, Team
from ..people.line_up import Around, Staff, Turns
from ..places.whereabouts import Whereabouts
from .callers import MadeUpCaller, PhoneHabit, code_of, phone_now
from .line import CallRun, Speaking, estimated, run_call
from .waits import Waits

WEEKDAY_WEIGHT = (1.15, 1.1, 1.0, 1.0, 1.05, 0.75, 0.35)
HOUR_WEIGHT = (
    0.02, 0.01, 0.01, 0.01, 0.02, 0.06, 0.2, 0.6, 1.3, 1.9, 2.1, 1.9,
    1.5, 1.4, 1.6, 1.7, 1.5, 1.2, 0.8, 0.5, 0.35, 0.2, 0.1, 0.05,
)  # fmt: skip
"""How calls spread over the week and the day. Made up, in the shape of a small business’s day."""


@dataclass(frozen=True, slots=True)
class Line:
    """A tracking number on which calls come: its flow, calls on an average day, the first and last day, and the touch behind a call to
    it at a moment."""

    number: str
    flow: Flow
    calls_a_day: float
    first: date
    last: date
    touch: Callable[[datetime], Touch] | None = None


@dataclass(frozen=True, slots=True)
class MadeCall:
    """One call of the season, with the instant at which it arrived."""

    at: datetime
    number: str
    caller: str
    run: CallRun


Engaged = Callable[[Collection[str]], Collection[str]]


def season(
    seed: int,
    zone: ZoneInfo,
    lines: Sequence[Line],
    habits: Mapping[str, PhoneHabit],
    callers: Sequence[str],
    until: datetime,
    speaking: Speaking = estimated,
    tables: Tables = no_tables,
    people: Mapping[str, Person] | None = None,
    teams: Mapping[str, Team] | None = None,
    where: Whereabouts | None = None,
) -> Iterator[MadeCall]:
    """All calls in the order in which they arrive, the same for the same seed. Calls after `until` are left out.

    `callers` are the E.164 numbers that calls come from; some of them call again within days. `tables` finds the hours
    that flows ask for, which are asked at their own moment of a call, as are `people` and `teams`; turns are taken. Callers have a
    past with the client as it becomes one, and come from somewhere, which `where` tells of.
    """
    pasts = _Pasts(people or {})
    turns: dict[str, Turns] = {}
    nobody = Turns()

    def around_at(at: datetime, engaged: Engaged) -> Around:
        return Around(
            at, zone, tables, engaged, people or {}, teams or {}, turns=lambda key: turns.get(key, nobody),
            take=turns.__setitem__, chooser=random,
        )  # fmt: skip

    random = Random(seed)
    busy: dict[str, datetime] = {}
    arrivals = sorted(
        (at, index)
        for index, line in enumerate(lines)
        for at in _arrivals(random, zone, line)
        if at <= until
    )  # fmt: skip
    recent: list[str] = []
    waits = Waits()
    for at, index in arrivals:
        line = lines[index]
        again = bool(recent) and random.random() < 0.14
        caller = random.choice(recent) if again else random.choice(callers)
        recent = [*recent[-30:], caller]
        known = Caller(
            caller, partial(line.touch, at) if line.touch else partial(Touch, line.number), partial(pasts.of, caller, at),
            (lambda: where) if where else None, partial(pasts.code, caller), sign=caller, secret=b"simulated",
        )  # fmt: skip
        run = _one(random, zone, line, at, habits, busy, speaking, tables, around_at, waits, known, where)
        pasts.note(caller, at, run)
        yield MadeCall(at, line.number, caller, run)


class _Pasts:
    """What came of the calls of each caller so far."""

    def __init__(self, people: Mapping[str, Person]) -> None:
        self.owners = {phone.to: key for key, person in people.items() for phone in person.phones}
        self.calls: dict[str, list[tuple[datetime, EarlierCall]]] = {}
        self.codes: dict[str, str] = {}

    def of(self, caller: str, at: datetime) -> Past:
        over = [call for end, call in self.calls.get(caller, ()) if end <= at]
        return Past(at, over[::-1][:MOST_CALLS])

    def code(self, caller: str) -> str:
        return self.codes.get(caller, "")

    def note(self, caller: str, at: datetime, run: CallRun) -> None:
        end = fates.ending(run.state, run.seconds)
        who = self.owners.get(run.talks[-1][2], "") if run.talks else ""
        call = EarlierCall(at, end.fate, who)
        self.calls.setdefault(caller, []).append((at + timedelta(seconds=run.seconds), call))
        typed = dict(run.state.values).get(POSTAL_CODE)
        if typed:
            self.codes[caller] = typed


def _arrivals(random: Random, zone: ZoneInfo, line: Line) -> Iterator[datetime]:
    """Arrivals of a Poisson process whose rate follows the hour and the weekday."""
    total = sum(HOUR_WEIGHT)
    day = line.first
    while day <= line.last:
        rate = line.calls_a_day * WEEKDAY_WEIGHT[day.weekday()] / (sum(WEEKDAY_WEIGHT) / 7)
        for _ in range(_poisson(random, rate)):
            hour = random.choices(range(24), HOUR_WEIGHT)[0] if total else 12
            second = random.randrange(3600)
            local = datetime.combine(day, time(hour, second // 60, second % 60), zone)
            yield local.astimezone(ZoneInfo("UTC"))
        day += timedelta(days=1)


def _poisson(random: Random, mean: float) -> int:
    """A Poisson draw by multiplication of uniforms. Source: D. Knuth, The Art of Computer Programming, 3.4.1."""
    bound, product, n = math.exp(-mean), random.random(), 0
    while product > bound:
        n += 1
        product *= random.random()
    return n


def _one(
    random: Random,
    zone: ZoneInfo,
    line: Line,
    at: datetime,
    habits: Mapping[str, PhoneHabit],
    busy: dict[str, datetime],
    speaking: Speaking,
    tables: Tables,
    around_at: Callable[[datetime, Engaged], Around],
    waits: Waits,
    known: Caller,
    where: Whereabouts | None,
) -> CallRun:
    local = at.astimezone(zone)
    working = local.weekday() < 6 and 8 <= local.hour < 18
    phones = {number: phone_now(random, habit, working=working) for number, habit in habits.items()}

    def engaged_at(moment: datetime) -> Engaged:
        return lambda numbers: [number for number in numbers if (until := busy.get(number)) and until > moment]

    def source_at(seconds: float) -> AnswerSource:
        moment = at + timedelta(seconds=seconds)
        engaged = engaged_at(moment)
        around = cache(lambda: around_at(moment, engaged))
        return answer_source(
            line.flow, moment, zone, tables, engaged, Staff(around, lambda step: f"{line.flow.document.mark}:{step.id}"),
            lambda step, question: waits.turn(step, question, around()),
            look_up=lambda _step, _question: ("not_found", ""), caller=known,
        )  # fmt: skip

    made_up = MadeUpCaller(random, line.flow, code_of(known.number, where))
    run = run_call(line.flow, made_up, phones, speaking=speaking, source_at=source_at)
    waits.note(line.flow, at, run)
    for start, end, number in run.talks:
        if end > start:
            busy[number] = at + timedelta(seconds=end)
    return run
