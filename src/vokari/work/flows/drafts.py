"""Edits of drafts, undo and redo, with two people at once in mind."""

from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.flows.drafting import edits
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import AnyStep, ContinueIn, Junction
from ...store.agency import Client, User
from ...store.flows import CallFlow, DraftEdit
from ..agency.access import Actor, allow
from ..hours.ready import standings
from ..house.house import House
from ..house.kept import read_once
from ..house.open_pages import flow_changed
from ..house.problems import Problem, Problems, Row
from ..house.undoing import said
from ..house.views import (
    DraftEditView,
)
from ..prompts import library
from . import naming
from .open_drafts import OpenDraft, RowAround, as_spoken, open_draft, own_flow, standing_edits
from .within import other_flows


@dataclass(frozen=True, slots=True)
class Conflict:
    """Somebody changed the row since this page was made: who, what in words, and the row as it was and is now."""

    row: str
    who: str
    words: tuple[str, ...]
    before: Row | None
    now: Row | None


def edit_row(
    house: House, actor: Actor, client_id: int, flow_id: int, row: str,
    read: Callable[[AnyStep, RowAround], AnyStep | Problems], base: int | None = None,
) -> OpenDraft | Conflict | Problems:  # fmt: skip
    """The same for one row, which `read` makes of the step as it is and what the client has."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        document = as_spoken(session, house, client, FlowDocument.model_validate(flow.draft))
        step = document.step(row)
        if step is None:
            return [Problem("", "This step was removed meanwhile; what you typed is not saved.")]
        made = read(step, _row_around(session, house, client, document, step))
        if isinstance(made, list):
            return made
        return _edited(session, house, actor, client, flow, [edits.SetStep(step=made)], base, document)


def _row_around(session: Session, house: House, client: Client, document: FlowDocument, step: AnyStep) -> RowAround:
    flows = other_flows(session, house, client.id) if isinstance(step, ContinueIn) else {}
    prompts = library.facts(session, house, client)
    if not isinstance(step, Junction):
        return RowAround(client.country, flows=flows, prompts=prompts, language=document.language)
    tables = standings(session, house, client.id).tables()
    return RowAround(client.country, tables, naming.names_of(session, house, client, document))


def edit(
    house: House, actor: Actor, client_id: int, flow_id: int, wanted: Sequence[edits.Edit], base: int | None = None
) -> OpenDraft | Conflict | Problems:
    """Carries out edits as one step of the log.

    `base` is the revision of the page they were made on. An edit of a row that somebody else, or another page, has
    changed since is not carried out but told; edits of other rows stand beside each other.
    """
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        return _edited(session, house, actor, client, flow, wanted, base)


def _edited(
    session: Session, house: House, actor: Actor, client: Client, flow: CallFlow, wanted: Sequence[edits.Edit], base: int | None,
    document: FlowDocument | None = None,
) -> OpenDraft | Conflict | Problems:  # fmt: skip
    """Edits of a locked flow, whose draft `document` is."""
    for one in wanted:
        conflict = _conflict(session, flow, one, base)
        if conflict:
            return conflict
    changed = change_rows(session, house, actor, flow, wanted, document)
    if isinstance(changed, list):
        return changed
    with read_once(session):
        return open_draft(session, house, actor, client, flow, changed)


def change_rows(
    session: Session, house: House, actor: Actor, flow: CallFlow, wanted: Sequence[edits.Edit], document: FlowDocument | None = None
) -> FlowDocument | Problems:  # fmt: skip
    """Carries out edits of a locked flow as one step of its log, in the caller's transaction; or says why not."""
    result = edits.apply(document or FlowDocument.model_validate(flow.draft), *wanted)
    if isinstance(result, edits.Refused):
        return [Problem(result.field, result.sentence)]
    problems: Problems = []
    if result.changes:
        problems = _logged(session, house, actor, flow, "edit", None, result.words, result.changes, result.document)
    return problems or result.document


def undo(house: House, actor: Actor, client_id: int, flow_id: int) -> OpenDraft | Problems:
    """Takes back the actor's latest edit that stands."""
    return _step_back(house, actor, client_id, flow_id, "undo")


def redo(house: House, actor: Actor, client_id: int, flow_id: int) -> OpenDraft | Problems:
    """Does again what the actor took back last, if nothing was edited by the actor since."""
    return _step_back(house, actor, client_id, flow_id, "redo")


