"""What the world may answer a flow: at each moment of the coming time, for each number, with each caller and each phone as it may be."""

from collections.abc import Hashable, Iterable, Mapping, MutableSequence, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from functools import cached_property
from itertools import combinations, product
from random import Random
from typing import Any, cast
from zoneinfo import ZoneInfo

from ..flows.model.dates import in_ranges
from ..flows.model.steps import AnyStep, HoldLine, LookUp, Ring
from ..flows.model.values import DialedDestination, NumberDestination, PersonDestination, TeamDestination
from ..flows.questions.facts import Touch
from ..flows.questions.kinds import (
    SOME_EXTENSION,
    AnybodyFree,
    Availability,
    CanBeRung,
    Classes,
    Extensions,
    HoldAnswer,
    HoldTurn,
    LineUp,
    LineUpAnswer,
    LookedUp,
    LookedUpAnswer,
    Question,
    RecordThis,
    Rung,
    WhoIsFree,
)
from ..flows.questions.knowledge import Cells, Knowledge, Moment
from ..flows.running.flow import Flow
from ..holding.line import served
from ..hours.timetable import Timetable
from ..people.directory import Person, Team
from ..people.line_up import Around, anybody_free, line_up, state_of
from .interest import NONE, Interest, interests, matter
from .times import Asked, Times, longest

AHEAD = timedelta(days=396)
"""How far ahead flows are proven: 13 months."""


class _InOrder(Random):
    """Leaves every order as it is: exits do not depend on it, and a walk finds the same each time."""

    def shuffle(self, x: MutableSequence[Any]) -> None:
        """Leaves it."""


IN_ORDER = _InOrder()


@dataclass(frozen=True)
class Client:
    """What a flow's client has, as far as calls depend on it: sets of hours, people and teams by key, and of each number that reaches the flow
    what it tells of a call."""

    zone: ZoneInfo
    hours: Mapping[str, Timetable] = field(default_factory=dict)
    people: Mapping[str, Person] = field(default_factory=dict)
    teams: Mapping[str, Team] = field(default_factory=dict)
    numbers: tuple[Touch, ...] = ()


