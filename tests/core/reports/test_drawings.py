"""The route map, the chart and the periods of reports."""

from datetime import date, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest
from dateutil import tz
from hypothesis import given
from hypothesis import strategies as st

from vokari.core.calls.fates import FATES
from vokari.core.reports import charts, periods, route_map
from vokari.core.reports.periods import Period
from vokari.core.reports.route_map import Lane

counts = st.dictionaries(st.sampled_from(FATES), st.integers(0, 500))
days = st.dates(date(2025, 1, 1), date(2027, 12, 31))


@given(st.lists(counts, min_size=1, max_size=120))
def test_bars_are_as_high_as_their_calls(all_counts: list[dict[str, int]]) -> None:
    shown = [Period(at := date(2026, 1, 1) + timedelta(days=n), at) for n in range(len(all_counts))]
    chart = charts.bars([(day, one) for day, one in zip(shown, all_counts, strict=True)], width=900, height=200)
    assert sum(bar.calls for bar in chart.bars) == sum(sum(one.values()) for one in all_counts)
    top = chart.ticks[-1][0]
    for bar in chart.bars:
        assert bar.calls <= top
        assert sum(piece.height for piece in bar.pieces) == pytest.approx(bar.calls / top * 200, abs=0.1)


def test_the_scale_goes_in_round_steps() -> None:
    assert [list(charts.scale(n)) for n in (0, 3, 7, 37)] == [
        [0, 1],
        [0, 1, 2, 3],
        [0, 2, 4, 6, 8],
        [0, 10, 20, 30, 40],
    ]
    assert [(scale.step, scale[-1]) for scale in map(charts.scale, (50, 61, 101, 720, 4499))] == [
        (10, 50), (20, 80), (20, 120), (200, 800), (1000, 5000),
    ]  # fmt: skip


@given(
    st.lists(
        st.tuples(st.integers(1, 4), st.integers(1, 6), st.integers(0, 3), st.sampled_from(FATES), st.integers(1, 400)),
        max_size=30,
    )
)
def test_the_route_map_draws_every_call_twice(routes: list[tuple[int, int, int, str, int]]) -> None:
    lanes = [Lane(*one) for one in dict.fromkeys((source, number, flow) for source, number, flow, _, _ in routes)]
    drawn = route_map.draw(lanes, routes)
    right = [band for band in drawn.bands if band.fate]
    assert sum(band.calls for band in right) == sum(route[4] for route in routes)
    assert sum(spot.calls for spot in drawn.fates) == sum(route[4] for route in routes)
    assert [box.y for box in drawn.boxes] == sorted(box.y for box in drawn.boxes)
    for one, other in zip(drawn.boxes, drawn.boxes[1:], strict=False):
        assert one.y + one.height <= other.y


@given(
    days,
    st.integers(1, 200),
    st.sampled_from(["America/New_York", "Europe/London", "Australia/Lord_Howe", "Asia/Kathmandu"]),
)
def test_days_begin_when_they_begin_in_the_clients_zone(first: date, length: int, zone: str) -> None:
    """Against python-dateutil, which reads the same IANA database by its own code."""
    period = periods.Period(first, first + timedelta(days=length - 1))
    begin, end = period.instants(ZoneInfo(zone))
    theirs = tz.gettz(zone)
    assert begin.astimezone(theirs).replace(tzinfo=None).isoformat() == f"{first}T00:00:00"
    assert end.astimezone(theirs).date() == period.last + timedelta(days=1)


def test_periods_as_a_form_gives_them() -> None:
    today = date(2026, 11, 24)
    assert periods.chosen("7", "", "", today) == periods.Period(date(2026, 11, 18), today)
    assert periods.chosen("own", "2026-11-01", "2026-11-02", today) == periods.Period(
        date(2026, 11, 1), date(2026, 11, 2)
    )
    for first, last in (
        ("", ""),
        ("2026-02-30", "2026-03-01"),
        ("2026-11-02", "2026-11-01"),
        ("1999-12-31", "2026-11-01"),
    ):
        assert isinstance(periods.chosen("own", first, last, today), str)


@given(days, st.integers(1, 40_000))
def test_the_parts_of_a_period_are_the_period(first: date, length: int) -> None:
    period = periods.Period(first, first + timedelta(days=length - 1))
    parts = periods.parts(period)
    assert (parts[0].first, parts[-1].last) == (period.first, period.last)
    assert all(one.last + timedelta(days=1) == following.first for one, following in pairwise(parts))
    assert len(parts) <= 122
    whole = period.months
    held = {at for one in parts for at in (one.first, one.last)}
    if whole:
        assert (whole.first.day, (whole.last + timedelta(days=1)).day) == (1, 1)
        assert whole.first - period.first < timedelta(days=31) > period.last - whole.last
        assert periods.part_of(period) != "month" or whole.first in held
    else:
        assert period.days < 62
