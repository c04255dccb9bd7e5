"""Whose turn it is to be rung, in waves one after the other, and who can be rung at a moment: people and teams as they are.

The turn is looked at once a round; all who have a phone have a place in it, also those who are on a call or off duty when it
begins. Whether somebody can be rung is looked at just before it would happen.
"""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from fractions import Fraction
from itertools import zip_longest
from random import Random
from typing import Any
from zoneinfo import ZoneInfo

from ..flows.model.steps import HoldLine, Ring
from ..flows.model.values import PersonDestination, TeamDestination
from ..flows.questions.kinds import Availability, LineUpAnswer, Rung
from ..hours.timetable import Timetable
from ..numbers.ringing import usual_seconds
from . import shares
from .directory import Person, Strategy, Team

MOST_AT_ONCE = 30
"""How many phones the carrier rings at once for one call; those above are rung after them."""
CIRCLES: tuple[Strategy, ...] = ("in_order", "round_robin", "rota")
"""Strategies in which everybody keeps a place in a circle."""
KEPT_SHARES = 24
"""For how many sets of shares the calls of each member are remembered."""

Wave = tuple[Rung, ...]
Waves = list[Wave]


@dataclass(frozen=True, slots=True)
class Duty:
    """What is known of a person at work: switched off, how many calls they took today, since when they are idle, and
    whether they are on a call."""

    off: bool = False
    taken_today: int = 0
    idle_since: datetime | None = None
    on_call: bool = False


@dataclass(frozen=True, slots=True)
class Turns:
    """Whose turn it was: the member rung first by the last call, and how many calls each has had under each set of
    shares, the latest used last."""

    last: str = ""
    counts: tuple[tuple[str, tuple[tuple[str, int], ...]], ...] = ()


@dataclass(frozen=True, slots=True)
class Unit:
    """A member of a team or a destination of a step: its key, whether it is reached now, the waves in which it can be rung
    now, its share, and the waves in which it may be rung later in the round."""

    key: str
    state: Availability
    waves: Waves
    share: Fraction = Fraction(1)
    idle_since: datetime | None = None
    later: Waves = field(default_factory=list)

    @property
    def all(self) -> Waves:
        return [*self.waves, *self.later]


@dataclass(slots=True)
class Around:
    """All that the line-up depends on. `turns` reads whose turn it was, `take` writes it down; a call that takes no turns
    passes one that does nothing. `spoke_with` gives the number at which this caller talked to somebody last, within so many
    days."""

    at: datetime
    zone: ZoneInfo
    tables: Callable[[str], Timetable | None]
    busy: Callable[[Collection[str]], Collection[str]]
    people: Mapping[str, Person] = field(default_factory=dict)
    teams: Mapping[str, Team] = field(default_factory=dict)
    duty: Callable[[str], Duty] = lambda _: Duty()
    turns: Callable[[str], Turns] = lambda _: Turns()
    take: Callable[[str, Turns], None] = lambda _key, _turns: None
    chooser: Random = field(default_factory=lambda: Random(0))
    spoke_with: Callable[[int], str] = lambda _days: ""


def line_up(step: Ring, turn_key: str, round_: int, around: Around) -> LineUpAnswer:
    """The waves of one round of a Ring step, the states of those who have no phone, and whether another round follows.

    Whom the caller spoke with last is rung first and alone, in the first round, if they are among those to be rung; such a
    call takes no turn.
    """
    known = around.spoke_with(step.last_spoke.days) if step.last_spoke and round_ == 1 else ""
    if known:
        plain = replace(around, take=lambda _key, _turns: None)
        waves, missing, more = line_up(step.model_copy(update={"last_spoke": None}), turn_key, 1, plain)
        who = _owner(known, step, around, waves)
        if who:
            own = [(rung,) for wave in waves for rung in wave if rung.who == who]
            others = [tuple(rung for rung in wave if rung.who != who) for wave in waves]
            return ((*own, *(wave for wave in others if wave)), missing, more)
    units = [_destination(one, round_, around) for one in step.to]
    most = max(
        [step.rounds, *(rounds_of(one.team, around.teams) for one in step.to if isinstance(one, TeamDestination))]
    )
    arranged = _arranged(units, step.strategy, turn_key, round_, around)
    states: set[Availability] = {one.state for one in units if not one.all}
    return (tuple(_within(arranged)), tuple(sorted(states)), round_ < most)


