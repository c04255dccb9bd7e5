"""A condition of a Junction, as it is stored. What each test means stands in `flows.conditions`."""

from collections.abc import Iterator, Mapping
from typing import Literal

from pydantic import Field, field_validator

from ...value import Value
from .exits import NamedKind, Renaming

DEEPEST = 8
"""How deep conditions are nested at most."""
CLOSED = "closed"
"""What holds when no period of a set of hours does."""

Test = Literal[
    "all", "any", "not",
    "period", "exception", "dates", "times",
    "first_call", "called", "last_call", "last_spoke_with", "withheld", "on_list", "lead_status", "label", "contact_field",
    "number_dialled", "lead_source", "campaign", "source", "medium", "keyword", "content",
    "landing_page", "page_now", "any_page", "referrer", "visits", "visit_age",
    "area", "postal_code", "within", "nearest_location", "value", "language", "share",
]  # fmt: skip
JOINED: tuple[Test, ...] = ("all", "any", "not")
"""What combines other conditions."""
_NAMES: Mapping[Test, tuple[NamedKind, str]] = {
    "period": ("hours", "of"), "exception": ("hours", "of"), "last_spoke_with": ("person", "any_of"),
    "lead_source": ("source", "any_of"), "within": ("area", "of"), "nearest_location": ("place", "any_of"),
}  # fmt: skip
"""Tests that name something of the client: of what kind, and in which field."""
OF_HOURS: tuple[Test, ...] = ("period", "exception")
"""The tests whose `of` is the key of a set of hours."""


class Condition(Value):
    """One condition of a Junction.

    `test` names what is looked at, `of` which object (an hours set, a place, a stored value), `any_of` the
    values that satisfy it, `at_least` how often, `days`, `hours` and `distance_km` its reach, `parts` the conditions it combines.
    """

    test: Test
    of: str | None = None
    any_of: tuple[str, ...] = Field(default=(), max_length=500)
    at_least: int | None = Field(default=None, ge=1, le=100)
    days: int | None = Field(default=None, ge=1, le=3660)
    hours: int | None = Field(default=None, ge=1, le=720)
    distance_km: float | None = Field(default=None, gt=0, le=5000)
    percent: int | None = Field(default=None, ge=1, le=100)
    parts: tuple["Condition", ...] = Field(default=(), max_length=100)

    @field_validator("parts")
    @classmethod
    def _not_too_deep(cls, parts: tuple["Condition", ...]) -> tuple["Condition", ...]:
        if any(part.depth >= DEEPEST for part in parts):
            raise ValueError(f"conditions are nested at most {DEEPEST} deep")
        return parts

    @property
    def reach(self) -> int | None:
        """How many hours back it looks; None for ever."""
        return 24 * (self.days or 0) + (self.hours or 0) or None

    @property
    def depth(self) -> int:
        """How many conditions stand in one another here, this one included."""
        return 1 + max((part.depth for part in self.parts), default=0)

    def leaves(self) -> Iterator["Condition"]:
        """The conditions that this one combines, down to those that look at something themselves."""
        if self.test in JOINED:
            for part in self.parts:
                yield from part.leaves()
        else:
            yield self

    def names(self) -> Iterator[tuple[NamedKind, str]]:
        """What it names of the client: the kind and the key of each thing."""
        for leaf in self.leaves():
            kind, where = _NAMES.get(leaf.test, (None, ""))
            if leaf.test == "within" and leaf.distance_km is not None:
                kind = "place"
            if leaf.test == "nearest_location" and leaf.of == "people":
                kind = "person"
            if kind is not None:
                yield from ((kind, key) for key in ((leaf.of,) if where == "of" else leaf.any_of) if key)

    def renamed(self, to: Renaming) -> "Condition":
        """The same condition with what it names under other keys; what is left open keeps its own."""
        parts = tuple(part.renamed(to) for part in self.parts)
        known = {key: to(kind, key) or key for kind, key in self.names()} if not self.parts else {}
        of = known.get(self.of or "", self.of) if _NAMES.get(self.test, (None, ""))[1] == "of" else self.of
        named = (
            self.any_of
            if of != self.of or self.test not in _NAMES
            else tuple(known.get(one, one) for one in self.any_of)
        )
        return self.model_copy(update={"of": of, "any_of": named, "parts": parts})

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
