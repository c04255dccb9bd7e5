"""A condition of a Junction, as it is stored. What each test means stands in `flows.conditions`."""

from collections.abc import Callable, Iterator
from typing import Literal

from pydantic import Field, field_validator

from ...value import Value

DEEPEST = 8
"""How deep conditions are nested at most."""
CLOSED = "closed"
"""What holds when no period of a set of hours does."""

Test = Literal[
    "all", "any", "not",
    "period", "exception", "dates", "times",
    "first_call", "on_list", "lead_status", "label", "last_spoke_with", "withheld", "contact_field",
    "number_dialled", "lead_source", "campaign", "keyword", "landing_page", "page_now", "referrer",
    "area", "postal_code", "nearest_location", "value", "language", "share",
]  # fmt: skip
OF_HOURS: tuple[Test, ...] = ("period", "exception")
"""The tests whose `of` is the key of a set of hours."""


class Condition(Value):
    """One condition of a Junction.

    `test` names what is looked at, `of` which object (an hours set, a list, a stored value), `any_of` the
    values that satisfy it, `days` and `distance_km` its reach, `parts` the conditions it combines.
    """

    test: Test
    of: str | None = None
    any_of: tuple[str, ...] = Field(default=(), max_length=500)
    days: int | None = Field(default=None, ge=1, le=3660)
    distance_km: float | None = Field(default=None, gt=0)
    percent: int | None = Field(default=None, ge=0, le=100)
    parts: tuple["Condition", ...] = Field(default=(), max_length=100)

    @field_validator("parts")
    @classmethod
    def _not_too_deep(cls, parts: tuple["Condition", ...]) -> tuple["Condition", ...]:
        if any(part.depth >= DEEPEST for part in parts):
            raise ValueError(f"conditions are nested at most {DEEPEST} deep")
        return parts

    @property
    def depth(self) -> int:
        """How many conditions stand in one another here, this one included."""
        return 1 + max((part.depth for part in self.parts), default=0)

    def leaves(self) -> Iterator["Condition"]:
        """The conditions that this one combines, down to those that look at something themselves."""
        if self.test in ("all", "any", "not"):
            for part in self.parts:
                yield from part.leaves()
        else:
            yield self

    def with_hours(self, key_for: Callable[[str], str | None]) -> "Condition":
        """The same condition with each set of hours under another key; one for which there is none keeps its own."""
        parts = tuple(part.with_hours(key_for) for part in self.parts)
        of = (key_for(self.of) or self.of) if self.of and self.test in OF_HOURS else self.of
        return self.model_copy(update={"of": of, "parts": parts})

    def without_period(self, key: str, period: str) -> "Condition | None":
        """The condition once a period of a set of hours is gone: one that asks for others too asks for those, and None is left
        of one that asks for nothing else."""
        if self.test == "period" and self.of == key and period in self.any_of:
            rest = tuple(one for one in self.any_of if one != period)
            return self.model_copy(update={"any_of": rest}) if rest else None
        if self.parts:
            parts = tuple(part for part in (one.without_period(key, period) for one in self.parts) if part is not None)
            lost = len(parts) < len(self.parts)
            return None if lost and (self.test != "any" or not parts) else self.model_copy(update={"parts": parts})
        return self