class World:
    """The world of one flow between two instants; `times` is given where they are those of another flow too (see `joint`)."""

    def __init__(
        self, flow: Flow, client: Client, since: datetime, until: datetime, times: Times | None = None
    ) -> None:
        self.flow, self.client = flow, client
        self.interests = interests(flow)
        asked = asked_of(flow, client, self.interests)
        self.tables = {**asked.duty, **asked.hours}
        self.longest = longest(flow)
        self.times = times or Times(asked, client.zone, since, until, self.longest)
        self.numbers = Cells(client.numbers)
        self._at: dict[int, Around] = {}
        self._duties: dict[tuple[str, int], Hashable] = {}
        self._labels: dict[Interest, Sequence[Hashable]] = {}
        self._parts: dict[Interest, tuple[int, ...]] = {}
        self._closed: dict[tuple[Interest, int], int] = {}
        self._kept: dict[tuple[Interest, Hashable], Any] = {}

    @property
    def beginning(self) -> Knowledge:
        """What is known of a call that has just come."""
        return Knowledge(self.times.cells, self.numbers, self.times.first, self.numbers.all)

    # what makes a difference later

    def interest(self, at: str) -> Interest:
        """What is asked from a step on."""
        return self.interests.get(at, NONE)

    def kept(self, known: Knowledge, interest: Interest) -> Knowledge:
        """What of it can make a difference to what is asked."""
        told = known.told
        if told:
            key = (interest, told)
            if key not in self._kept:
                self._kept[key] = frozenset(one for one in told if matter(one[0]) in interest.matters)
            told = self._kept[key]
        number = known.number if any(one.startswith("touch") for one in interest.matters) else self.numbers.all
        return known._replace(told=told, time=self.closed(known.time, interest), number=number)

    def closed(self, time: int, interest: Interest) -> int:
        """All cells of time that no later question tells from some cells, now or after time has passed."""
        key = (interest, time)
        found = self._closed.get(key)
        if found is None:
            if interest not in self._parts:
                self._parts[interest] = self.times.parts(self.labels(interest))
            found = sum(part for part in self._parts[interest] if part & time)
            self._closed[key] = found
        return found

    def labels(self, interest: Interest) -> Sequence[Hashable]:
        """What tells each cell of time from another for what is asked."""
        if interest not in self._labels:
            self._labels[interest] = [self._label(moment, interest) for moment in self.times.cells.each]
        return self._labels[interest]

    def _label(self, moment: Moment, interest: Interest) -> Hashable:
        return (
            tuple(moment.holds.get(key) for key in sorted(interest.hours)),
            tuple(moment.exceptions.get(key, "") for key in sorted(interest.exceptions)),
            tuple(in_ranges((one,), moment.day) for one in sorted(interest.ranges)),
            moment.weeks & interest.weeks,
            tuple(self._duty(one, moment) for one in sorted(interest.duty)),
        )

    def duties(self, step_id: str) -> Sequence[Hashable]:
        """What tells each cell of time from another for those whom a step rings."""
        return [self._duty(step_id, moment) for moment in self.times.cells.each]

    def _duty(self, step_id: str, moment: Moment) -> Hashable:
        """What tells moments apart for those whom a step rings."""
        key = (step_id, id(moment))
        if key not in self._duties:
            self._duties[key] = self._on_duty(self.flow.steps[step_id], moment)
        return self._duties[key]

    def _on_duty(self, step: AnyStep, moment: Moment) -> Hashable:
        if isinstance(step, HoldLine):
            return self._serves(step, moment)
        if not isinstance(step, Ring):
            return None
        if by_extension(step):
            dialed = (self._phones(self._dialed(step, who), moment) for who in self._extensions)
            return self._phones(step, moment), tuple(dialed)
        if step.is_plain:
            return tuple(self._shut(step, one.id, moment) for one in step.to)
        return self._phones(step, moment)

    def _phones(self, step: Ring, moment: Moment) -> Hashable:
        """The phones that a step can ring, each with whether it can be rung at a moment."""
        waves, states, _ = self._line_up(step, 1, moment)
        phones = sorted({rung for wave in waves for rung in wave}, key=str)
        return states, tuple((one, self._state(step, one, moment)) for one in phones)

    # people at a moment

    @cached_property
    def _extensions(self) -> tuple[str, ...]:
        """Of the people who have an extension one of each sort, by key."""
        sorts: dict[Hashable, str] = {}
        for key, one in self.client.people.items():
            if one.extension:
                phones = tuple((phone.hours, phone.answered, phone.aside_until) for phone in one.phones)
                sorts.setdefault((one.hours, one.leave, phones), key)
        return tuple(sorts.values())

    def _dialed(self, step: Ring, who: str) -> Ring:
        """A step with a person in the place of whoever was dialed."""
        to = (one.person(who) if isinstance(one, DialedDestination) else one for one in step.to)
        return step.model_copy(update={"to": tuple(to)})

    def around(self, moment: Moment) -> Around:
        """A client's people at a moment, nobody on a call and nobody switched off."""
        found = self._at.get(id(moment))
        if found is None:
            found = self._at[id(moment)] = Around(
                moment.at, self.client.zone, self.client.hours.get, lambda _: (), self.client.people, self.client.teams, chooser=IN_ORDER
            )  # fmt: skip
        return found

    def _shut(self, step: Ring, destination: str, moment: Moment) -> bool:
        one = next((one for one in step.to if one.id == destination), None)
        table = self.client.hours.get(one.hours) if isinstance(one, NumberDestination) and one.hours else None
        return table is not None and not table.at(moment.at).is_open

    def _state(self, step: Ring | HoldLine, rung: Rung, moment: Moment) -> Availability:
        return state_of(rung, step, self.around(moment))

    def on_duty(self, question: WhoIsFree | CanBeRung, moment: Moment) -> list[tuple[str, bool]]:
        """The phones that a question is about, as they are dialed, each with whether it is on duty at a moment."""
        step = self.flow.steps[question.step]
        if isinstance(question, CanBeRung):
            rings = cast(Ring | HoldLine, step)
            return [(one.to, self._state(rings, one, moment) != "off") for one in question.phones]
        dialed = {one.id: str(getattr(one, "dialed", "")) for one in cast(Ring, step).to}
        return [(dialed[one], not self._shut(cast(Ring, step), one, moment)) for one in question.destinations]

    def _line_up(self, step: Ring, round_: int, moment: Moment) -> LineUpAnswer:
        return line_up(step.model_copy(update={"last_spoke": None}), step.id, round_, self.around(moment))

    def _serves(self, step: HoldLine, moment: Moment) -> tuple[tuple[Rung, ...], ...]:
        """The phones of somebody who serves a line; none where nobody does."""
        line = served(step.team, self.around(moment))
        return tuple(line.free[0].waves) if line.free else ()

    # answers

    def classes(self, question: Question, known: Knowledge) -> Classes:
        """The answers that make a difference, each with what is known then."""
        match question:
            case WhoIsFree():
                step = cast(Ring, self.flow.steps[question.step])
                kinds = {one.id: one.answered for one in step.to if isinstance(one, NumberDestination)}
                alike = [kinds.get(one, "") for one in question.destinations]
                shut = known.by_time(
                    question, lambda moment: tuple(self._shut(step, one, moment) for one in question.destinations)
                )
                return [
                    (states, after)
                    for closed, after in shut
                    for states in _states(["off" if one else "free" for one in closed], alike, ("free", "on_call"))
                ]
            case CanBeRung():
                rings = cast(Ring | HoldLine, self.flow.steps[question.step])
                alike = [one.answered for one in question.phones]
                here = known.by_time(
                    question, lambda moment: tuple(self._state(rings, one, moment) for one in question.phones)
                )
                return [
                    (states, after)
                    for said, after in here
                    for states in _states(list(said), alike, ("free", "on_call", "off"))
                ]
            case LineUp():
                return self._line_ups(question, known)
            case AnybodyFree():
                return self._anybody(question, known)
            case HoldTurn():
                return self._hold_turns(question, known)
            case LookedUp():
                return [(answer, known) for answer in self._looked_up(cast(LookUp, self.flow.steps[question.step]))]
            case RecordThis():
                return [(False, known)]
            case Extensions():
                return [((SOME_EXTENSION,) if self._extensions else (), known)]
        return [*question.classes(known)]

    def _line_ups(self, question: LineUp, known: Knowledge) -> Classes:
        step = cast(Ring, self.flow.steps[question.step])
        if by_extension(step):
            callees = self._extensions if question.dialed else ()
            found: Classes = [] if callees else self._line_ups_of(step, question.round, known)
            for who in callees:
                found += self._line_ups_of(self._dialed(step, who), question.round, known)
            return found
        return self._line_ups_of(step, question.round, known)

    def _line_ups_of(self, step: Ring, round_: int, known: Knowledge) -> Classes:
        first: dict[Hashable, LineUpAnswer] = {}

        def say(moment: Moment) -> LineUpAnswer:
            """One order stands for all orders of the same phones: exits do not depend on it."""
            waves, states, more = self._line_up(step, round_, moment)
            return first.setdefault((frozenset(map(frozenset, waves)), states, more), (waves, states, more))

        return [*known.by_time((LineUp, step, round_), say)]

    def _anybody(self, question: AnybodyFree, known: Knowledge) -> Classes:
        step = cast(Ring, self.flow.steps[question.step])
        if by_extension(step):
            return [*question.classes(known)]

        def say(moment: Moment) -> bool:
            if step.is_plain:
                return any(not self._shut(step, one.id, moment) for one in step.to if getattr(one, "number", ""))
            return anybody_free(step, self.around(moment))

        found: Classes = []
        for somebody, after in known.by_time(question, say):
            found += [(answer, after) for answer in ((True, False) if somebody else (False,))]
        return found

    def _hold_turns(self, question: HoldTurn, known: Knowledge) -> Classes:
        step = cast(HoldLine, self.flow.steps[question.step])
        found: Classes = []
        key = HoldTurn(question.step, False)
        for waves, after in known.by_time(key, lambda moment: self._serves(step, moment)):
            answers: list[HoldAnswer] = [("nobody", 0, 0, ())]
            if waves:
                answers = [("ring", 1, 0, waves), ("wait", 1, 60, ()), ("nobody", 0, 0, ())]
                answers += [("full", 0, 0, ())] if question.entering else []
            found += [(answer, after) for answer in answers]
        return found

    def _looked_up(self, step: LookUp) -> list[LookedUpAnswer]:
        looked_for = sorted(text for name, text in self.flow.reads.values_from(step.id) if name == step.store_as)
        other = next(text for text in ("value", "another value") if text not in looked_for)
        found: list[LookedUpAnswer] = [("found", text) for text in (*looked_for, other) if text]
        return [*found, ("not_found", ""), ("failed", ""), ("pending", "")]


