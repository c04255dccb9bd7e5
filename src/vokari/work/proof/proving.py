"""Proving drafts: asked for with each edit, walked by the worker in a process of its own, kept, and told to the pages that are open."""

import hashlib
import json
import time
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

import structlog
from sqlalchemy import text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from ...core.checks.finding import Finding
from ...core.flows.model.document import FlowDocument
from ...core.flows.running.flow import Flow
from ...core.proof.bearing import bears_on
from ...core.proof.world import Client as Known
from ...store.agency import Client
from ...store.flows import CallFlow
from ...store.proofs import Proof
from ..agency.access import Actor, NotFound, allow
from ..flows.open_drafts import own_flow
from ..house import apart, jobs, open_pages
from ..house.house import House
from ..house.problems import Problem, Row
from .documents import as_rows, drafted
from .walking import SHAPE, Walked, not_walked, walked_again
from .walks import Walks
from .worlds import known

log = structlog.get_logger()

LIMITS = apart.Limits(seconds=60, cpu_seconds=50, memory=1_500_000_000)
FRESH = timedelta(days=1)
"""For how long a proof stands: what it says of the time to come moves on with the days."""
AGAIN = timedelta(seconds=90)
"""After which a proof that was asked for and did not come is asked for again."""
WAITS = 6.0
"""Seconds for which Put live waits for a proof."""
_WALKS = Walks()
_WORLD = text(
    "SELECT (SELECT json_agg(json_build_array(id, revision, lists) ORDER BY id) FROM hours_sets WHERE client_id = :client AND removed_at IS NULL),"
    " (SELECT json_agg(json_build_array(id, revision) ORDER BY id) FROM exception_lists WHERE agency_id = :agency),"
    " (SELECT json_agg(json_build_array(id, revision) ORDER BY id) FROM people WHERE client_id = :client AND removed_at IS NULL),"
    " (SELECT json_agg(json_build_array(id, revision) ORDER BY id) FROM teams WHERE client_id = :client AND removed_at IS NULL),"
    " (SELECT json_agg(json_build_array(id, live_version_id) ORDER BY id) FROM flows WHERE client_id = :client AND removed_at IS NULL),"
    " (SELECT json_agg(json_build_array(n.id, n.flow_id, n.state) ORDER BY n.id) FROM tracking_numbers n WHERE n.client_id = :client),"
    " (SELECT json_agg(json_build_array(id, until, ended_at) ORDER BY id) FROM hours_switches WHERE client_id = :client),"
    " (SELECT md5(string_agg(a::text, ',' ORDER BY id)) FROM assignments a WHERE client_id = :client),"
    " (SELECT md5(string_agg(s::text, ',' ORDER BY id)) FROM lead_sources s WHERE client_id = :client)"
)


@dataclass(frozen=True, slots=True)
class Shown:
    """A proof as pages show it: whether it is of the draft as it stands (else another is under way), and what it showed; None before the
    first."""

    current: bool
    document: Row | None

    @property
    def findings(self) -> list[Row]:
        """Its findings, the worst first."""
        return list(self.document["findings"]) if self.document else []

    @property
    def stops(self) -> list[Row]:
        """Those that stop Put live."""
        return [one for one in self.findings if one["weight"] == "stops"]


def stamp_of(session: Session, client: Client) -> str:
    """What tells the client's hours, people, flows, numbers and what they are given to from what they were."""
    row = session.execute(_WORLD, {"client": client.id, "agency": client.agency_id}).one()
    return hashlib.sha256(json.dumps([SHAPE, *row], default=str).encode()).hexdigest()[:16]


def ask(session: Session, house: House, client: Client, flow: CallFlow) -> None:
    """Has a draft proven, in the caller's transaction."""
    note_asked(session, flow, house.now(), of=f"{flow.revision}:{stamp_of(session, client)}")
    jobs.defer(session, "prove_flow", lock=f"prove-{flow.id}", flow_id=flow.id, revision=flow.revision)


def note_asked(session: Session, flow: CallFlow, now: datetime, *, live: bool = False, of: str = "") -> None:
    """Notes that a proof is under way, of the draft or of what is live, and `of` which state of it."""
    write(session, flow, {"asked": of, "asked_at": now}, live=live)


def keep(
    session: Session, flow: CallFlow, of: tuple[int, str], made_at: datetime, document: Row, *, live: bool = False
) -> None:
    """Keeps what the proof of a revision, or of the version of this number, showed in a world of its client; none is under way then."""
    kept = {"revision": of[0], "stamp": of[1], "made_at": made_at, "document": document, "asked": "", "asked_at": None}
    write(session, flow, kept, live=live)


def write(session: Session, flow: CallFlow, values: Row, *, live: bool = False) -> None:
    """Writes fields of a flow's proof, whether it has one or not: pages and jobs ask for proofs at the same moment."""
    ids = {"flow_id": flow.id, "live": live, "agency_id": flow.agency_id, "client_id": flow.client_id}
    new = insert(Proof).values({**ids, "document": {}, "revision": -1, "stamp": "", **values})
    session.execute(new.on_conflict_do_update(index_elements=["flow_id", "live"], set_=values))


