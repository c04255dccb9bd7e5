"""People with their phones, and teams with their members, as they are stored. Fields are added, never reshaped."""

from datetime import date, timedelta
from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ..flows.model.values import Answered
from ..numbers.ringing import usual_seconds
from ..value import Value

Key = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,31}$")]
Seconds = Annotated[int, Field(ge=1, le=120)]

FOR_GOOD = date(9999, 12, 31)
"""Stands for no day on which a phone would ring again."""

Strategy = Literal["all_at_once", "in_order", "round_robin", "weighted_share", "random", "longest_idle", "rota"]
STRATEGIES: dict[Strategy, str] = {
    "all_at_once": "all at once",
    "in_order": "in order",
    "round_robin": "round robin",
    "weighted_share": "weighted share",
    "random": "in random order",
    "longest_idle": "longest idle first",
    "rota": "rota",
}


class Phone(Value):
    """A phone of a person: an E.164 number or a SIP address (RFC 3261), when it may be rung (`hours`, a set's key), for how
    long, after how many seconds its own mailbox answers, where that is known, until which day it is set aside, and what counts as
    answered there."""

    id: Key
    name: Annotated[str, Field(max_length=60)] = ""
    to: Annotated[str, Field(min_length=1, max_length=120)]
    seconds: Seconds | None = None
    hours: str | None = None
    mailbox_after: Annotated[float, Field(gt=0, le=120)] | None = None
    aside_until: date | None = None
    answered: Answered = "picked_up"

    @model_validator(mode="before")
    @classmethod
    def _older(cls, raw: Any) -> Any:
        """A phone of before was on or off; one that was off is set aside with no end in sight."""
        if not isinstance(raw, dict) or "on" not in raw:
            return raw
        kept = {name: value for name, value in raw.items() if name != "on"}
        return kept if raw["on"] else {"aside_until": FOR_GOOD, **kept}

    @property
    def rings(self) -> int:
        """How long it rings unless somebody says how long."""
        return usual_seconds(self.to, self.mailbox_after)

    def is_aside(self, on: date) -> bool:
        """Whether it is set aside on a day; on the day that is named it rings again."""
        return self.aside_until is not None and on < self.aside_until


class Leave(Value):
    """Days on which a person is away, both included."""

    first: date
    last: date

    @model_validator(mode="after")
    def _in_order(self) -> "Leave":
        if self.last < self.first:
            raise ValueError("a leave ends before it starts")
        return self


class Person(Value):
    """Somebody who can be rung, at several phones in order. `hours` are the own times, `daily_limit` the most calls a day,
    `extension` digits that callers may dial."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    phones: Annotated[tuple[Phone, ...], Field(max_length=10)] = ()
    hours: str | None = None
    daily_limit: Annotated[int, Field(ge=1, le=500)] | None = None
    leave: Annotated[tuple[Leave, ...], Field(max_length=60)] = ()
    extension: Annotated[str, Field(pattern=r"^[0-9]{0,6}$")] = ""
    email: Annotated[str, Field(max_length=200)] = ""
    note: Annotated[str, Field(max_length=500)] = ""

    def away_on(self, on: date) -> bool:
        return any(one.first <= on <= one.last for one in self.leave)


class Ramp(Value):
    """A share that grows in equal parts, week by week, until it is whole."""

    first: date
    weeks: Annotated[int, Field(ge=1, le=26)]

    def part(self, on: date) -> Fraction:
        """The part of the weight that counts on a day: with three weeks 1/4, 2/4, 3/4, then all."""
        week = max(0, (on - self.first) // timedelta(days=7))
        return min(Fraction(1), Fraction(week + 1, self.weeks + 1))


class Member(Value):
    """A person in a team: for how long they are rung, when (`hours`, a set's key), and their share."""

    person: str
    seconds: Seconds | None = None
    hours: str | None = None
    weight: Annotated[int, Field(ge=0, le=1000)] = 1
    ramp: Ramp | None = None

    def share(self, on: date) -> Fraction:
        return self.weight * (self.ramp.part(on) if self.ramp else Fraction(1))


class Swap(Value):
    """Another person than the rota's for the day or week that holds this date."""

    on: date
    person: str


class Rota(Value):
    """Whose day or week it is: the members in order, each for one `unit`, from `first` on; swaps come before it."""

    unit: Literal["day", "week"] = "week"
    first: date
    swaps: Annotated[tuple[Swap, ...], Field(max_length=400)] = ()

    def turn(self, on: date) -> int:
        """How many units lie between the first day and another; weeks begin on the weekday of the first day."""
        return (on - self.first).days // (7 if self.unit == "week" else 1)

    def swapped(self, on: date) -> str | None:
        return next((one.person for one in reversed(self.swaps) if self.turn(one.on) == self.turn(on)), None)


class Team(Value):
    """Members with a strategy, so many rounds, and another team that is tried when nobody of this one takes the call."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    strategy: Strategy = "in_order"
    rounds: Annotated[int, Field(ge=1, le=10)] = 1
    members: Annotated[tuple[Member, ...], Field(max_length=200)] = ()
    rota: Rota | None = None
    then: str | None = None

    @model_validator(mode="after")
    def _makes_sense(self) -> "Team":
        people = [one.person for one in self.members]
        if len(set(people)) < len(people):
            raise ValueError("somebody is in this team twice")
        if self.strategy == "weighted_share" and self.members and not any(one.weight for one in self.members):
            raise ValueError("every share is zero, so nobody would be rung")
        if self.strategy == "rota" and self.rota is None:
            raise ValueError("a rota needs its first day")
        return self
