"""Names in a flow's text that nothing of the client has, as after pasting another client's branch: matched to what is there, or made."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from ...core.flows.outlined.nodes import Stranger
from ...core.flows.outlined.quoting import listed
from ...core.numbers import numbering
from ..agency import mailboxes
from ..agency.access import Actor
from ..house.house import House
from ..house.problems import Problem, Problems
from ..people import keeping
from . import texts
from .drafts import Conflict
from .texts import Text


@dataclass(frozen=True, slots=True)
class Match:
    """What is to be done about a stranger: `to` is the name of what it stands for here, or empty where it is made, with a phone or
    the addresses that are told; nothing is done with neither."""

    stranger: Stranger
    to: str = ""
    made_with: str = ""


def match(
    house: House, actor: Actor, client_id: int, flow_id: int, matches: Sequence[Match]
) -> Text | Conflict | Problems:
    """Puts the names of what is there into the lines that were not understood, and makes what is to be made, as one edit. Problems
    have the place of their match as field."""
    found = texts.opened(house, actor, client_id, flow_id)
    problems: Problems = []
    named: dict[str, str] = {}
    for at, one in enumerate(matches):
        if one.to:
            named[one.stranger.name] = one.to
        elif one.made_with.strip():
            problems += [Problem(str(at), wrong.sentence) for wrong in _made(house, actor, client_id, found, one)]
    if problems:
        return problems
    lines = found.text.split("\n")
    changed = "\n".join(_renamed(line, named) if at in found.missing else line for at, line in enumerate(lines))
    return texts.type_in(
        house,
        actor,
        client_id,
        flow_id,
        changed,
        found.draft.flow.revision,
        found.text,
        words="matched names of pasted lines",
    )


def _made(house: House, actor: Actor, client_id: int, found: Text, one: Match) -> Problems:
    name, typed = one.stranger.name, one.made_with.strip()
    if one.stranger.kind == "mailbox":
        told = re.split(r"[,;\s]+", typed)
        kept = mailboxes.keep(house, actor, client_id, None, name, ", ".join(told), told)
        return kept if isinstance(kept, list) else []
    if one.stranger.kind != "person":
        return [Problem("", "Choose what it stands for here.")]
    phone = numbering.parse_dialed(typed, found.draft.client.country)
    if isinstance(phone, numbering.Wrong):
        return [Problem("", phone.sentence)]
    person = keeping.keep_person(house, actor, client_id, None, {"name": name, "phones": [{"to": phone}]}, [phone])
    return person if isinstance(person, list) else []


def _renamed(line: str, named: dict[str, str]) -> str:
    for name, to in named.items():
        pattern = rf'"{re.escape(name)}"|(?<!\w){re.escape(name)}(?!\w)'
        line = re.sub(pattern, lambda _, to=to: listed(to), line, flags=re.I)  # type: ignore[misc]
    return line