def shown(house: House, actor: Actor, client_id: int, flow_id: int) -> Shown:
    """The proof of a draft; one that is missing, or of another draft or world, is asked for."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        flow = own_flow(session, client_id, flow_id)
        return _shown(session, house, client, flow, asks=True)


def _shown(session: Session, house: House, client: Client, flow: CallFlow, *, asks: bool = False) -> Shown:
    kept = session.get(Proof, (flow.id, False))
    now, stamp = house.now(), stamp_of(session, client)
    made = kept.made_at if kept else None
    current = bool(kept and made and (kept.revision, kept.stamp) == (flow.revision, stamp) and now - made < FRESH)
    if asks and not current:
        under_way = kept and kept.asked == f"{flow.revision}:{stamp}" and kept.asked_at and now - kept.asked_at < AGAIN
        if not under_way:
            ask(session, house, client, flow)
    known = kept is not None and kept.document.get("shape") == SHAPE
    return Shown(current and known, dict(kept.document) if kept and known else None)


def of_draft(session: Session, house: House, client: Client, flow: CallFlow, *, must: bool) -> list[Finding]:
    """What the proof of a draft as it stands found; where there is none of it yet, that, if it `must` be proven, which is then asked for."""
    shown = _shown(session, house, client, flow, asks=must)
    if not shown.current:
        words = "It is not known yet whether this draft loses callers: it is still being walked."
        return [Finding("not_proven", words, weight="asks")] if must else []
    return [Finding(one["kind"], one["sentence"], one["step"], one["exit"], one["weight"]) for one in shown.findings]


def waited_for(house: House, actor: Actor, client_id: int, flow_id: int, seconds: float = WAITS) -> Shown:
    """The proof of a draft once it is there, or as it is after some seconds."""
    end = time.monotonic() + seconds
    while not (found := shown(house, actor, client_id, flow_id)).current and time.monotonic() < end:
        time.sleep(0.2)
    return found


def example(house: House, actor: Actor, client_id: int, flow_id: int, number: int) -> tuple[str, Row]:
    """The client's country, and the call of a way of ending by its place in the proof. Raises NotFound for another number."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        own_flow(session, client_id, flow_id)
        kept = session.get(Proof, (flow_id, False))
        ends = kept.document.get("ends", []) if kept and kept.document.get("shape") == SHAPE else []
        if not 0 <= number < len(ends):
            raise NotFound
        return client.country, dict(ends[number]["example"])


def prove(house: House, flow_id: int, revision: int) -> None:
    """Walks a draft and keeps what is shown, unless it is edited meanwhile: then the edit's own proof follows."""
    now = house.now()
    with house.begin() as session:
        draft = drafted(session, house, flow_id, revision)
        if draft is None:
            return
        client = draft.client
        world, stamp = known(session, house, client, flow_id, now), stamp_of(session, client)
        print_ = met_by_callers(draft.document, draft.inner, world)
        if _stands(session, client, draft.flow, print_, stamp, now):
            return
    earlier = _WALKS.of(flow_id, now, FRESH)
    made = apart.followed(
        walked_again,
        *as_rows(draft.document, draft.inner),
        world,
        now,
        earlier,
        limits=LIMITS,
        stops=lambda: _revision(house, flow_id) != revision,
    )
    if made is None:
        return
    found = Walked(not_walked(made.sentence), now) if isinstance(made, Problem) else made
    log.info("a draft was walked", flow=flow_id, situations=found.document.get("situations"), anew=found.anew)
    _WALKS.keep(flow_id, found.since, found.left)
    with house.begin() as session:
        locked = own_flow(session, client.id, flow_id, lock=True)
        if locked.revision != revision:
            return
        keep(session, locked, (revision, stamp), found.since, {**found.document, "print": print_})
        open_pages.flow_proven(session, client.id, flow_id, revision)


def met_by_callers(document: FlowDocument, inner: Mapping[str, FlowDocument], client: Known) -> str:
    """What tells documents and clients apart of which the proofs can differ: of a document notes, marks for later, kept rehearsals and lines not
    understood are left out, of a client all that the flow does not come to."""
    rows, inner_rows = as_rows(document, inner)
    for one in (rows, *inner_rows.values()):
        for name in ("rehearsals", "unread"):
            one.pop(name)
        for step in one["steps"]:
            step.pop("note", None)
            step.pop("to_do", None)
    bearing = bears_on(Flow(document, inner), client)
    return hashlib.sha256(json.dumps([rows, inner_rows, bearing], sort_keys=True).encode()).hexdigest()[:16]


def _stands(session: Session, client: Client, flow: CallFlow, print_: str, stamp: str, now: datetime) -> bool:
    """Whether the proof that is kept is of a draft that callers meet alike, at a client who is the same to it, so that nothing is walked again; it is
    then the draft's as it stands."""
    kept = session.get(Proof, (flow.id, False), with_for_update=True)
    if kept is None or kept.document.get("shape") != SHAPE or kept.document.get("print") != print_:
        return False
    if kept.made_at is None or now - kept.made_at >= FRESH:
        return False
    kept.revision, kept.stamp, kept.asked, kept.asked_at = flow.revision, stamp, "", None
    open_pages.flow_proven(session, client.id, flow.id, flow.revision)
    return True


def _revision(house: House, flow_id: int) -> int:
    with house.begin() as session:
        return int(session.scalar(text("SELECT revision FROM flows WHERE id = :id"), {"id": flow_id}) or 0)
