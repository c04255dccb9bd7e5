"""A client's calls as a table: a line a call, moments in the client's own time."""

from collections.abc import Sequence
from datetime import datetime
from zoneinfo import ZoneInfo

from ..core.calls.fates import FAIL_SAFE

HEADER = (
    "Start", "Caller", "Number", "Lead source", "Credited by", "Flow", "Fate", "Reason", "Fail-safe", "Seconds",
    "Seconds talked", "Labels",
)  # fmt: skip
CREDITED_BY = {"assignment": "number dialed", "key": "key pressed", "late": "number dialed, late"}


def line(
    zone: ZoneInfo, started_at: datetime, caller: str, number: str | None, source: str | None, source_by: str, flow: str | None,
    fate: str, reason: str, fail_safe: str, seconds: float, talk_seconds: float, labels: Sequence[str],
) -> tuple[object, ...]:  # fmt: skip
    """A call under HEADER."""
    return (
        started_at.astimezone(zone).isoformat(timespec="seconds"), caller, number or "", source or "",
        CREDITED_BY.get(source_by, ""), flow or "", fate.replace("_", " "), reason, FAIL_SAFE.get(fail_safe, ""), seconds,
        talk_seconds, ", ".join(labels),
    )  # fmt: skip
