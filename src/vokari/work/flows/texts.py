"""A flow as text: written out, and typed or pasted as one edit of its draft. People and mailboxes that a line names with all that they
need are made on the spot."""

from dataclasses import dataclass

from ...core.flows.drafting import edits
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import AnyStep
from ...core.flows.outlined.building import build
from ...core.flows.outlined.known import Known
from ...core.flows.outlined.nodes import NEW, Node, Read
from ...core.flows.outlined.reading import read
from ...core.flows.outlined.writing import cannot, write
from ..agency import mailboxes
from ..agency.access import Actor
from ..house.house import House
from ..house.keys import new_key
from ..house.problems import Problem, Problems, Row
from ..house.views import MailboxView, PersonView
from ..numbers.orders import usual_area_codes
from ..people import keeping
from . import drafts
from .drafts import Conflict, OpenDraft

LONGEST = 400_000
"""Letters of the longest text that is read."""


@dataclass(frozen=True, slots=True)
class Text:
    """A draft as text; `cannot` are steps that text cannot tell of, `made` who and what was made of the lines, in words."""

    draft: OpenDraft
    text: str
    cannot: list[AnyStep]
    made: tuple[str, ...] = ()


def opened(house: House, actor: Actor, client_id: int, flow_id: int) -> Text:
    """A draft written out."""
    draft = drafts.opened(house, actor, client_id, flow_id)
    return _text(house, actor, draft)


def type_in(
    house: House, actor: Actor, client_id: int, flow_id: int, text: str, base: int | None
) -> Text | Conflict | Problems:
    """Makes the draft say what a text says, as one edit. `base` is the revision that the text was made of."""
    if len(text) > LONGEST:
        return [Problem("text", f"A flow as text has at most {LONGEST:,} letters.")]
    draft = drafts.opened(house, actor, client_id, flow_id)
    known = _known(house, actor, draft)
    if left := cannot(draft.document, known):
        return [Problem("text", f"{left[0].begins} cannot be told as text yet: edit this flow by its rows.")]
    if base is not None and base != draft.flow.revision:
        held = drafts.edit(house, actor, client_id, flow_id, [_rewrite(draft.document)], base)
        if isinstance(held, Conflict):
            return held
    found = read(text, known)
    made = _made(house, actor, client_id, draft, found)
    if isinstance(made, list):
        return made
    built = build(found, draft.document, lambda prefix: new_key(prefix), [one.key for one in draft.mailboxes])
    result = drafts.edit(house, actor, client_id, flow_id, [_rewrite(built.document)], base)
    if not isinstance(result, OpenDraft):
        return result
    after = _text(house, actor, result)
    return Text(after.draft, after.text, after.cannot, made)


def _rewrite(document: FlowDocument) -> edits.Rewrite:
    return edits.Rewrite.model_construct(
        steps=document.steps, start=document.start, rescue=document.rescue, everyone_else=document.everyone_else,
        unread=document.unread,
    )  # fmt: skip


def _text(house: House, actor: Actor, draft: OpenDraft) -> Text:
    known = _known(house, actor, draft)
    lines = "\n".join(line.text for line in write(draft.document, known))
    return Text(draft, lines, cannot(draft.document, known))


def _known(house: House, actor: Actor, draft: OpenDraft) -> Known:
    """What lines of this flow can name."""
    return Known(
        people={key: one.name for key, one in draft.people.items()}, teams={key: one.name for key, one in draft.teams.items()},
        mailboxes={one.key: one.name for one in draft.mailboxes}, sources={one.key: one.name for one in draft.sources},
        hours=draft.names, phones={phone.to: key for key, one in draft.people.items() for phone in one.phones},
        country=draft.client.country, area_code=usual_area_codes(house, actor, draft.client.id),
    )  # fmt: skip


def _made(house: House, actor: Actor, client_id: int, draft: OpenDraft, found: Read) -> tuple[str, ...] | Problems:
    """Makes the people and mailboxes that the lines ask for, and puts their keys where their names stand."""
    keys: dict[str, str] = {}
    words: list[str] = []
    for person in found.people:
        form: Row = {"name": person.name, "phones": [{"to": person.phone}]}
        kept = keeping.keep_person(house, actor, client_id, None, form, [person.phone])
        if not isinstance(kept, PersonView):
            return [Problem("text", f"{person.name}: {kept[0].sentence}")]
        keys[f"{NEW}{person.name}".casefold()] = kept.key
        words.append(f"{person.name} is a person of {draft.client.name} now.")
    for box in found.mailboxes:
        made = mailboxes.keep(house, actor, client_id, None, box.name, ", ".join(box.tell), box.tell)
        if not isinstance(made, MailboxView):
            return [Problem("text", f"{box.name}: {made[0].sentence}")]
        keys[f"{NEW}{box.name}".casefold()] = made.key
        told = f", which tells {', '.join(box.tell)}" if box.tell else ", which tells nobody yet"
        words.append(f"{box.name} is a mailbox now{told}.")
    for node in found.nodes:
        _settle(node, keys)
    return tuple(words)


def _settle(node: Node, keys: dict[str, str]) -> None:
    mailbox = node.fill.get("mailbox")
    if isinstance(mailbox, str) and mailbox.startswith(NEW):
        node.fill["mailbox"] = keys.get(mailbox.casefold())
    for one in node.fill.get("to", ()):
        if str(one.get("person", "")).startswith(NEW):
            one["person"] = keys.get(one["person"].casefold(), "gone")
