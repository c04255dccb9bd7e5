"""Rehearsals that are kept with a flow: run at each change, kept from a test call or typed, and proposed by the proof."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from ...core.flows.drafting import edits
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.kept import KeptRehearsal, OnDate
from ...core.flows.questions import stored as questions
from ...core.flows.running import stored
from ...core.flows.running.flow import Flow
from ...core.proof.examples import Happening
from ...core.rehearsals import keeping
from ...core.rehearsals.calls import Setting, call
from ...store.flows import Rehearsal
from ..agency.access import Actor, NotFound, allow
from ..house.house import House
from ..house.problems import Problem, Problems, Row
from ..proof import proposing
from ..proof.proposing import Proposed
from . import drafts, rehearsals
from .open_drafts import OpenDraft, opened, own_flow
from .open_rehearsals import OpenRehearsal
from .rehearsed import flow_of
from .verdicts import setting_of
from .within import inner_live, other_flows


def keep_call(
    house: House, actor: Actor, client_id: int, rehearsal_id: uuid.UUID, name: str
) -> tuple[int, KeptRehearsal] | Problems:
    """Keeps a test call with the draft of its flow; gives the flow's id and what was kept."""
    name = " ".join(name.split())[:80]
    if not name:
        return [Problem("name", "Give it a name.")]
    made = _made(house, actor, client_id, rehearsal_id, name)
    done = keep(house, actor, client_id, made.flow_id, [made.kept])
    return done if isinstance(done, list) else (made.flow_id, made.kept)


def again(house: House, actor: Actor, client_id: int, rehearsal_id: uuid.UUID) -> OpenRehearsal:
    """The same call once more, on the draft as it is now or on the same version: as far as it had come, or to its end if it had ended."""
    made = _made(house, actor, client_id, rehearsal_id, "again")
    settings = made.settings
    at = datetime.fromisoformat(settings["at"])
    begins = rehearsals.Begins(
        settings["called"], settings["caller"], at, settings.get("ahead", 0), settings.get("facts") or {}
    )
    local = at.astimezone(made.setting.client.zone)
    on_that_day = made.kept.model_copy(update={"when": OnDate(date=local.date(), at=f"{local:%H:%M}")})
    went = call(made.now, on_that_day, replace(made.setting, now=min(at, made.setting.now)))
    log = went.run.log if went else ()
    happenings = [
        Happening(one.event, one.at, tuple(one.answers.items())) for one in (log if made.ended else log[: made.length])
    ]
    return rehearsals.play(house, actor, client_id, made.flow_id, begins, happenings, settings.get("version_id"))


@dataclass(frozen=True, slots=True)
class _Made:
    """A test call as one that can be run again: of which flow, its settings, how many things had happened and whether it had ended; and what it
    would run on now."""

    flow_id: int
    kept: KeptRehearsal
    setting: Setting
    settings: Row
    length: int
    ended: bool
    now: Flow


def _made(house: House, actor: Actor, client_id: int, rehearsal_id: uuid.UUID, name: str) -> _Made:
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        rehearsal = session.get(Rehearsal, rehearsal_id)
        if rehearsal is None or rehearsal.client_id != client_id:
            raise NotFound
        flow = own_flow(session, client_id, rehearsal.flow_id)
        runs = flow_of(session, house, rehearsal)
        within = setting_of(session, house, client, flow.id)
        settings, log, ended = rehearsal.settings, list(rehearsal.log), stored.load_state(rehearsal.state).ended
        document = FlowDocument.model_validate(flow.draft)
        inner = inner_live(document, other_flows(session, house, client.id))
    happenings = [
        Happening(stored.load_event(one["event"]), one["at"], tuple(questions.load(one["answers"]).items())) for one in log
    ]  # fmt: skip
    touch = next((one for one in within.client.numbers if one.number == settings["called"]), None)
    began = keeping.Began(
        datetime.fromisoformat(settings["at"]), settings["caller"], settings.get("facts") or {}, (touch.lead_source or "") if touch else "",
        settings.get("ahead", 0),
    )  # fmt: skip
    kept = keeping.kept(runs, began, happenings, within, new_id(document), name)
    now = runs if settings.get("version_id") is not None else Flow(document, inner)
    return _Made(flow.id, kept, within, settings, len(log), ended, now)


