"""Short typed lines at a draft's rows: the edits that they ask for, and what new steps start with."""

from collections.abc import Callable
from difflib import get_close_matches

from pydantic import ValidationError

from ...core.flows.conditions import tests as conditions
from ...core.flows.drafting import edits, typed_conditions
from ...core.flows.drafting.typed_lines import read_line
from ...core.flows.model.steps import Branch, Menu, Sorting
from ...core.flows.shown.outline import outline
from ...core.hours.timetable import Timetable
from ...core.prompts import moments
from ..house.keys import new_key
from ..house.problems import Problem, Row
from .open_drafts import OpenDraft

NEAR = 0.8
"""How like a name must be to be taken for a slip of the finger (difflib's ratio)."""


def _sorting_fill(table: Timetable, key: str) -> Row:
    """The fields of a junction with an exit for each period of a set of hours."""
    sorting = conditions.by_period(key, [period.id for period in table.hours.periods], new_key)
    return {"name": table.hours.name, "branches": [one.model_dump(mode="json") for one in sorting]}


def usual_fill(draft: OpenDraft, kind: str, hours_key: str = "") -> Row:
    """The fields a new step starts with: the only mailbox, person or team that the client has, and for a junction an exit for each
    period of its main hours."""
    if kind == "junction":
        key = next((one for one in draft.hours if one == hours_key), next(iter(draft.hours), ""))
        if key:
            return _sorting_fill(draft.hours[key], key)
    words: Row = {**moments.fill(kind, draft.document.language)}
    if kind == "voicemail" and len(draft.mailboxes) == 1:
        words["mailbox"] = draft.mailboxes[0].key
    if kind == "ring" and len(draft.people) == 1 and not draft.teams:
        words["to"] = [{"kind": "person", "id": "d1", "person": next(iter(draft.people))}]
    if kind == "hold_line" and len(draft.teams) == 1:
        words["team"] = next(iter(draft.teams))
    return words


def _named(draft: OpenDraft, kind: str, fill: Row, told: Row) -> Row | Problem:
    """What a typed name stands for: the team or person that a ring or a hold line is for, the mailbox of a voicemail. A name that
    is nearly one of them is asked about, since a ring that reaches nobody is easily overlooked; any other is only a name. Seconds
    behind a team are for all of it, since its people have their own."""
    teams = {one.name: key for key, one in draft.teams.items()}
    people = {one.name: key for key, one in draft.people.items()}
    known: dict[str, Row] = {}
    if kind == "ring" and "to" not in fill:
        known |= {name: {"to": [{"kind": "person", "id": "d1", "person": key, **told}]} for name, key in people.items()}
        whole = {"limit": max(5, told["seconds"])} if "seconds" in told else {}
        known |= {name: {"to": [{"kind": "team", "id": "d1", "team": key}], **whole} for name, key in teams.items()}
    elif kind == "hold_line":
        known = {name: {"team": key} for name, key in teams.items()}
    elif kind == "voicemail":
        known = {one.name: {"mailbox": one.key} for one in draft.mailboxes}
    by_name = {name.casefold(): (name, found) for name, found in known.items()}
    typed = str(fill.get("name", "")).removeprefix("the ").casefold()
    if typed in by_name:
        name, found = by_name[typed]
        return {"name": "" if kind == "ring" else name, **found}
    near = get_close_matches(typed, by_name, n=2, cutoff=NEAR)
    if near and typed not in ("phone", "voicemail", "hold line"):
        some = " or ".join(f"“{by_name[one][0]}”" for one in near)
        return Problem("line", f"Nothing here is called “{fill.get('name')}”. Did you mean {some}?")
    return {}


def _continued(draft: OpenDraft, name: str, new_id: Callable[[str], str]) -> Row | Problem:
    """The fields of a Continue in for a flow by its name or mark, with the ways by which what is live of it comes back."""
    others = {key: one for key, one in draft.flows.items() if one.id != draft.flow.id}
    folded = name.casefold().strip(' ."“”')
    found = next((key for key, one in others.items() if folded in (one.name.casefold(), one.mark.casefold())), None)
    if found is None and name:
        near = get_close_matches(folded, [one.name.casefold() for one in others.values()], n=2, cutoff=NEAR)
        known = near or [one.name for one in others.values()][:4]
        some = f" There are: {', '.join(known)}." if known else " This client has no other flow yet."
        return Problem("line", f"There is no flow “{name}” to continue in.{some}")
    if found is None:
        return {}
    returns = [{"id": new_id("w"), "name": way} for way in others[found].ways]
    return {"flow": found, "returns": returns}


def line_edits(
    draft: OpenDraft, text: str, at_step: str, at_exit: str, new_id: Callable[[str], str]
) -> list[edits.Edit] | Problem:
    """The edits that one short line asks for. A key at its start makes a branch of the menu it is typed at."""
    read = read_line(text, draft.client.country)
    if isinstance(read, str):
        return Problem("line", read)
    named = read.hours.casefold()
    hours_key = next((key for key, table in draft.hours.items() if table.hours.name.casefold() == named), "")
    sorts: Row = {}
    if named and not hours_key:
        when = typed_conditions.read(read.hours, draft.names)
        if isinstance(when, str):
            return Problem("line", when)
        sorts = {"branches": [Sorting(id=new_id("b"), when=when).model_dump(mode="json")]}
    inner = _continued(draft, read.flow, new_id) if read.kind == "continue_in" else {}
    if isinstance(inner, Problem):
        return inner
    looked_up = _named(draft, read.kind, read.fill, {"seconds": read.seconds} if read.seconds else {})
    if isinstance(looked_up, Problem):
        return looked_up
    usual = usual_fill(draft, read.kind, hours_key)
    if read.fill.get("name") and read.kind in ("ring", "hold_line"):
        usual = {name: value for name, value in usual.items() if name not in ("to", "team")}
    fill = {**usual, **read.fill, **looked_up, **sorts, **inner}
    if read.kind == "back_to":
        place = next((row.step for row in outline(draft.document) if row.step and row.number == read.back_to), None)
        if place is None:
            return Problem("line", f"There is no step {read.back_to}.")
        fill["to"] = place.id
    wanted: list[edits.Edit] = []
    if read.key:
        menu = draft.document.step(at_step)
        if not isinstance(menu, Menu):
            return Problem("line", f"Key {read.key} needs a menu: type this line at a menu, or leave the key out.")
        branch = next((one for one in menu.branches if one.keys == read.key), None)
        if branch is None:
            try:
                branch = Branch(id=new_id("b"), keys=read.key, name=str(fill.get("name", "")))
            except ValidationError:
                return Problem("line", f"{read.key} is no key: 0 to 9, * or #, or 2 to 6 digits.")
            wanted.append(edits.SetStep(step=menu.model_copy(update={"branches": (*menu.branches, branch)})))
        at_exit = branch.id
    wanted.append(edits.AddStep(id=new_id("s"), kind=read.kind, at_step=at_step, at_exit=at_exit, fill=fill))
    return wanted
