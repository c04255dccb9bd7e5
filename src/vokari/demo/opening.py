"""Short ways to write the hours of demo clients, and the lists of holidays that they share."""

from dataclasses import dataclass
from datetime import date
from typing import Any, Literal

from ..core.hours.document import Exception_, Hours, OneOff, Period, Pick, PublicHolidays, Season, Span
from ..core.hours.painting import merged
from ..core.hours.typed import read_day, read_week


@dataclass(frozen=True)
class HoursPlan:
    """A set of hours of a demo client: the key that its flows name it by, what it is for, the shared lists by name."""

    key: str
    hours: Hours
    purpose: Literal["client", "own"] = "client"
    lists: tuple[str, ...] = ()


US_HOLIDAYS = (
    "New Year's Day", "Memorial Day", "Independence Day", "Labor Day", "Thanksgiving Day", "Christmas Day",
)  # fmt: skip
US_LIST, GB_LIST = "Public holidays, US", "Bank holidays, England"


def main(
    periods: dict[str, str], *exceptions: Exception_, name: str = "Opening times", lists: str = US_LIST
) -> HoursPlan:
    """The set that flows ask for. `periods` has text by "id Name", the first being the usual one; `lists` may be empty."""
    return HoursPlan("h_main", _hours(name, periods, exceptions), lists=(lists,) if lists else ())


def own(key: str, name: str, text: str) -> HoursPlan:
    """The own times of a phone."""
    return HoursPlan(key, _hours(name, {"duty On duty": text}, ()), "own")


def season(ident: str, name: str, first: str, last: str, periods: dict[str, str]) -> Season:
    """A season that comes each year, with its own week by period id."""
    return Season(
        id=ident,
        name=name,
        first=date.fromisoformat(first),
        last=date.fromisoformat(last),
        every_year=True,
        week=_week(periods),
    )


def days(ident: str, name: str, first: str, last: str = "", times: str = "", *, every_year: bool = True) -> OneOff:
    """A day or range, closed or with times of the first period."""
    spans = read_day(times, {})
    assert not isinstance(spans, str), spans
    return OneOff(
        id=ident, name=name, first=date.fromisoformat(first), last=date.fromisoformat(last or first), spans=spans,
        every_year=every_year,
    )  # fmt: skip


def holidays(
    ident: str, name: str, country: str, region: str, *names: str, seen: int, spans: tuple[Span, ...] = ()
) -> PublicHolidays:
    """Public holidays, closed or all with the same times."""
    picked = tuple(Pick(name=one, spans=spans) for one in names)
    return PublicHolidays(id=ident, name=name, country=country, region=region, picked=picked, seen_until=seen)


def shared_lists(year: int) -> dict[str, list[Exception_]]:
    """The agency's lists by name; the holidays of this year and the next have been looked at."""
    return {
        US_LIST: [
            holidays("us", "Public holidays, closed", "US", "", *US_HOLIDAYS, seen=year + 1),
            days("eve", "Christmas Eve, short", f"{year}-12-24", times="9-13"),
        ],
        GB_LIST: [
            holidays("gb", "Bank holidays, closed", "GB", "ENG", "New Year's Day", "Good Friday", "Easter Monday",
                     "May Day", "Spring Bank Holiday", "Late Summer Bank Holiday", "Christmas Day", "Boxing Day", seen=year),
            days("between", "Between the years", f"{year}-12-27", f"{year}-12-31"),
        ],
    }  # fmt: skip


def sort(id_: str, name: str, exits: dict[str, tuple[str, str]], otherwise: str, closed: str = "") -> dict[str, Any]:
    """A Junction on the main set: an exit for each period by id, with a name and the step it leads to."""
    branches = [
        {"id": f"b{period}", "name": words, "to": to, "when": {"test": "period", "of": "h_main", "any_of": [period]}}
        for period, (words, to) in exits.items()
    ]
    return {
        "kind": "junction", "id": id_, "name": name, "branches": branches, "otherwise": otherwise, "otherwise_name": closed,
    }  # fmt: skip


def _hours(name: str, periods: dict[str, str], exceptions: tuple[Exception_, ...]) -> Hours:
    named = [one.partition(" ") for one in periods]
    texts = {key: text for (key, _, _), text in zip(named, periods.values(), strict=True)}
    return Hours(
        name=name,
        periods=tuple(Period(id=key, name=words) for key, _, words in named),
        week=_week(texts),
        exceptions=exceptions,
    )


def _week(texts: dict[str, str]) -> Any:
    weeks = []
    for period, text in texts.items():
        read = read_week(text, period)
        assert not isinstance(read, str), read
        weeks.append(read)
    return merged(weeks)
