"""Recordings that are brought without saying of which prompt they are: matched by name, or made into a prompt of their own."""

import re
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.prompts.document import LibraryPrompt
from ...core.prompts.kinds import Kind
from ..agency.access import Actor, note
from ..house.house import House
from ..house.problems import Problem, Problems
from ..house.views import PromptView
from .library import listed_own, made, own, scope
from .takes import Coming, received, wrong_file


@dataclass(frozen=True, slots=True)
class Brought:
    """What became of a recording: the prompt by id, key and name, the take, and whether the prompt was made for it."""

    prompt_id: int
    key: str
    name: str
    take_id: int
    made: bool


def bring(
    house: House, actor: Actor, client_id: int | None, coming: Coming, name: str = "", kind: Kind = "greeting"
) -> Brought | Problems:
    """Takes a recording in: as a take of the prompt that is called so (`name`, else as its file is), or of a new one."""
    with house.begin() as session:
        scope(session, actor, client_id)
    problems = wrong_file(coming)
    wanted = " ".join((name or name_of_file(coming.name)).split())[:60]
    if not wanted:
        problems.append(Problem("name", "Give it a name that says what callers hear."))
    if problems:
        return problems
    file = house.files.put(coming.content, ".sound")
    with house.begin() as session:
        scope(session, actor, client_id, changing=True)
        known = matched(session, actor, client_id, wanted)
        row = (
            own(session, actor, client_id, known.id, lock=True)
            if known
            else made(session, house, actor, client_id, LibraryPrompt(name=wanted, kind=kind))
        )
        take = received(session, house, row, actor.user_id, coming, file)
        row.changed_at = house.now()
        note(session, house, actor, client_id, f"brought take {take.number} of the prompt {row.name}")
        return Brought(row.id, row.key, row.name, take.id, known is None)


def matched(session: Session, actor: Actor, client_id: int | None, name: str) -> PromptView | None:
    """The prompt of a client, or of the agency, that a name is meant for: the same but for case and marks."""
    wanted = _bare(name)
    return next((one for one in listed_own(session, actor.agency_id, client_id) if _bare(one.name) == wanted), None)


def name_of_file(name: str) -> str:
    """The name of a prompt from that of its file: without folders, ending, and what stands for blanks."""
    stem = name.replace("\\", "/").rsplit("/", 1)[-1].rsplit(".", 1)[0]
    words = re.sub(r"[\s_]+", " ", stem).strip()
    return words[:1].upper() + words[1:]


def _bare(name: str) -> str:
    return " ".join(re.findall(r"[^\W_]+", name.casefold()))
