"""Two people change the same thing: what was typed is laid over what stands now, field by field.

A form says what its fields were when it was shown. Fields that were left alone keep what stands now, whoever put it there; a
field that both changed is a clash, which is told and never decided by who comes last.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Laid:
    """The fields after laying one change over the other, and those that both changed to different values."""

    fields: dict[str, Any]
    clashes: tuple[str, ...]


def lay(typed: Mapping[str, Any], was: Mapping[str, Any] | None, now: Mapping[str, Any]) -> Laid:
    """`typed` laid over `now`, when the form was made of `was` (None: of what stands now). Values are plain JSON."""
    fields, clashes = dict(typed), []
    for name, value in typed.items():
        before, stands = (now if was is None else was).get(name), now.get(name)
        if stands in (before, value):
            continue
        if value == before:
            fields[name] = stands
        else:
            clashes.append(name)
    return Laid(fields, tuple(clashes))
