"""Time lines as they are drawn: in order, inside the picture, and true to their length."""

import itertools
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vokari.core.numbers import timeline
from vokari.core.numbers.assignments import Span

BEGAN = datetime(2025, 6, 1, tzinfo=UTC)
ZONE = ZoneInfo("America/New_York")


@st.composite
def spans(draw: st.DrawFn) -> list[Span]:
    edges = sorted(draw(st.sets(st.integers(0, 900), min_size=2, max_size=8)))
    found = [
        Span(index, BEGAN + timedelta(days=first), BEGAN + timedelta(days=second))
        for index, (first, second) in enumerate(zip(edges[::2], edges[1::2], strict=False))
    ]
    if draw(st.booleans()):
        found.append(Span(99, BEGAN + timedelta(days=edges[-1] + 1), None))
    return found


@given(spans(), st.integers(0, 900))
def test_pieces_are_true_to_their_length_and_to_the_present(held: list[Span], today: int) -> None:
    now = BEGAN + timedelta(days=today, hours=5)
    drawn = timeline.draw(held, BEGAN, now, ZONE, 1000)
    assert [piece.span for piece in drawn.pieces] == held
    for piece in drawn.pieces:
        assert piece.x >= -0.1
        assert piece.x + piece.width <= 1000 + timeline.NARROWEST
        state = "planned" if piece.span.since > now else "now" if piece.span.covers(now) else "past"
        assert piece.state == state
        if piece.state == "past":
            assert piece.x <= drawn.now_x + timeline.NARROWEST
        if piece.state == "planned":
            assert piece.x >= drawn.now_x - 0.2
    closed = [piece for piece in drawn.pieces if piece.span.until and piece.width > timeline.NARROWEST]
    for first, second in itertools.pairwise(closed):
        real = (second.span.until - second.span.since) / (first.span.until - first.span.since)  # type: ignore[operator]
        assert second.width / first.width == pytest.approx(real, rel=0.1, abs=0.1)


@given(spans(), st.integers(0, 900))
def test_months_stand_in_order_and_apart(held: list[Span], today: int) -> None:
    drawn = timeline.draw(held, BEGAN, BEGAN + timedelta(days=today), ZONE, 1000)
    places = [x for x, _ in drawn.months]
    assert places == sorted(places)
    assert all(0 <= x <= 1000 for x in places)
    assert all(second - first > 40 for first, second in itertools.pairwise(places))
    years = [words for _, words in drawn.months if words.startswith("Jan")]
    assert all(words.split()[1].isdigit() for words in years)


def test_a_number_that_nobody_had_yet_is_an_empty_line() -> None:
    drawn = timeline.draw([], BEGAN, BEGAN + timedelta(days=3), ZONE, 1000)
    assert drawn.pieces == ()
    assert 0 < drawn.now_x < 1000