def rung_now(step: Ring, turn_key: str, round_: int, around: Around) -> LineUpAnswer:
    """A line-up as it would be rung if no time passed: those who can be rung at this moment, and the states of the others."""
    waves, missing, more = line_up(step, turn_key, round_, around)
    found = [[(rung, state_of(rung, step, around)) for rung in wave] for wave in waves]
    free = [tuple(rung for rung, state in wave if state == "free") for wave in found]
    states = {*missing, *(state for wave in found for _, state in wave if state != "free")}
    return (tuple(wave for wave in free if wave), tuple(sorted(states)), more)


def state_of(rung: Rung, step: Ring | HoldLine, around: Around) -> Availability:
    """Whether a phone of a line-up can be rung at this moment: as the person's, by the team that names them, or as a
    destination of the step itself."""
    own = next(
        (one for one in getattr(step, "to", ()) if one.id == rung.who and rung.to == getattr(one, "dialed", "")), None
    )
    if own is not None and not rung.team:
        return _destination(own, 1, around).state
    team = around.teams.get(rung.team)
    member = next((one for one in team.members if one.person == rung.who), None) if team else None
    if rung.team and member is None:
        return "off"
    unit = reached(rung.who, None, member.hours if member else None, Fraction(1), around)
    if unit.state != "free":
        return unit.state
    return "free" if any(one.to == rung.to for wave in unit.waves for one in wave) else "off"


def anybody_free(step: Ring, around: Around) -> bool:
    """Whether anybody whom a step rings can be rung at this moment; takes no turn."""
    plain = replace(around, take=lambda _key, _turns: None)
    return any(_destination(one, 1, plain).state == "free" for one in step.to)


@dataclass(frozen=True, slots=True)
class Staff:
    """The people of one moment, as `flows.answering` asks for them. `around` gives all that is known of them, `turn_key`
    where the turns of a step are kept."""

    around: Callable[[], Around]
    turn_key: Callable[[Ring], str]

    def line_up(self, step: Ring, round_: int) -> LineUpAnswer:
        return line_up(step, self.turn_key(step), round_, self.around())

    def states(self, step: Ring | HoldLine, phones: Sequence[Rung]) -> tuple[Availability, ...]:
        return tuple(state_of(one, step, self.around()) for one in phones)

    def anybody_free(self, step: Ring) -> bool:
        return anybody_free(step, self.around())

    def extensions(self) -> tuple[str, ...]:
        return tuple(sorted(one.extension for one in self.around().people.values() if one.extension))

    def person_at(self, extension: str) -> str:
        return next((key for key, one in self.around().people.items() if one.extension == extension), "")


def _owner(number: str, step: Ring, around: Around, waves: Sequence[Wave]) -> str:
    """Which of those who can be rung has a number: a person by any of their phones, or a phone of the step itself."""
    rung = {one.who for wave in waves for one in wave if state_of(one, step, around) == "free"}
    for who in sorted(rung):
        person = around.people.get(who)
        if person is not None and any(phone.to == number for phone in person.phones):
            return who
    own = (one.id for one in step.to if getattr(one, "dialed", "") == number and one.id in rung)
    return next(own, "")


def rounds_of(key: str, teams: Mapping[str, Team], seen: frozenset[str] = frozenset()) -> int:
    """How many rounds a team takes with those that stand behind it."""
    team = teams.get(key)
    if team is None or key in seen:
        return 1
    return team.rounds + (rounds_of(team.then, teams, seen | {key}) - 1 if team.then else 0)


