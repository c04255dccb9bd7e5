"""A flow as text: written out, and typed or pasted as one edit of its draft. People, mailboxes and opening times that a line names with
all that they need are made on the spot."""

from dataclasses import dataclass, field, replace

from ...core.flows.drafting import edits
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import AnyStep
from ...core.flows.outlined.building import Built, build
from ...core.flows.outlined.known import InnerFlow, Known
from ...core.flows.outlined.merging import merged
from ...core.flows.outlined.nodes import NEW, NEW_HOURS, NEW_PERIOD, Node, Read, Stranger
from ...core.flows.outlined.reading import read
from ...core.flows.outlined.writing import cannot, write
from ...core.hours.typed import write_week
from ..agency import mailboxes
from ..agency.access import Actor
from ..hours import sets
from ..house.house import House
from ..house.keys import new_key
from ..house.problems import Problem, Problems, Row
from ..house.views import HoursSetView, MailboxView, PersonView
from ..numbers.orders import usual_area_codes
from ..people import keeping
from . import drafts, open_drafts
from .drafts import Conflict
from .open_drafts import OpenDraft

LONGEST = 400_000
"""Letters of the longest text that is read."""
TRIES = 3
"""How often a text is laid over what others save meanwhile before they are told of each other."""


@dataclass(frozen=True, slots=True)
class Text:
    """A draft as text.

    `lines` are the steps by line, `stands` the lines by all steps that they tell of, `missing` what is missing in lines that were not
    understood, `cannot` steps that text cannot tell of, `made` who and what was made of the lines, in words. `kept` is False where a
    text was only read, `theirs` True where somebody else's changes were laid under it. `strangers` are names in those lines that nothing
    of the client has.
    """

    draft: OpenDraft
    text: str
    cannot: list[AnyStep]
    lines: dict[int, str] = field(default_factory=dict)
    stands: dict[str, int] = field(default_factory=dict)
    missing: dict[int, str] = field(default_factory=dict)
    made: tuple[str, ...] = ()
    kept: bool = True
    theirs: bool = False
    strangers: tuple[Stranger, ...] = ()


def opened(house: House, actor: Actor, client_id: int, flow_id: int) -> Text:
    """A draft written out."""
    return _written(open_drafts.opened(house, actor, client_id, flow_id))


def type_in(
    house: House, actor: Actor, client_id: int, flow_id: int, text: str, base: int | None, was: str | None = None,
    flown: str | None = None, typing: int | None = None, words: str = "typed the flow as text",
) -> Text | Conflict | Problems:  # fmt: skip
    """Makes the draft say what a text says, as one edit.

    `base` is the revision that the text was made of, and `was` that revision as text: with it, what others changed meanwhile is laid
    under the text; without, it is told as a Conflict. `flown` is what the same page sent before without hearing whether it was kept: what
    that changed is the page's own. `typing` is the line at which somebody still types: while it is not understood, or
    makes somebody or something new, the text is read and not kept. `words` say what the edit did.
    """
    if len(text) > LONGEST:
        return [Problem("text", f"A flow as text has at most {LONGEST:,} letters.")]
    made: tuple[str, ...] = ()
    theirs = False
    result: Conflict | None = None
    for _ in range(TRIES):
        draft = open_drafts.opened(house, actor, client_id, flow_id)
        known = known_of(house, actor, draft)
        if left := cannot(draft.document, known):
            return [Problem("text", f"{left[0].begins} cannot be told as text yet: edit this flow by its rows.")]
        meanwhile = base is not None and base != draft.flow.revision
        if (
            meanwhile
            and flown is not None
            and _lines(_build(read(flown, known), draft), known) == _written_lines(draft, known)
        ):
            meanwhile = False
        if meanwhile and was is None:
            held = drafts.edit(house, actor, client_id, flow_id, [_rewrite(draft.document)], base)
            if isinstance(held, Conflict):
                return held
        found = read(text, known)
        if typing is not None and _unfinished(found, typing):
            built = _build(found, draft)
            return Text(draft, text, [], built.lines, built.stands, built.missing, kept=False)
        done = _made(house, actor, client_id, draft, found)
        if isinstance(done, list):
            return done
        made += done
        if meanwhile and was is not None:
            draft = open_drafts.opened(house, actor, client_id, flow_id)
            known = known_of(house, actor, draft)
            mine = _lines(_build(found, draft), known)
            text = "\n".join(merged(was.split("\n"), _written_lines(draft, known), mine))
            theirs, base, was, typing = True, draft.flow.revision, None, None
            found = read(text, known)
        built = _build(found, draft)
        kept = drafts.edit(house, actor, client_id, flow_id, [_rewrite(built.document, words)], draft.flow.revision)
        if isinstance(kept, OpenDraft):
            after = _written(kept)
            if theirs:
                return replace(after, made=made, theirs=True)
            return replace(
                after,
                lines=built.lines,
                stands=built.stands,
                missing=built.missing,
                made=made,
                strangers=built.strangers,
            )
        if isinstance(kept, list):
            return kept
        result = kept
        was, base = "\n".join(_written_lines(draft, known)), draft.flow.revision
    assert result is not None
    return result


