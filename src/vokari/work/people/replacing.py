"""Somebody else in the place of a person or a team: in teams, mailboxes, drafts, and if wanted live."""

from collections.abc import Collection, Sequence

from sqlalchemy import select

from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import AnyStep
from ...core.people import uses
from ...core.people.directory import Team
from ...store.flows import CallFlow
from ...store.people import TeamRow
from ..agency import mailboxes, trail
from ..agency.access import Actor, allow, note
from ..flows import versions
from ..house import undoing
from ..house.house import House
from ..house.problems import Refused, refused
from .everybody import of_client
from .keeping import TEAM, model_of


def replace(
    house: House,
    actor: Actor,
    client_id: int,
    kind: str,
    old_id: int,
    new_id: int,
    flows: Sequence[int],
    *,
    live: bool,
    within: Collection[str] | None = None,
) -> list[str] | Refused:
    """Rings somebody else in the place of a person or team: in the chosen flows' drafts, in every team and mailbox or those of `within` ("team:" or
    "mailbox:" and the name), and if wanted live, as new versions of those flows. Gives what was changed, in words."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        model = model_of(kind)
        old, new = (undoing.own(session, model, client_id, one, lock=True) for one in (old_id, new_id))
        if old.id == new.id:
            return refused("by", "Choose somebody else.")
        done = []
        query = select(CallFlow).where(CallFlow.of(client_id), CallFlow.id.in_(flows)).order_by(CallFlow.id)
        chosen = session.scalars(query.with_for_update()).all()
        for row in session.scalars(of_client(TeamRow, client_id)):
            if within is not None and f"team:{row.name}" not in within:
                continue
            team = Team.model_validate(row.document)
            other = _replaced_in(team, old.key, new.key)
            if row.removed_at is None and other != team:
                words = f"put {new.name} in the place of {old.name}"
                undoing.keep(session, house, actor, TEAM, row, {"document": other.model_dump(mode="json")}, words)
                done.append(f"the team {row.name}")
        if kind == "person":
            boxes = mailboxes.replaced(session, house, actor, client_id, old.key, new.key, within)
            done += [f"the mailbox {box.name}" for box in boxes]
        session.flush()

        def change(document: FlowDocument) -> list[AnyStep]:
            return uses.replaced(document, old.key, new.key)

        for flow in sorted(chosen, key=lambda one: one.name):
            done += versions.change_steps(session, house, actor, client, flow, change, live=live)
        if not done:
            gone = f"Nothing was changed: nothing of what was chosen rings {old.name} any more."
            since = trail.said_last(session, client_id, f"put % in the place of {old.name}:%")
            return refused("by", f"{gone} {since}".strip())
        note(session, house, actor, client_id, f"put {new.name} in the place of {old.name}: {', '.join(done)}")
        return done


def _replaced_in(team: Team, old: str, new: str) -> Team:
    members, seen = [], set()
    for one in team.members:
        person = new if one.person == old else one.person
        if person not in seen:
            members.append(one.model_copy(update={"person": person}))
        seen.add(person)
    return team.model_copy(update={"members": tuple(members), "then": new if team.then == old else team.then})
