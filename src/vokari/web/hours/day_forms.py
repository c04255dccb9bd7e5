"""Forms of exceptions: days, seasons and public holidays, of a set of hours or of a shared list."""

from collections.abc import Sequence
from datetime import date
from typing import Any

from ...core import asked
from ...core.hours import public_days
from ...core.hours.document import Exception_, OneOff, Pick, PublicHolidays, Season
from ...core.hours.typed import read_day, write_day
from ...work.house.problems import Problem, Problems
from ..doors import Posted
from . import painter

KINDS = {"days": "days", "season": "season", "holidays": "public holidays"}

Periods = Sequence[tuple[str, str]]
"""Ids and names of the periods that times can be of, the usual one first."""

FIRST = ("first", "Open")
"""The one period of a shared list: whichever is the first of the set that shares it."""


def read(posted: Posted, kind: str, ident: str, periods: Periods, this_year: int) -> Exception_ | Problems:
    """The exception that a form tells of, or what is wrong with it, beside the fields."""
    name = " ".join(posted.text("name").split())[:80]
    if kind == "holidays":
        return _holidays(posted, ident, name, periods, this_year)
    problems: Problems = []
    first = _date(posted, "first", problems)
    last = _date(posted, "last", problems) if posted.text("last").strip() else first
    every_year = bool(posted.text("every_year"))
    if first and last and last < first:
        problems.append(Problem("last", "It ends before it starts."))
    elif first and last and every_year and (last - first).days > 364:
        problems.append(Problem("last", "It is longer than the year in which it comes again."))
    base: dict[str, Any] = {
        "id": ident, "name": name, "first": first, "last": last, "every_year": every_year, "cuts": bool(posted.text("cuts"))
    }  # fmt: skip
    if kind == "season":
        painted = painter.posted_painting(posted)
        problems += [Problem(f"p-{key}", sentence) for key, sentence in painted.wrong.items()]
        clash = painter.context(painted)["clash"]
        if clash:
            problems.append(Problem("times", clash))
        if problems:
            return problems
        return Season(**base, week=plain_days(painted.week, periods), on_holidays=bool(posted.text("on_holidays")))
    spans = read_day(posted.text("times"), dict(periods), periods[0][0])
    if isinstance(spans, str):
        problems.append(Problem("times", spans))
    if problems or isinstance(spans, str):
        return problems
    return OneOff(**base, spans=plain_days([spans], periods)[0])


def _holidays(posted: Posted, ident: str, name: str, periods: Periods, this_year: int) -> Exception_ | Problems:
    country, region = posted.text("country").strip().upper()[:8], posted.text("region").strip()[:12]
    wrong = public_days.problem_of(country, region)
    if wrong:
        return [Problem("region" if country in public_days.countries() else "country", wrong)]
    picked, problems = [], Problems()
    for index in range(min(posted.whole("count") or 0, 400)):
        if not posted.text(f"pick-{index}"):
            continue
        spans = read_day(posted.text(f"times-{index}"), dict(periods), periods[0][0])
        if isinstance(spans, str):
            problems.append(Problem(f"times-{index}", spans))
        elif posted.text(f"holiday-{index}").strip():
            picked.append(
                Pick(name=posted.text(f"holiday-{index}").strip()[:120], spans=plain_days([spans], periods)[0])
            )
    if not picked and not problems:
        problems.append(Problem("count", "Pick at least one holiday that counts."))
    if problems:
        return problems
    place = public_days.countries()[country]
    return PublicHolidays(
        id=ident, name=name or f"Holidays of {place}{', ' + public_days.regions(country)[region] if region else ''}"[:80],
        country=country, region=region, observed=bool(posted.text("observed")), picked=tuple(picked),
        seen_until=this_year + 1, cuts=bool(posted.text("cuts")),
    )  # fmt: skip


def plain_days(days: Sequence[Any], periods: Periods) -> tuple[Any, ...]:
    """Days of a shared list name no period, as each set has its own first one."""
    if tuple(periods) != (FIRST,):
        return tuple(tuple(day) for day in days)
    return tuple(tuple(span.model_copy(update={"period": ""}) for span in day) for day in days)


def _date(posted: Posted, name: str, problems: Problems) -> date | None:
    text = posted.text(name).strip()
    found = asked.day(text)
    if found is None:
        leap = text.endswith("-02-29")
        said = f"{text[:4]} has no 29 February." if leap else f"“{text}” is no day. Write it as 2026-12-24."
        problems.append(Problem(name, said if text else "Choose the day."))
        return None
    return found


# what the form shows


def shown(one: Exception_, periods: Periods) -> dict[str, Any]:
    """The fields of a stored exception as text."""
    fields: dict[str, Any] = {"name": one.name, "cuts": "1" if one.cuts else ""}
    if isinstance(one, PublicHolidays):
        return {**fields, "country": one.country, "region": one.region, "observed": "1" if one.observed else ""}
    fields |= {
        "first": one.first.isoformat(),
        "last": one.last.isoformat(),
        "every_year": "1" if one.every_year else "",
    }
    if isinstance(one, Season):
        return {**fields, "on_holidays": "1" if one.on_holidays else ""}
    return {**fields, "times": write_day(one.spans, dict(periods), periods[0][0]) if one.spans else ""}


def holiday_rows(country: str, region: str, this_year: int, picked: dict[str, str]) -> list[dict[str, Any]]:
    """The public holidays of a place by name, with their dates this year and next; `picked` gives the times of those
    that count."""
    rows: dict[str, dict[str, Any]] = {}
    for year in (this_year, this_year + 1):
        for day in public_days.public_days(country, region, year):
            row = rows.setdefault(day.name, {"name": day.name, "days": {this_year: [], this_year + 1: []}})
            said = f"{day.on:%a}, {day.on:%b} {day.on.day}"
            row["days"][year].append(f"{said} (observed)" if day.observed else said)
    for name in picked:
        rows.setdefault(name, {"name": name, "days": {this_year: [], this_year + 1: []}})
    for row in rows.values():
        row |= {"picked": row["name"] in picked, "times": picked.get(row["name"], "")}
    return list(rows.values())


def picked_of(one: PublicHolidays, periods: Periods) -> dict[str, str]:
    """The times of each holiday that counts, empty for closed."""
    return {pick.name: write_day(pick.spans, dict(periods), periods[0][0]) if pick.spans else "" for pick in one.picked}


def posted_picks(posted: Posted) -> dict[str, str]:
    """What a form that is shown again had ticked."""
    return {
        posted.text(f"holiday-{index}"): posted.text(f"times-{index}")
        for index in range(min(posted.whole("count") or 0, 400))
        if posted.text(f"pick-{index}") and posted.text(f"holiday-{index}").strip()
    }
