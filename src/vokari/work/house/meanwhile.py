"""What others changed while a form was open: laid together with what was typed, or told."""

from collections.abc import Collection, Mapping
from typing import Any

from ...core import meanwhile
from .problems import Problem, Problems, Row

FIELD = "was"
"""The field of a form that says what it was made of, and beside which it is told what changed."""
LONGEST = 80


def laid(
    typed: Row, was: Row | None, now: Row, names: Mapping[str, str], *, keys: Collection[str] = (), field: str = FIELD
) -> Row | Problems:
    """The fields to save, with the changes of others that do not touch what was typed; or what they changed, in words, so
    that a second save puts what was typed in its place. `names` says what the fields are called; `keys` are those that hold
    keys of other things, which say nothing to a reader."""
    found = meanwhile.lay(typed, was, now)
    if not found.clashes:
        return found.fields
    changed = "; ".join(names.get(one, one) + ("" if one in keys else _now(now.get(one))) for one in found.clashes)
    return [Problem(field, f"Changed by somebody else meanwhile: {changed}. {AGAIN}")]


AGAIN = "What you typed is kept here: save again to put it in its place."


def _now(value: Any) -> str:
    """What stands now, where it can be said in a few words."""
    if isinstance(value, bool):
        return " (now on)" if value else " (now off)"
    if value in (None, "", []):
        return " (now empty)"
    entries = value if isinstance(value, list) else [value]
    said = ", ".join(
        str(one.get("to") or one.get("name") or one.get("first", "")) if isinstance(one, dict) else str(one)
        for one in entries
    )
    said = f"“{said}”" if isinstance(value, str) else said
    return f" (now {said})" if said and len(said) <= LONGEST else ""