def keep(
    house: House, actor: Actor, client_id: int, flow_id: int, wanted: Sequence[KeptRehearsal], was: KeptRehearsal | None = None
) -> OpenDraft | Problems:  # fmt: skip
    """Keeps rehearsals with a draft, each in the place of the one with its id, as one edit; `was` is the one as it was seen that is changed."""
    done = drafts.edit(
        house, actor, client_id, flow_id, [edits.KeepRehearsal(rehearsal=one, was=was) for one in wanted]
    )
    return [] if isinstance(done, drafts.Conflict) else done


def drop(house: House, actor: Actor, client_id: int, flow_id: int, id_: str) -> OpenDraft | Problems:
    """Keeps a rehearsal no longer."""
    done = drafts.edit(house, actor, client_id, flow_id, [edits.DropRehearsal(id=id_)])
    return [] if isinstance(done, drafts.Conflict) else done


def one(house: House, actor: Actor, client_id: int, flow_id: int, id_: str) -> tuple[OpenDraft, KeptRehearsal]:
    """A kept rehearsal with the draft that it is kept with. Raises NotFound where it is gone."""
    draft = opened(house, actor, client_id, flow_id)
    found = next((one for one in draft.document.rehearsals if one.id == id_), None)
    if found is None:
        raise NotFound
    return draft, found


def new_id(document: FlowDocument, also: int = 0) -> str:
    """An id that no rehearsal of a document has, nor the `also` ones that are made together with it."""
    taken = [int(one.id[1:]) for one in document.rehearsals if one.id[1:].isdigit()]
    return f"r{max(taken, default=0) + 1 + also}"


def play(house: House, actor: Actor, client_id: int, flow_id: int, id_: str) -> OpenRehearsal:
    """A rehearsal of the draft that has gone as a kept one goes now. Raises NotFound where it is gone, or its moment is."""
    draft, kept = one(house, actor, client_id, flow_id, id_)
    went = next((one.went for one in draft.verdicts if one.kept.id == id_), None)
    if went is None:
        raise NotFound
    of_source = (
        [one.number for one in draft.setting.client.numbers if one.lead_source == kept.lead_source]
        if draft.setting
        else []
    )
    called = next(iter(of_source), draft.numbers[0].e164 if draft.numbers else "")
    begins = rehearsals.Begins(called, kept.caller, went.at, kept.ahead, dict(kept.facts))
    happenings = [Happening(entry.event, entry.at, tuple(entry.answers.items())) for entry in went.run.log]
    return rehearsals.play(house, actor, client_id, flow_id, begins, happenings)


def proposed(house: House, actor: Actor, client_id: int, flow_id: int) -> Proposed:
    """The set that the proof proposes for a draft as it stands."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        return proposing.kept_of(session, house, own_flow(session, client_id, flow_id))


def propose(house: House, actor: Actor, client_id: int, flow_id: int) -> None:
    """Has a set proposed."""
    with house.begin() as session:
        allow(session, actor, client_id, "work", changing=True)
        proposing.ask(session, house, own_flow(session, client_id, flow_id))


def take_proposed(
    house: House, actor: Actor, client_id: int, flow_id: int, chosen: Sequence[str]
) -> OpenDraft | Problems:
    """Keeps those of the proposal that were chosen, by the ids that they have there."""
    with house.begin() as session:
        allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id)
        found = proposing.kept_of(session, house, flow).rehearsals
        document = FlowDocument.model_validate(flow.draft)
    wanted = [one for one in found if one.id in chosen]
    new = [one.model_copy(update={"id": new_id(document, place)}) for place, one in enumerate(wanted)]
    return keep(house, actor, client_id, flow_id, new) if new else []