def by_extension(step: AnyStep) -> bool:
    """Whether a step rings whoever has the extension that was dialed: anybody, as far as the proof goes."""
    return isinstance(step, Ring) and any(isinstance(one, DialedDestination) for one in step.to)


def _states(
    here: list[Availability], alike: Sequence[str], those: tuple[Availability, ...]
) -> Iterable[tuple[Availability, ...]]:
    """What phones can be that are on duty (`free`) or not: of those of one sort each set of states that can occur among them, as which
    of them is in which makes no difference."""
    groups: dict[str, list[int]] = {}
    for index, state in enumerate(here):
        if state == "free":
            groups.setdefault(alike[index], []).append(index)
    ways = [
        [states for size in range(1, min(len(those), len(group)) + 1) for states in combinations(those, size)]
        for group in groups.values()
    ]
    for chosen in product(*ways):
        found = list(here)
        for group, states in zip(groups.values(), chosen, strict=True):
            for place, index in enumerate(group):
                found[index] = states[min(place, len(states) - 1)]
        yield tuple(found)


def asked_of(flow: Flow, client: Client, of_steps: Mapping[str, Interest]) -> Asked:
    """What of time a flow asks of its client; `of_steps` is what each step asks."""
    whole = NONE
    for one in of_steps.values():
        whole = whole.with_(one)
    hours = {key: client.hours[key] for key in whole.hours | whole.exceptions if key in client.hours}
    rung_people, rung_teams = rung(flow, client)
    people, teams = rung_people.values(), rung_teams.values()
    keys = {person.hours for person in people} | {phone.hours for person in people for phone in person.phones}
    keys |= {member.hours for team in teams for member in team.members}
    keys |= {getattr(one, "hours", None) for step in flow.steps.values() if isinstance(step, Ring) for one in step.to}
    edges: set[date] = set()
    for person in people:
        for leave in person.leave:
            edges |= {leave.first, leave.last + timedelta(days=1)}
        edges |= {phone.aside_until for phone in person.phones if phone.aside_until}

    def of_day(day: date) -> Hashable:
        return tuple(
            (person.away_on(day), *(phone.is_aside(day) for phone in person.phones)) for person in people if person.leave or any(one.aside_until for one in person.phones)
        )  # fmt: skip

    duty = {key: client.hours[key] for key in sorted(one for one in keys if one) if key in client.hours}
    return Asked(
        hours, whole.exceptions, tuple(sorted(whole.ranges)), tuple(sorted(whole.weeks)), duty, frozenset(edges), of_day
    )  # fmt: skip


def rung(flow: Flow, client: Client) -> tuple[dict[str, Person], dict[str, Team]]:
    """The people whom steps of a flow can ring, and the teams by which, by key."""
    keys: list[str] = []
    for step in flow.steps.values():
        if isinstance(step, HoldLine):
            keys.append(step.team)
        for one in step.to if isinstance(step, Ring) else ():
            if isinstance(one, PersonDestination):
                keys.append(one.person)
            elif isinstance(one, TeamDestination):
                keys.append(one.team)
            elif isinstance(one, DialedDestination):
                keys += [key for key, person in client.people.items() if person.extension]
    people: dict[str, Person] = {}
    teams: dict[str, Team] = {}
    while keys:
        key = keys.pop()
        if key in client.people:
            people[key] = client.people[key]
        elif key in client.teams and key not in teams:
            teams[key] = team = client.teams[key]
            keys += [*(one.person for one in team.members), *([team.then] if team.then else [])]
    return people, teams
