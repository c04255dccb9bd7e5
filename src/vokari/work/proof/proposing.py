"""Proposing rehearsals to keep: as few calls as take every exit, found by the worker in a process of its own."""

from dataclasses import dataclass
from datetime import datetime

import structlog
from sqlalchemy.orm import Session

from ...core.flows.model.kept import KeptRehearsal
from ...core.proof.walk import Walk
from ...core.proof.world import AHEAD, World
from ...core.rehearsals.calls import Setting
from ...core.rehearsals.proposed import proposal
from ...store.flows import CallFlow
from ...store.proofs import Proof
from ..flows.naming import names_of
from ..flows.open_drafts import own_flow
from ..house import apart, jobs, open_pages
from ..house.house import House
from ..house.problems import Problem, Row
from ..places.ready import whereabouts
from .documents import as_rows, drafted, from_rows
from .examples import CALLER, CALLERS
from .proving import AGAIN, LIMITS, write
from .walking import MOST
from .worlds import setting

log = structlog.get_logger()


@dataclass(frozen=True, slots=True)
class Proposed:
    """A proposal for a draft as it stands: whether it is being worked out; the calls, how many exits they and the kept ones take, and of how many;
    `made`: there is one; `failed`: it could not be worked out."""

    asked: bool = False
    made: bool = False
    failed: bool = False
    rehearsals: tuple[KeptRehearsal, ...] = ()
    takes: int = 0
    exits: int = 0


def ask(session: Session, house: House, flow: CallFlow) -> None:
    """Has a set proposed for a draft, in the caller's transaction."""
    asked = {"revision": flow.revision, "asked_at": house.now().isoformat()}
    write(session, flow, {"proposal": asked})
    jobs.defer(session, "propose_rehearsals", lock=f"propose-{flow.id}", flow_id=flow.id, revision=flow.revision)


def kept_of(session: Session, house: House, flow: CallFlow) -> Proposed:
    """What is proposed for a draft as it stands, within a transaction."""
    proof = session.get(Proof, (flow.id, False))
    raw: Row = dict(proof.proposal) if proof else {}
    if raw.get("revision") != flow.revision:
        return Proposed()
    if "rehearsals" not in raw:
        waits = house.now() - datetime.fromisoformat(raw["asked_at"]) < AGAIN
        return Proposed(asked=waits and not raw.get("failed"), failed=not waits or bool(raw.get("failed")))
    kept = tuple(KeptRehearsal.model_validate(one) for one in raw["rehearsals"])
    return Proposed(made=True, rehearsals=kept, takes=raw["takes"], exits=raw["exits"])


def propose(house: House, flow_id: int, revision: int) -> None:
    """Works a proposal out and keeps it, unless the draft is edited meanwhile."""
    now = house.now()
    with house.begin() as session:
        draft = drafted(session, house, flow_id, revision)
        if draft is None:
            return
        client = draft.client
        names, where = names_of(session, house, client, draft.document), whereabouts(session, house, client.id)
        within = setting(session, house, client, flow_id, names, where)
    caller = CALLERS.get(client.country, CALLER)
    found = apart.followed(
        _worked_out, *as_rows(draft.document, draft.inner), within, now, caller, limits=LIMITS, stops=lambda: False
    )
    if isinstance(found, Problem) or found is None:
        log.warning("no rehearsals proposed", flow=flow_id, why=found.sentence if found else "")
        found = {"failed": True}
    with house.begin() as session:
        locked = own_flow(session, client.id, flow_id, lock=True)
        proof = session.get_one(Proof, (flow_id, False), with_for_update=True)
        if locked.revision != revision or proof.proposal.get("revision") != revision:
            return
        proof.proposal = {**proof.proposal, **found}
        open_pages.flow_proven(session, client.id, flow_id, revision)


def _worked_out(raw: Row, inner: dict[str, Row], within: Setting, now: datetime, caller: str) -> Row:
    """The proposal as it is kept. Runs in a process of its own."""
    flow = from_rows(raw, inner)
    found = proposal(Walk(flow, World(flow, within.client, now, now + AHEAD), MOST), within, caller)
    return {
        "rehearsals": [one.model_dump(mode="json") for one in found.rehearsals],
        "takes": found.takes,
        "exits": found.exits,
    }
