"""Hours typed and painted: what a text means, how it is written back, and what a stroke does to a week."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.hours import PERIODS, random_days, week
from vokari.core.hours import painting
from vokari.core.hours.document import DAY, Span, clashes
from vokari.core.hours.typed import read_day, read_week, write_day, write_week


@pytest.mark.parametrize(
    ("typed", "means"),
    [
        ("Mon-Thu 7:30-12, 13-16; Sat 9-1", "Mon-Thu 07:30-12:00, 13:00-16:00; Sat 09:00-13:00"),
        ("weekdays 9am-5:30pm", "Mon-Fri 09:00-17:30"),
        ("Fri-Mon 22-6", "Mon, Fri-Sun 22:00-06:00"),
        ("daily round the clock", "Daily 00:00-24:00"),
        ("Mon, Wed and Fri 0730-1200", "Mon, Wed, Fri 07:30-12:00"),
        ("Sun 12-1", "Sun 12:00-13:00"),
        ("Tuesday 9 to 17", "Tue 09:00-17:00"),
        ("Sat 8–6", "Sat 08:00-18:00"),
        ("Mon 08:00-06:00", "Mon 08:00-06:00"),
        ("Mon 9.30-11.15; Tue noon-midnight", "Mon 09:30-11:15; Tue 12:00-24:00"),
        ("Mon 1-5pm", "Mon 13:00-17:00"),
        ("Mon 11-2pm", "Mon 11:00-14:00"),
        ("Mon 9am-1; Tue 10pm-2; Wed 9am-1am", "Mon 09:00-13:00; Tue 22:00-02:00; Wed 09:00-01:00"),
        ("Mon 9-12, Tue 13-16", "Mon 09:00-12:00; Tue 13:00-16:00"),
        ("Mon 9-12, 11-14", "Mon 09:00-14:00"),
        ("Mon 8-9, 9-10", "Mon 08:00-10:00"),
        ("Wed 06:00-06:00 next day", "Wed 06:00-06:00+1"),
        ("weekends closed", ""),
        ("", ""),
    ],
)
def test_text_is_read_in_usual_forms_and_written_back(typed: str, means: str) -> None:
    read = read_week(typed)
    assert not isinstance(read, str), read
    assert write_week(read) == means


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("9-5", "Say the days first"), ("Mom 9-5", "“Mom” is no day"), ("Mon", "says no times"),
        ("Mon 9", "is no interval"), ("Mon 25-26", "a day has 24 hours"), ("Mon 9:75-10", "an hour has 60"),
        ("Mon 18-18", "has no length"), ("Mon 13am-2pm", "1 to 12"), ("Mon 24-3", "starts at the end"),
        ("Mon-Foo 9-5", "“Foo” is no day"), ("Mon 9-5" * 400, "too long"), ("Mon 9-5; \x00", "no day"),
    ],
)  # fmt: skip
def test_what_is_not_understood_is_said(typed: str, says: str) -> None:
    read = read_week(typed)
    assert isinstance(read, str)
    assert says in read


@given(st.text(max_size=60))
def test_no_text_makes_the_reader_fail(text: str) -> None:
    for prefix in ("", "Mon ", "Mon 9-"):
        assert isinstance(read_week(prefix + text), str | tuple)
        assert isinstance(read_day(prefix + text, PERIODS, "desk"), str | tuple)


@given(st.lists(random_days(), min_size=7, max_size=7))
def test_what_is_written_is_read_back_as_the_same(days: list[tuple[Span, ...]]) -> None:
    for period in PERIODS:
        own = painting.of_period([painting.tidied(day) for day in days], period)
        assert read_week(write_week(own), period) == own
    for day in days:
        tidy = painting.tidied(day)
        again = read_day(write_day(tidy, PERIODS, "desk"), PERIODS, "desk")
        assert not isinstance(again, str), again
        assert set(again) == set(tidy)


def test_a_day_names_its_periods_or_means_the_usual_one() -> None:
    assert read_day("Front desk 9-12; Workshop 13-4", PERIODS, "desk") == (
        Span(period="desk", start=540, end=720), Span(period="shop", start=780, end=960 + 720),
    )  # fmt: skip
    assert read_day("closed", PERIODS, "desk") == ()
    assert "overlap from 11:00" in str(read_day("9-12; Workshop 11-14", PERIODS, "desk"))
    assert "no period of this set" in str(read_day("Attic 9-12", PERIODS, "desk"))


# painting


def minutes(days: tuple[tuple[Span, ...], ...], period: str) -> set[int]:
    """The minutes of the week, which comes round, in which a period holds."""
    return {
        minute % (7 * DAY)
        for index, day in enumerate(days) for span in day if span.period == period
        for minute in range(index * DAY + span.start, index * DAY + span.end, 5)
    }  # fmt: skip


@given(
    st.sampled_from(["desk", "shop", "closed"]), st.integers(0, 6), st.integers(-60, 400), st.integers(1, 288),
    st.sampled_from(["Mon-Thu 7:30-12, 13-16", "Daily 20:00-04:00", "Sun 18:00-10:00", ""]),
)  # fmt: skip
def test_what_is_painted_lies_on_top_and_the_rest_stays(
    period: str, day: int, start: int, length: int, text: str
) -> None:
    before = week(desk=text, shop="Sat 9-17" if "Daily" not in text else "")
    after = painting.paint(before, period, day, start * 5, (start + length) * 5)
    stroke = {(day * DAY + minute) % (7 * DAY) for minute in range(start * 5, (start + length) * 5, 5)}
    for one in PERIODS:
        expected = minutes(before, one) | stroke if one == period else minutes(before, one) - stroke
        assert minutes(after, one) == expected
    assert not list(clashes(after, PERIODS))


def test_intervals_are_moved_stretched_and_removed() -> None:
    before = week(desk="Mon 8-12", shop="Mon 13-16")
    span = before[0][0]
    assert write_week(painting.of_period(painting.replace(before, 0, span, 2, 540, 780), "desk")) == "Wed 09:00-13:00"
    stretched = painting.replace(before, 0, span, 0, 480, 840)
    assert write_week(painting.of_period(stretched, "desk")) == "Mon 08:00-14:00"
    assert write_week(painting.of_period(stretched, "shop")) == "Mon 14:00-16:00"
    assert minutes(painting.remove(before, 0, span), "desk") == set()
    assert write_week(painting.replace(before, 0, span, 6, 1380, 1500)) == "Mon 13:00-16:00; Sun 23:00-01:00"


def test_a_day_is_copied() -> None:
    before = week(desk="Mon 8-12; Tue 9-10", shop="Mon 13-16")
    copied = painting.copy_day(before, 0, [1, 2, 5])
    assert write_week(painting.of_period(copied, "desk")) == "Mon-Wed, Sat 08:00-12:00"
    assert write_week(painting.of_period(copied, "shop")) == "Mon-Wed, Sat 13:00-16:00"
