"""What stored documents are made of."""

from collections.abc import Mapping
from functools import cache, cached_property
from typing import Any, Self

from pydantic import BaseModel, ConfigDict


class Value(BaseModel):
    """A frozen value whose unknown fields are errors, so that a misspelt field is never lost in silence.

    What follows from its fields may be kept as a `cached_property`; a copy with other fields works it out anew.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """The same value with some fields changed, which are not validated."""
        copied = super().model_copy(update=update, deep=deep)
        for name in _worked_out(type(self)):
            copied.__dict__.pop(name, None)
        return copied


@cache
def _worked_out(kind: type[Value]) -> tuple[str, ...]:
    return tuple(name for name in dir(kind) if isinstance(getattr(kind, name, None), cached_property))