def _unfinished(found: Read, typing: int) -> bool:
    """Whether a line is still to be finished: it is not understood yet, or it makes somebody or something new."""
    new = [one.at for one in found.people] + [one.at for one in found.mailboxes]
    new += [found.hours.at] if found.hours else []
    return typing in new or any(one.at == typing for one in found.unread)


def _build(found: Read, draft: OpenDraft) -> Built:
    return build(found, draft.document, lambda prefix: new_key(prefix), [one.key for one in draft.mailboxes])


def _lines(built: Built, known: Known) -> list[str]:
    return [line.text for line in write(built.document, known)]


def _written_lines(draft: OpenDraft, known: Known) -> list[str]:
    return [line.text for line in write(draft.document, known)]


def _rewrite(document: FlowDocument, words: str = "") -> edits.Rewrite:
    return edits.Rewrite.model_construct(
        words=words,
        steps=document.steps, start=document.start, rescue=document.rescue, everyone_else=document.everyone_else,
        unread=document.unread,
    )  # fmt: skip


def _written(draft: OpenDraft) -> Text:
    known = named(draft)
    lines = write(draft.document, known)
    text = "\n".join(line.text for line in lines)
    return Text(
        draft, text, cannot(draft.document, known),
        {at: line.step for at, line in enumerate(lines) if line.step},
        {step: at for at, line in enumerate(lines) for step in (*line.steps, *([line.step] if line.step else []))},
        {at: line.missing for at, line in enumerate(lines) if line.missing},
        strangers=_build(read(text, known), draft).strangers if draft.document.unread else (),
    )  # fmt: skip


def known_of(house: House, actor: Actor, draft: OpenDraft) -> Known:
    """What lines of this flow can name, and the area code of seven digits."""
    return replace(named(draft), area_code=usual_area_codes(house, actor, draft.client.id))


def named(draft: OpenDraft) -> Known:
    """What lines of this flow can name."""
    return Known(
        people={key: one.name for key, one in draft.people.items()}, teams={key: one.name for key, one in draft.teams.items()},
        mailboxes={one.key: one.name for one in draft.mailboxes}, sources={one.key: one.name for one in draft.sources},
        hours=draft.names.hours, places=draft.names.places, areas=draft.names.areas,
        flows={key: InnerFlow(one.name, one.ways) for key, one in draft.flows.items() if one.id != draft.flow.id},
        weeks={key: write_week(table.hours.week) for key, table in draft.hours.items()},
        phones={phone.to: key for key, one in draft.people.items() for phone in one.phones},
        country=draft.client.country,
    )  # fmt: skip


def _made(house: House, actor: Actor, client_id: int, draft: OpenDraft, found: Read) -> tuple[str, ...] | Problems:
    """Makes the people, mailboxes and opening times that the lines ask for, and puts their keys where their names stand."""
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
        words.append(f"{box.name} is a mailbox now, which tells {', '.join(box.tell)}.")
    if found.hours is not None:
        hours = sets.create(house, actor, client_id, "Opening times", "client", week=found.hours.week)
        if not isinstance(hours, HoursSetView):
            return [Problem("text", hours[0].sentence)]
        keys[NEW_HOURS] = hours.key
        keys[NEW_PERIOD] = hours.document["periods"][0]["id"]
        words.append(f"{draft.client.name} has opening times now: {write_week(found.hours.week)}.")
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
    for way in node.branches:
        if "when" in way.fill:
            way.fill["when"] = _renamed(way.fill["when"], keys)


def _renamed(when: Row, keys: dict[str, str]) -> Row:
    """A condition with the keys of hours that were made just now."""
    values = [keys.get(one, one) for one in when["any_of"]]
    return {
        **when, "of": keys.get(when["of"] or "", when["of"]), "any_of": values,
        "parts": [_renamed(one, keys) for one in when["parts"]],
    }  # fmt: skip
