"""A set of hours as it is stored: periods, the week, and the exceptions. Minutes count from local midnight.

Everything here is part of a stored format, so fields are added, never reshaped.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import date
from itertools import combinations
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from ..value import Value

FORMAT_VERSION = 1

DAY = 1440
"""Minutes of a day on the wall clock."""
WEEK = 7 * DAY

CLOSED = "closed"
"""What holds where no period does."""

DAY_NAMES = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")

Key = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,31}$")]
Name = Annotated[str, Field(min_length=1, max_length=60)]


class Span(Value):
    """A weekly or dated interval of a period, from `start` up to but not including `end`, in minutes from the midnight
    of the day on which it starts; `end` may lie in the next day. An empty `period` means the set's first one."""

    period: str = ""
    start: int = Field(ge=0, lt=DAY)
    end: int = Field(gt=0, le=2 * DAY)

    @model_validator(mode="after")
    def _has_length(self) -> "Span":
        if self.end <= self.start:
            raise ValueError("an interval ends before it starts or has no length")
        if self.end - self.start > DAY:
            raise ValueError("no interval is longer than 24 hours")
        return self


Day = tuple[Span, ...]
Week = Annotated[tuple[Day, ...], Field(min_length=7, max_length=7)]
EMPTY_WEEK: tuple[Day, ...] = ((),) * 7


class Period(Value):
    """A named part of the client's time. Flows name it by its id, which never changes."""

    id: Key
    name: Name

    @field_validator("id")
    @classmethod
    def _not_closed(cls, value: str) -> str:
        if value == CLOSED:
            raise ValueError("no period can have the id closed")
        return value


class ExceptionBase(Value):
    """What every exception has. `cuts` ends an interval of the day before at the midnight on which this begins."""

    id: Key
    name: Annotated[str, Field(max_length=80)] = ""
    cuts: bool = False


class Dated(ExceptionBase):
    """An exception from one day to another, both included; with `every_year` in each year from the first on.

    29 February comes in leap years only; an end on it is the last of February in others.
    """

    first: date
    last: date
    every_year: bool = False

    @model_validator(mode="after")
    def _in_order(self) -> "Dated":
        if self.last < self.first:
            raise ValueError("it ends before it starts")
        if self.every_year and (self.last - self.first).days > 364:
            raise ValueError("it is longer than the year in which it comes again")
        return self


class OneOff(Dated):
    """A day, or a range of days, closed (no spans) or with its own times."""

    kind: Literal["days"] = "days"
    spans: Day = ()


class Season(Dated):
    """A dated season with a week of its own, which may be told to hold on public holidays too."""

    kind: Literal["season"] = "season"
    week: Week
    on_holidays: bool = False


