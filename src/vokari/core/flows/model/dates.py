"""Ranges of dates as they stand in conditions: "2026-12-01/2026-12-24", both included, or one day."""

from datetime import date


def read_range(text: str) -> tuple[date, date] | None:
    """The first and last day of a range; None when it is none."""
    first, _, last = text.partition("/")
    try:
        found = date.fromisoformat(first), date.fromisoformat(last or first)
    except ValueError:
        return None
    return found if found[0] <= found[1] else None


def in_ranges(ranges: tuple[str, ...], on: date) -> bool:
    """Whether a day lies in one of the ranges."""
    return any(pair is not None and pair[0] <= on <= pair[1] for pair in map(read_range, ranges))


def range_words(text: str) -> str:
    """A range in words: "Dec 1 to Dec 24"."""
    pair = read_range(text)
    if pair is None:
        return text
    first, last = pair
    return f"{first:%b} {first.day}" if first == last else f"{first:%b} {first.day} to {last:%b} {last.day}"