def circle(key: str, teams: Mapping[str, Team]) -> list[str]:
    """The teams of a way that comes back to itself, in order; empty where there is none."""
    way: list[str] = []
    at: str | None = key
    while at is not None and at in teams:
        if at in way:
            return way[way.index(at) :]
        way.append(at)
        at = teams[at].then
    return []


def _destination(one: Any, round_: int, around: Around) -> Unit:
    if isinstance(one, PersonDestination):
        return reached(one.person, one.seconds, None, Fraction(one.weight), around)
    if isinstance(one, TeamDestination):
        return _team(one.team, round_, around, frozenset())
    to = str(getattr(one, "number", "") or getattr(one, "address", ""))
    if not to:
        return Unit(one.id, "off", [])
    waves: Waves = [(Rung(one.id, one.name, to, one.seconds or usual_seconds(to), answered=one.answered),)]
    if not _in_hours(one.hours, around):
        return Unit(one.id, "off", [], later=waves)
    if to in set(around.busy([to])):
        return Unit(one.id, "on_call", [], later=waves)
    return Unit(one.id, "free", waves)


def reached(key: str, seconds: int | None, hours: str | None, share: Fraction, around: Around, team: str = "") -> Unit:
    """A person as they are now, in a team (by its key) or a step that rings them for so many seconds in some hours."""
    person, duty = around.people.get(key), around.duty(key)
    if person is None:
        return Unit(key, "off", [], share)
    today = around.at.astimezone(around.zone).date()
    phones: list[tuple[Wave, bool]] = [
        (
            (Rung(key, person.name, phone.to, phone.seconds or seconds or phone.rings, team, phone.answered),),
            _in_hours(phone.hours, around),
        )
        for phone in person.phones
        if not phone.is_aside(today)
    ]
    now: Waves = [wave for wave, here in phones if here]
    later: Waves = [wave for wave, here in phones if not here]
    if (
        duty.off
        or person.away_on(today)
        or (person.daily_limit is not None and duty.taken_today >= person.daily_limit)
        or not _in_hours(hours, around)
        or not _in_hours(person.hours, around)
    ):
        return Unit(key, "off", [], share, later=[*now, *later])
    if duty.on_call or set(around.busy([phone.to for phone in person.phones])):
        return Unit(key, "on_call", [], share, duty.idle_since, [*now, *later])
    return Unit(key, "free" if now else "off", now, share, duty.idle_since, later)


def members_of(key: str, around: Around) -> list[Unit]:
    """Each member of a team, by its key, as they are now."""
    today = around.at.astimezone(around.zone).date()
    members = around.teams[key].members
    return [reached(one.person, one.seconds, one.hours, one.share(today), around, key) for one in members]


def _team(key: str, round_: int, around: Around, seen: frozenset[str]) -> Unit:
    """A team as one: free if anybody is, else on a call if anybody is. The team behind it follows its last round, or at
    once when nobody of it can be rung."""
    team = around.teams.get(key)
    if team is None or key in seen:
        return Unit(key, "off", [])
    units: list[Unit] = []
    waves: Waves = []
    if round_ <= team.rounds:
        units = members_of(key, around)
        waves = _arranged(units, team.strategy, key, round_, around, team)
    if team.then and (round_ >= team.rounds or not any(one.waves for one in units)):
        behind = _team(team.then, max(1, round_ - team.rounds + 1), around, seen | {key})
        units, waves = [*units, behind], [*waves, *behind.all]
    states = {one.state for one in units}
    if "free" in states:
        return Unit(key, "free", waves)
    return Unit(key, "on_call" if "on_call" in states else "off", [], later=waves)


def _in_hours(hours: str | None, around: Around) -> bool:
    table = around.tables(hours) if hours else None
    return table is None or table.at(around.at).is_open


# in which order


