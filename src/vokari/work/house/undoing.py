"""What is kept can be taken back: every change of a row is logged with what it was before, a removed row can be brought back.

Undo is another entry of the log. Whoever calls these has locked the client, so that the changes of a row come one after the other.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any, NamedTuple, TypeVar

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from ...store.agency import User
from ...store.base import Base
from ...store.edits import RowEdit
from ...store.flows import DraftEdit
from ..agency.access import Actor, NotFound
from .house import House
from .problems import Row

UNDO, REDO = "undo", "redo"
_SAID = {UNDO: "took back: ", REDO: "did again: "}


FEW = 30
"""How many entries are read at first to find the one that an undo takes back; in most cases it is among the last few."""


class Entry(NamedTuple):
    """An entry of a log: an edit, or one that takes an entry back or does it again."""

    seq: int
    kind: str
    words: str


Kept = TypeVar("Kept", bound=Base)


def standing(newest_first: Iterable[Entry]) -> tuple[Entry | None, Entry | None]:
    """The entries that undo and redo would take back now, from the log alone, which is read from its end for as long as it takes.
    A new edit ends what could be done again."""
    undoable: Entry | None = None
    redoable: Entry | None = None
    may_redo = True
    taken_back = done_again = 0
    for entry in newest_first:
        if entry.kind == UNDO:
            taken_back += 1
            if may_redo and not done_again:
                redoable, may_redo = entry, False
            done_again = max(0, done_again - 1)
        else:
            if entry.kind == REDO:
                done_again += 1
            else:
                may_redo = False
            if undoable is None and not taken_back:
                undoable = entry
            taken_back = max(0, taken_back - 1)
        if undoable is not None and not may_redo:
            break
    return undoable, redoable


def newest_first(
    session: Session, log: type[RowEdit] | type[DraftEdit], *where: ColumnElement[bool]
) -> Iterator[Entry]:
    """The entries of a log from its end, read as they are asked for."""
    query = select(log.seq, log.kind, log.words).where(*where).order_by(log.seq.desc())
    size, some = FEW, session.execute(query.limit(FEW)).all()
    while some:
        yield from (Entry(*one) for one in some)
        if len(some) < size:
            return
        size *= 10
        some = session.execute(query.where(log.seq < some[-1].seq).limit(size)).all()


def plain(words: str) -> str:
    """What an entry did, without the words of taking back."""
    return words.removeprefix(_SAID[UNDO]).removeprefix(_SAID[REDO])


def said(kind: str, words: str) -> str:
    """What an undo or redo of an entry says it did."""
    return f"{_SAID[kind]}{plain(words)}"


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of row with a log: its name there, and the columns that are kept."""

    name: str
    columns: tuple[str, ...]


def own(
    session: Session, model: type[Kept], client_id: int, row_id: int, *, lock: bool = False, gone: bool = False
) -> Kept:
    """A row of this client; raises NotFound for any other, and for one that was removed unless those are meant (`gone`)."""
    row: Any = session.get(model, row_id, with_for_update=lock)
    if row is None or row.client_id != client_id or (not gone and getattr(row, "removed_at", None) is not None):
        raise NotFound
    found: Kept = row
    return found


def state_of(kind: Kind, row: Any) -> Row:
    """What is kept of a row, as it stands."""
    return {name: getattr(row, name) for name in kind.columns}


def keep(
    session: Session, house: House, actor: Actor, kind: Kind, row: Any, after: Row, words: str, how: str = "edit",
    of_seq: int | None = None,
) -> bool:  # fmt: skip
    """Writes a changed row down with its entry in the log; one that changes nothing leaves no trace, and gives False."""
    before = state_of(kind, row)
    if after == before:
        return False
    for name, value in after.items():
        setattr(row, name, value)
    if hasattr(row, "revision"):
        row.revision += 1
    session.add(
        RowEdit(
            of=kind.name, row_id=row.id, seq=_next(session, kind, row), agency_id=row.agency_id, user_id=actor.user_id,
            at=house.now(), kind=how, of_seq=of_seq, words=words[:300], before=before, after=after,
        )
    )  # fmt: skip
    session.flush()
    return True


def _next(session: Session, kind: Kind, row: Any) -> int:
    """The number of the next entry: the row's revision where it has one."""
    if hasattr(row, "revision"):
        return int(row.revision)
    latest = select(func.max(RowEdit.seq)).where(RowEdit.of == kind.name, RowEdit.row_id == row.id)
    return int(session.scalar(latest) or 0) + 1


def steps(session: Session, kind: Kind, row_id: int) -> tuple[Entry | None, Entry | None]:
    """The entries of a row that undo and redo would take back now."""
    return standing(newest_first(session, RowEdit, RowEdit.of == kind.name, RowEdit.row_id == row_id))


@dataclass(frozen=True, slots=True)
class Steps:
    """What undo and redo would do, in words; empty where there is nothing."""

    undo: str = ""
    redo: str = ""


def steps_in_words(session: Session, kind: Kind, row_id: int) -> Steps:
    """What could be taken back of a row, and done again."""
    undoable, redoable = steps(session, kind, row_id)
    return Steps(plain(undoable.words) if undoable else "", plain(redoable.words) if redoable else "")


def step_back(session: Session, house: House, actor: Actor, kind: Kind, row: Any, how: str) -> str | None:
    """Takes the latest change of a row back (`undo`), or does again what was taken back last (`redo`); gives what it did in words, None
    where there is nothing. Raises IntegrityError where something else has a name of then."""
    undoable, redoable = steps(session, kind, row.id)
    target = undoable if how == UNDO else redoable
    if target is None:
        return None
    words = said(how, target.words)
    entry = session.get_one(RowEdit, (kind.name, row.id, target.seq))
    keep(session, house, actor, kind, row, dict(entry.before), words, how, target.seq)
    return words


def log_of(session: Session, kind: Kind, row_id: int, *, after: int = 0, limit: int) -> list[tuple[RowEdit, str]]:
    """The latest entries of a row after a number, newest first, each with the name of who made it."""
    query = (
        select(RowEdit, User.name)
        .join(User, User.id == RowEdit.user_id)
        .where(RowEdit.of == kind.name, RowEdit.row_id == row_id, RowEdit.seq > after)
        .order_by(RowEdit.seq.desc())
        .limit(limit)
    )
    return [(entry, name) for entry, name in session.execute(query)]