class Pick(Value):
    """A public holiday that counts, by its name: closed (no spans) or with its own times."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    spans: Day = ()


class PublicHolidays(ExceptionBase):
    """The public holidays of a country (ISO 3166-1) and region (ISO 3166-2, without the country) that count, this year
    and in all to come. `observed` takes the substitute days as well; `seen_until` is the last year somebody looked at."""

    kind: Literal["holidays"] = "holidays"
    country: Annotated[str, Field(pattern=r"^[A-Z]{2}$")]
    region: Annotated[str, Field(max_length=12)] = ""
    observed: bool = True
    picked: tuple[Pick, ...] = ()
    seen_until: int = 0


Exception_ = Annotated[OneOff | Season | PublicHolidays, Field(discriminator="kind")]


class Hours(Value):
    """A set of hours. `time_zone` is an IANA name; None means the client's own. Of two exceptions of one strength the
    later in the list wins."""

    format: Literal["vokari-hours"] = "vokari-hours"
    version: Literal[1] = 1
    name: Name
    time_zone: str | None = None
    periods: tuple[Period, ...] = Field(min_length=1, max_length=24)
    week: Week = EMPTY_WEEK
    exceptions: tuple[Exception_, ...] = Field(default=(), max_length=1000)

    @model_validator(mode="after")
    def _hangs_together(self) -> "Hours":
        ids = [one.id for one in self.periods]
        if len(set(ids)) < len(ids):
            raise ValueError("two periods have the same id")
        folded = [one.name.casefold() for one in self.periods]
        if len(set(folded)) < len(folded):
            raise ValueError("two periods have the same name")
        for span in (span for days in [self.week, *weeks_of(self.exceptions)] for day in days for span in day):
            if span.period and span.period not in ids:
                raise ValueError(f"there is no period {span.period}")
        names = {one.id: one.name for one in self.periods}
        for sentence in clashes_of(self.week, self.exceptions, names):
            raise ValueError(sentence)
        return self

    def period(self, period_id: str) -> Period | None:
        return next((one for one in self.periods if one.id == period_id), None)

    def with_ids(self, ids: Mapping[str, str]) -> "Hours":
        """The same with other ids of its periods."""

        def day(spans: Day) -> Day:
            return tuple(one.model_copy(update={"period": ids.get(one.period, one.period)}) for one in spans)

        raw = self.map_days(day)
        periods = tuple(one.model_copy(update={"id": ids.get(one.id, one.id)}) for one in self.periods)
        return raw.model_copy(update={"periods": periods})

    def map_days(self, change: Callable[[Day], Day]) -> "Hours":
        """The same with every day changed: of the week, of seasons, of one-offs and of picked holidays. Unchecked."""
        exceptions: list[Exception_] = []
        for one in self.exceptions:
            if isinstance(one, Season):
                exceptions.append(one.model_copy(update={"week": tuple(change(spans) for spans in one.week)}))
            elif isinstance(one, OneOff):
                exceptions.append(one.model_copy(update={"spans": change(one.spans)}))
            else:
                picked = tuple(pick.model_copy(update={"spans": change(pick.spans)}) for pick in one.picked)
                exceptions.append(one.model_copy(update={"picked": picked}))
        week = tuple(change(spans) for spans in self.week)
        return self.model_copy(update={"week": week, "exceptions": tuple(exceptions)})

    @property
    def names(self) -> dict[str, str]:
        """The name of each period by id, and of being closed."""
        return {**{one.id: one.name for one in self.periods}, CLOSED: "closed"}


def weeks_of(exceptions: Sequence[Exception_]) -> Iterator[tuple[Day, ...]]:
    """All the days that exceptions bring: a season's seven, a one-off's one, a day a picked holiday."""
    for one in exceptions:
        if isinstance(one, Season):
            yield one.week
        elif isinstance(one, OneOff):
            yield (one.spans,)
        else:
            yield tuple(pick.spans for pick in one.picked)


def clashes_of(week: tuple[Day, ...], exceptions: Sequence[Exception_], names: dict[str, str]) -> Iterator[str]:
    """A sentence for each pair of periods that overlap: in the week, in a season's week, or on one exceptional day."""
    yield from clashes(week, names)
    for one in exceptions:
        where = f" in “{one.name}”" if one.name else ""
        if isinstance(one, Season):
            yield from (f"{sentence}{where}" for sentence in clashes(one.week, names))
        else:
            days = [one.spans] if isinstance(one, OneOff) else [pick.spans for pick in one.picked]
            for day in days:
                for a, b in combinations(day, 2):
                    if a.period != b.period and a.start < b.end and b.start < a.end:
                        yield f"{_pair(a, b, names)} overlap{where}"


def clashes(week: tuple[Day, ...], names: dict[str, str]) -> Iterator[str]:
    """A sentence for each pair of intervals of two periods that overlap in a week, which comes round on Monday."""
    laid = [(n * DAY + span.start, n * DAY + span.end, span) for n, day in enumerate(week) for span in day]
    for (a0, a1, a), (b0, b1, b) in combinations(laid, 2):
        if a.period == b.period:
            continue
        for turn in (-WEEK, 0, WEEK):
            start, end = max(a0, b0 + turn), min(a1, b1 + turn)
            if start < end:
                where = f"{DAY_NAMES[start // DAY % 7]} from {clock(start % DAY)}"
                yield f"{_pair(a, b, names)} overlap on {where}"


def _pair(a: Span, b: Span, names: dict[str, str]) -> str:
    return f"{names.get(a.period, a.period or 'the first period')} and {names.get(b.period, b.period or 'the first period')}"


def clock(minute: int) -> str:
    """A minute of the day, or of the next one, as "07:30"; the end of a day is "24:00"."""
    if minute == DAY:
        return "24:00"
    return f"{minute % DAY // 60:02d}:{minute % 60:02d}"


def tidied(day: Sequence[Span]) -> Day:
    """The spans of a day in order, those of one period that touch or overlap made into one where it is at most 24 h."""
    kept: list[Span] = []
    for span in sorted(day, key=lambda one: (one.start, one.end)):
        before = next((i for i, one in enumerate(kept) if one.period == span.period and one.end >= span.start), None)
        if before is None:
            kept.append(span)
            continue
        end = max(kept[before].end, span.end)
        if end - kept[before].start <= DAY:
            kept[before] = kept[before].model_copy(update={"end": end})
        else:
            kept.append(span)
    return tuple(kept)


def exceptions_of(raw: dict[str, Any], full: Hours) -> list[dict[str, Any]]:
    """The exceptions of a set that was dumped without its defaults, each with its kind, which is one."""
    return [{"kind": one.kind, **part} for part, one in zip(raw.get("exceptions", []), full.exceptions, strict=True)]
