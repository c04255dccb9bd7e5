"""What stored documents are made of."""

from collections.abc import Callable, Mapping
from functools import cache, cached_property, wraps
from typing import Any, Self, TypeVar, cast

from pydantic import BaseModel, ConfigDict


class Value(BaseModel):
    """A frozen value whose unknown fields are errors, so that a misspelt field is never lost in silence.

    What follows from its fields may be kept as a `cached_property`, or by a function that is `once`; a copy with other fields
    works it out anew.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    @cached_property
    def worked_out(self) -> dict[object, object]:
        """What functions that are `once` made of it."""
        return {}

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """The same value with some fields changed, which are not validated."""
        copied = super().model_copy(update=update, deep=deep)
        for name in _worked_out(type(self)):
            copied.__dict__.pop(name, None)
        return copied


Of = TypeVar("Of", bound=Value)
Made = TypeVar("Made")


def once(make: Callable[[Of], Made]) -> Callable[[Of], Made]:
    """A function of one value that is worked out once for each value; what it gives must not be changed."""

    @wraps(make)
    def kept(value: Of) -> Made:
        known = value.worked_out
        if make not in known:
            known[make] = make(value)
        return cast(Made, known[make])

    return kept


@cache
def _worked_out(kind: type[Value]) -> tuple[str, ...]:
    return tuple(name for name in dir(kind) if isinstance(getattr(kind, name, None), cached_property))
