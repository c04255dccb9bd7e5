"""Rows of a sheet moved, doubled and pasted with all that hangs below them, as operations on the lines of the flow's text, so that one
grammar says what may stand where. Each is one edit of the draft."""

from collections.abc import Callable, Sequence

from ...core.flows.outlined import blocks
from ...core.flows.outlined.blocks import Move, Outline, Put, Stuck
from ...core.flows.outlined.building import build
from ...core.flows.outlined.known import Known
from ...core.flows.outlined.reading import read
from ...core.flows.outlined.writing import Written, cannot, write
from ..agency.access import Actor
from ..house.house import House
from ..house.keys import new_key
from ..house.problems import Problem, Problems
from . import open_drafts, texts
from .drafts import Conflict
from .open_drafts import OpenDraft
from .texts import Text

Row = tuple[str, str]
"""A row of the sheet: the id of its step and "", or for an exit that leads elsewhere that of its step and of the exit."""
Result = tuple[OpenDraft, str] | Text | Conflict | Problems
"""The draft and the step whose row it is about now; the text where pasted lines have names that nothing of the client has; or what is
in the way."""
WORDS: dict[Move, str] = {
    "up": "moved a row up", "down": "moved a row down", "deeper": "put a row under the one before",
    "less_deep": "put a row beside the one above", "double": "duplicated a row",
}  # fmt: skip


def written(draft: OpenDraft) -> list[Written]:
    """The lines of a draft, for what is copied from its rows; none where text cannot tell of it."""
    known = texts.named(draft)
    return [] if cannot(draft.document, known) else write(draft.document, known)


def move(house: House, actor: Actor, client_id: int, flow_id: int, row: Row, how: Move) -> Result:
    """Moves a row with what hangs below it, or doubles it."""
    return _put(
        house, actor, client_id, flow_id, [row], WORDS[how], lambda outline, at: blocks.moved(outline, at[0], how)
    )


def drop(house: House, actor: Actor, client_id: int, flow_id: int, row: Row, to: Row, *, below: bool) -> Result:
    """Puts a row with what hangs below it behind another one, or below it."""
    return _put(
        house,
        actor,
        client_id,
        flow_id,
        [row, to],
        "moved a row",
        lambda outline, at: blocks.put(outline, *at, below=below),
    )


def paste(house: House, actor: Actor, client_id: int, flow_id: int, row: Row | None, text: str) -> Result:
    """Puts lines behind a row and what hangs below it, or at the end."""
    if len(text) > texts.LONGEST:
        return [Problem("text", f"At most {texts.LONGEST:,} letters are pasted.")]
    rows = [row] if row is not None else []
    return _put(
        house, actor, client_id, flow_id, rows, "pasted rows",
        lambda outline, at: blocks.pasted(outline, at[0] if at else None, text),
    )  # fmt: skip


def take_out(house: House, actor: Actor, client_id: int, flow_id: int, row: Row) -> Result:
    """Removes the line of an exit that leads elsewhere: the branch that it is, or where the exit leads."""
    return _put(
        house, actor, client_id, flow_id, [row], "removed an exit", lambda outline, at: blocks.without(outline, at[0])
    )


def _put(
    house: House, actor: Actor, client_id: int, flow_id: int, rows: Sequence[Row], words: str,
    put: Callable[[Outline, list[int]], Put],
) -> Result:  # fmt: skip
    draft = open_drafts.opened(house, actor, client_id, flow_id)
    known = texts.known_of(house, actor, draft)
    if left := cannot(draft.document, known):
        return [Problem("", f"{left[0].begins} cannot be told as text yet, and rows are moved as text.")]
    lines = write(draft.document, known)
    at = [_at(lines, row) for row in rows]
    places = [one for one in at if one is not None]
    if len(places) < len(at):
        return [Problem("", "This row has no line of its own, or is there no more; nothing was changed.")]
    try:
        goes_on = frozenset(n for n, one in enumerate(lines) if one.goes_on)
        after = put(Outline([one.text for one in lines], goes_on), places)
    except Stuck as stuck:
        return [Problem("", str(stuck))]
    wrong, strangers = _not_understood(draft, known, lines, after)
    if wrong and not strangers:
        return [Problem("", f"It cannot stand there. {wrong}")]
    was, text = "\n".join(one.text for one in lines), "\n".join(after.lines)
    kept = texts.type_in(house, actor, client_id, flow_id, text, draft.flow.revision, was, words=words)
    if not isinstance(kept, Text):
        return kept
    return kept if strangers else (kept.draft, kept.lines.get(after.at, ""))


def _at(lines: list[Written], row: Row) -> int | None:
    step, way = row
    if not way:
        return next((n for n, one in enumerate(lines) if one.step == step), None)
    return next((n for n, one in enumerate(lines) if one.way == (step, way)), None)


def _not_understood(draft: OpenDraft, known: Known, lines: list[Written], after: Put) -> tuple[str, bool]:
    """What is missing in the first line that is not understood any more, empty where each is that was; and whether that is for names
    that nothing of the client has."""
    built = build(read("\n".join(after.lines), known), draft.document, new_key, [one.key for one in draft.mailboxes])
    waiting = {one.text.strip() for one in lines if one.missing}
    new = [words for n, words in sorted(built.missing.items()) if after.lines[n].strip() not in waiting]
    return (new[0] if new else ""), bool(new and built.strangers)
