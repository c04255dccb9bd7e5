"""How long before its last day a prompt is warned of."""

from datetime import date, timedelta

SOON = timedelta(days=14)


def ends_of(last: date | None, today: date) -> str:
    """Whether a prompt is true no more (over), or will not be for long (soon)."""
    if last is None:
        return ""
    return "over" if last < today else "soon" if last - today <= SOON else ""
