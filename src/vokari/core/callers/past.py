"""A caller's past with one client: the calls that were over before this one began."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal, get_args

CameTo = Literal["answered", "message_left", "served", "turned_away", "lost"]
CAME_TO: tuple[CameTo, ...] = get_args(CameTo)
"""What can have come of a call, as fates are called."""
MOST_CALLS = 100
"""How many earlier calls are looked at, the latest of them."""


@dataclass(frozen=True, slots=True)
class EarlierCall:
    """A call that is over: when it began, what came of it, and who talked with the caller (the key of a person; empty: nobody)."""

    at: datetime
    fate: str
    spoke_with: str = ""


@dataclass(frozen=True, slots=True)
class Past:
    """The earlier calls of one caller, the latest first. `at` is when the call at hand began. Of a withheld number nothing is known."""

    at: datetime
    calls: Sequence[EarlierCall] = ()
    known: bool = True

    def _within(self, hours: int | None) -> list[EarlierCall]:
        since = self.at - timedelta(hours=hours) if hours else None
        return [one for one in self.calls if one.at < self.at and (since is None or one.at >= since)]

    def called(self, at_least: int, hours: int | None, came_to: Sequence[str]) -> bool | None:
        """Whether they called so often within so many hours (None: ever), counting only calls of some fates (none: of all)."""
        if not self.known:
            return None
        return sum(not came_to or one.fate in came_to for one in self._within(hours)) >= at_least

    def last_call(self, hours: int | None, came_to: Sequence[str]) -> bool | None:
        """Whether their latest call was within so many hours and came to one of some fates; not known of who never called."""
        if not self.known or not self.calls:
            return None if not self.known else False
        latest = self._within(hours)[:1]
        return any(one.fate in came_to for one in latest)

    def last_spoke_with(self, people: Sequence[str], hours: int | None) -> bool | None:
        """Whether whoever talked with them last, within so many hours, is one of some people."""
        if not self.known:
            return None
        latest = next((one.spoke_with for one in self._within(hours) if one.spoke_with), "")
        return latest in people