def _arranged(
    units: Sequence[Unit], strategy: Strategy, turn_key: str, round_: int, around: Around, team: Team | None = None
) -> Waves:
    """The waves of all units in the order of a strategy: those who can be rung now, with the others in their own place of
    the circle, or after them where the order has no places."""
    free = in_turn(units, strategy, turn_key, round_, around, team)
    others = [one for one in units if not one.waves and one.later and one.share > 0]
    if strategy == "all_at_once":
        together = zip_longest(*(one.all for one in (*free, *others)), fillvalue=())
        return [tuple(rung for wave in waves for rung in wave) for waves in together]
    if strategy in CIRCLES:
        first = units.index(free[0]) if free and strategy != "in_order" else 0
        known = {id(one) for one in (*free, *others)}
        ordered = [one for one in (*units[first:], *units[:first]) if id(one) in known]
    else:
        ordered = [*free, *others]
    return [wave for one in ordered for wave in one.all]


def in_turn(
    units: Sequence[Unit], strategy: Strategy, turn_key: str, round_: int, around: Around, team: Team | None = None
) -> list[Unit]:
    """Those of the units that can be rung, in the order of a strategy; the first round of one with turns takes the turn."""
    free = [one for one in units if one.waves]
    if free and strategy in ("round_robin", "weighted_share"):
        free = _by_turn(units, free, strategy, turn_key, round_, around)
    elif strategy == "random":
        around.chooser.shuffle(free)
    elif strategy == "longest_idle":
        free.sort(key=lambda one: (one.idle_since is not None, one.idle_since))
    elif strategy == "rota" and team is not None and team.rota is not None:
        free = _by_rota(units, free, team, around)
    return free


def _by_turn(
    units: Sequence[Unit], free: list[Unit], strategy: Strategy, turn_key: str, round_: int, around: Around
) -> list[Unit]:
    """By turns: who comes after the one that the last call rang first. By share: whoever is due. The first round takes
    the turn."""
    turns = around.turns(turn_key)
    by_key = {one.key: one for one in free}
    if strategy == "round_robin":
        keys = [one.key for one in units]
        at = keys.index(turns.last) + (1 if round_ == 1 else 0) if turns.last in keys else 0
        ordered = [by_key[key] for key in (*keys[at:], *keys[:at]) if key in by_key]
        if round_ == 1:
            around.take(turn_key, replace(turns, last=ordered[0].key))
        return ordered
    parts = {one.key: one.share for one in free}
    name = ",".join(f"{key}:{share}" for key, share in sorted(parts.items()))
    known = dict(turns.counts)
    counts = dict(known.pop(name, ()))
    keys = shares.order(parts, counts)
    ordered = [by_key[key] for key in keys if parts[key] > 0]
    if round_ == 1 and ordered:
        counts[keys[0]] = counts.get(keys[0], 0) + 1
        kept = [*known.items(), (name, tuple(sorted(counts.items())))][-KEPT_SHARES:]
        around.take(turn_key, Turns(ordered[0].key, tuple(kept)))
    return ordered


def _by_rota(units: Sequence[Unit], free: list[Unit], team: Team, around: Around) -> list[Unit]:
    """From the one whose day or week it is on; a swap comes before it."""
    assert team.rota is not None
    today = around.at.astimezone(around.zone).date()
    keys = [one.key for one in units]
    swapped = team.rota.swapped(today)
    at = keys.index(swapped) if swapped in keys else team.rota.turn(today) % len(keys) if keys else 0
    by_key = {one.key: one for one in free}
    return [by_key[key] for key in (*keys[at:], *keys[:at]) if key in by_key]


def _within(waves: Sequence[Wave]) -> Waves:
    """The waves, none larger than the carrier rings at once; nobody's phone twice in one."""
    found: Waves = []
    for wave in waves:
        plain = list({rung.to: rung for rung in wave}.values())
        found += [tuple(plain[start : start + MOST_AT_ONCE]) for start in range(0, len(plain), MOST_AT_ONCE)]
    return [wave for wave in found if wave]
