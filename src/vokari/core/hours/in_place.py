"""Times typed where they are needed, as a set of hours without a name."""

from functools import lru_cache
from zoneinfo import ZoneInfo

from .document import Hours, Period
from .timetable import Timetable
from .typed import read_week


@lru_cache(maxsize=1000)
def week_table(text: str, zone: ZoneInfo) -> Timetable | None:
    """The timetable of a week as `typed` reads it; None for a text that is none."""
    week = read_week(text, "open")
    return (
        None
        if isinstance(week, str)
        else Timetable(Hours(name="Typed", periods=(Period(id="open", name="Open"),), week=week), zone)
    )
