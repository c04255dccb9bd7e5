"""Time lines of assignments, against a plain reading moment by moment."""

import itertools
from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from vokari.core.numbers import assignments
from vokari.core.numbers.assignments import Span

START = datetime(2026, 1, 1, tzinfo=UTC)
HOURS = 24


def at(hour: int) -> datetime:
    return START + timedelta(hours=hour)


@st.composite
def timelines(draw: st.DrawFn) -> tuple[Span, ...]:
    edges = sorted(draw(st.sets(st.integers(0, HOURS), max_size=7)))
    spans = [
        Span(draw(st.integers(1, 3)), at(first), at(second))
        for first, second in itertools.pairwise(edges)
        if draw(st.booleans())
    ]
    if edges and draw(st.booleans()):
        spans.append(Span(draw(st.integers(1, 3)), at(edges[-1]), None))
    return tuple(spans)


def who(spans: tuple[Span, ...], hour: int) -> int | None:
    """The holder half an hour past the hour; more than one is a defect."""
    found = [span.source_id for span in spans if span.covers(at(hour) + timedelta(minutes=30))]
    assert len(found) <= 1
    return found[0] if found else None


def hours() -> range:
    return range(-1, HOURS + 2)


@given(timelines(), st.none() | st.integers(1, 3), st.integers(0, HOURS), st.none() | st.integers(0, HOURS))
def test_giving_changes_its_own_time_and_nothing_else(
    spans: tuple[Span, ...], source: int | None, since: int, until: int | None
) -> None:
    after = assignments.give(spans, source, at(since), None if until is None else at(max(since, until)))
    for hour in hours():
        inside = hour >= since and (until is None or hour < max(since, until))
        assert who(after, hour) == (source if inside else who(spans, hour))
    assert list(after) == sorted(after, key=lambda span: span.since)


@given(timelines(), timelines(), st.integers(0, HOURS))
def test_swapping_exchanges_the_future_and_leaves_the_past(
    first: tuple[Span, ...], second: tuple[Span, ...], since: int
) -> None:
    a, b = assignments.swap(first, second, at(since))
    for hour in hours():
        assert who(a, hour) == who(second if hour >= since else first, hour)
        assert who(b, hour) == who(first if hour >= since else second, hour)


@given(timelines(), st.integers(1, 3), st.integers(1, HOURS), st.integers(1, HOURS))
def test_cancelling_a_planned_change_gives_back_what_was(
    spans: tuple[Span, ...], source: int, since: int, length: int
) -> None:
    """With one span or gap around the planned time, so that nothing else was planned there."""
    until = since + length
    quiet = tuple(span for span in spans if not any(at(since) <= edge <= at(until) for edge in edges(span)))
    changed = assignments.give(quiet, source, at(since), at(until))
    if changed != quiet:
        cancelled = assignments.cancel(changed, at(since))
        assert [who(cancelled, hour) for hour in hours()] == [who(quiet, hour) for hour in hours()]


def edges(span: Span) -> list[datetime]:
    return [edge for edge in (span.since, span.until) if edge is not None]


@given(timelines(), st.integers(0, HOURS))
def test_the_last_holder_is_the_holder_or_the_one_before(spans: tuple[Span, ...], hour: int) -> None:
    moment = at(hour) + timedelta(minutes=30)
    now, last = assignments.holder(spans, moment), assignments.last_holder(spans, moment)
    assert now is None or now == last
    assert (last is None) == (not any(span.since <= moment for span in spans))
    planned = assignments.changes(spans, moment)
    assert [when for when, _ in planned] == sorted({edge for span in spans for edge in edges(span) if edge > moment})
    assert all(who(spans, (when - START) // timedelta(hours=1)) == source for when, source in planned)


def test_a_change_that_is_not_there_cannot_be_cancelled() -> None:
    spans = (Span(1, at(0), at(5)), Span(2, at(5)))
    assert assignments.cancel(spans, at(3)) == spans
    assert assignments.cancel(spans, at(5)) == (Span(1, at(0)),)
