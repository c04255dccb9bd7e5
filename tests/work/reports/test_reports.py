"""Reports over any period, against the calls themselves."""

from collections import Counter
from datetime import UTC, date, datetime, timedelta
from random import Random
from zoneinfo import ZoneInfo

import pytest
from sqlalchemy import text

from tests import history
from tests.conftest import NOON
from tests.world import World, make_world
from vokari.core.calls.fates import FATES
from vokari.core.reports.periods import Period
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.calls import rollups
from vokari.work.reports import reports

DAYS = 1200


@pytest.fixture
def years(world: World) -> tuple[World, list[tuple[date, int, str, str]]]:
    """Six hundred calls over three years on two numbers, a third of them of a source, some at midnight of the client's time."""
    chance = Random(7)
    numbers = [world.number("+14105550142", world.source("Search advert")), world.number("+14105550143")]
    source = world.source("Leaflet")
    zone, calls = ZoneInfo(world.client.time_zone), []
    for _ in range(600):
        at = NOON - timedelta(days=chance.randrange(DAYS), seconds=chance.randrange(86400))
        if chance.random() < 0.2:
            midnight = datetime.combine(at.astimezone(zone).date(), datetime.min.time(), zone)
            at = midnight.astimezone(UTC) + timedelta(seconds=chance.choice((-1, 0, 1)))
        fate = chance.choice(FATES)
        reason = "unconfirmed" if fate == "answered" and chance.random() < 0.5 else ""
        source_id = chance.choice((None, source.id))
        calls.append(history.row(world, at, chance.choice(numbers).id, source_id, fate=fate, reason=reason))
    history.write(world, sorted(calls, key=lambda one: one["started_at"]))
    known = [
        (one["started_at"].astimezone(zone).date(), one["source_id"] or 0, one["fate"], one["reason"]) for one in calls
    ]
    return world, known


def test_every_call_of_a_period_is_counted_once(years: tuple[World, list[tuple[date, int, str, str]]]) -> None:
    world, calls = years
    chance = Random(8)
    for _ in range(60):
        first = NOON.date() - timedelta(days=chance.randrange(DAYS))
        period = Period(first, first + timedelta(days=chance.choice((0, 6, 30, 45, 46, 200, 841, 4000))))
        found = reports.by_source(world.house, world.actor, world.client.id, period)
        meant = [one for one in calls if period.first <= one[0] <= period.last]
        by_source = Counter((source, fate) for _, source, fate, _ in meant)
        assert {
            (line.source.id if line.source else 0, fate): count
            for line in found.lines for fate, count in line.tally.by_fate.items() if count
        } == dict(by_source)  # fmt: skip
        assert found.total.unconfirmed == sum(reason == "unconfirmed" for *_, reason in meant)
        assert found.total.talk_seconds == 40.0 * len(meant)
        by_part = [
            dict(Counter(fate for day, _, fate, _ in meant if part.first <= day <= part.last))
            for part, _ in found.parts
        ]
        assert [counts for _, counts in found.parts] == by_part


def test_what_is_added_call_by_call_is_what_all_calls_add_up_to(
    years: tuple[World, list[tuple[date, int, str, str]]],
) -> None:
    world, _ = years
    tables = ("callers", "call_days", "call_parts", "day_totals", "source_months")
    read = [text(f"SELECT * FROM {table} ORDER BY {table}::text") for table in tables]
    with world.house.engine.begin() as connection:
        before = [connection.execute(one).all() for one in read]
        for table in tables:
            connection.exec_driver_sql(f"DELETE FROM {table}")
        for adding in rollups.from_calls("client_id = %s"):
            connection.exec_driver_sql(adding.decode(), (world.client.id,))
        assert [connection.execute(one).all() for one in read] == before
    assert all(before), "each has something to compare"


def test_who_may_see_a_report(world: World) -> None:
    period = Period(NOON.date(), NOON.date())
    for role in ("owner", "specialist", "client_editor", "client_viewer"):
        assert reports.by_source(world.house, world.actors[role], world.client.id, period).total.calls == 0
    other = make_world(world.house, "Other agency", "other.example.com")
    with pytest.raises((NotFound, NotAllowed)):
        reports.by_source(world.house, other.actor, world.client.id, period)