def _step_back(house: House, actor: Actor, client_id: int, flow_id: int, kind: str) -> OpenDraft | Problems:
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        undoable, redoable = standing_edits(session, actor, flow.id)
        found = undoable if kind == "undo" else redoable
        if found is None:
            return [Problem("", f"There is nothing of yours to {kind}.")]
        target = session.get_one(DraftEdit, (flow.id, found.seq))
        document = FlowDocument.model_validate(flow.draft)
        changes = tuple(edits.RowChange(**one) for one in target.changes)
        names = {change.row: str((change.after or change.before or {}).get("name", "")) for change in changes}
        result = edits.undo(document, changes, names)
        if isinstance(result, edits.Refused):
            return [Problem("", result.sentence)]
        words = said(kind, target.words)
        problems = _logged(session, house, actor, flow, kind, target.seq, words, result.changes, result.document)
        if problems:
            return problems
        return open_draft(session, house, actor, client, flow)


def history(
    house: House, actor: Actor, client_id: int, flow_id: int, limit: int = 200
) -> list[tuple[DraftEditView, str]]:
    """The latest edits of a draft, newest first, each with who made it."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        own_flow(session, client_id, flow_id)
        query = (
            select(DraftEdit, User.name)
            .join(User, User.id == DraftEdit.user_id)
            .where(DraftEdit.flow_id == flow_id)
            .order_by(DraftEdit.seq.desc())
            .limit(limit)
        )
        return [(DraftEditView.of(entry), name) for entry, name in session.execute(query)]


def _conflict(session: Session, flow: CallFlow, wanted: edits.Edit, base: int | None) -> Conflict | None:
    """What was changed since `base` in the row that an edit replaces, or in any, where it replaces all; edits of single exits replace no
    row."""
    row = {
        "set_step": getattr(getattr(wanted, "step", None), "id", None),
        "remove_step": getattr(wanted, "id", None),
    }.get(wanted.do)
    if isinstance(wanted, edits.SetFlow):
        row = edits.FLOW_ROW
    whole = isinstance(wanted, edits.Rewrite)
    if (row is None and not whole) or base is None or base == flow.revision:
        return None
    touched = [] if whole else [DraftEdit.rows.contains([row])]
    later = session.execute(
        select(DraftEdit, User.name)
        .join(User, User.id == DraftEdit.user_id)
        .where(DraftEdit.flow_id == flow.id, DraftEdit.seq > base, *touched)
        .order_by(DraftEdit.seq)
    ).all()
    if not later:
        return None
    if whole or row is None:
        return Conflict(
            "", " and ".join(sorted({name for _, name in later})), tuple(one.words for one, _ in later), None, None
        )
    changes = [next(c for c in entry.changes if c["row"] == row) for entry, _ in later]
    names = sorted({name for _, name in later})
    return Conflict(
        row, " and ".join(names), tuple(entry.words for entry, _ in later), changes[0]["before"], changes[-1]["after"]
    )


def _logged(
    session: Session, house: House, actor: Actor, flow: CallFlow, kind: str, of_seq: int | None, words: str,
    changes: tuple[edits.RowChange, ...], document: FlowDocument,
) -> Problems:  # fmt: skip
    """Writes a change of a locked flow down, unless its name is taken."""
    try:
        with session.begin_nested():
            _log(session, house, actor, flow, kind, of_seq, words, changes, document)
    except IntegrityError:
        return [Problem("name", "Another flow of this client has this name already.")]
    return []


def _log(
    session: Session, house: House, actor: Actor, flow: CallFlow, kind: str, of_seq: int | None, words: str,
    changes: tuple[edits.RowChange, ...], document: FlowDocument,
) -> None:  # fmt: skip
    flow.revision += 1
    flow.draft = document.model_dump(mode="json")
    session.add(
        DraftEdit(
            flow_id=flow.id, seq=flow.revision, agency_id=actor.agency_id, user_id=actor.user_id, at=house.now(),
            kind=kind, of_seq=of_seq, words=words[:500], rows=[change.row for change in changes],
            changes=[asdict(change) for change in changes],
        )
    )  # fmt: skip
    session.flush()
    flow_changed(session, flow.client_id, flow.id, flow.revision)
