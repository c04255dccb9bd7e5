"""Every night each live flow is proven against the months to come and the client as it is now. What is found stands on Today, and goes out by
mail once, until it is mended."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime
from itertools import groupby

import structlog
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ...core.checks import at_work
from ...core.checks.finding import Finding
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.walks import names_in
from ...store.agency import Client, User
from ...store.flows import CallFlow, FlowVersion, PutLive
from ...store.numbers import TrackingNumber
from ...store.people import DutyRow
from ...store.proofs import LiveFinding
from ..agency.access import Actor, NotFound, allow
from ..flows import versions
from ..flows.open_drafts import as_spoken, own_flow
from ..flows.within import inner_live, other_flows
from ..house import apart, jobs
from ..house.house import House
from ..house.problems import Row
from ..house.views import LiveFindingView
from ..people.ringers import people_of, teams_of
from .documents import as_rows
from .proving import LIMITS, keep, note_asked, stamp_of
from .walking import not_walked, walked
from .worlds import known

log = structlog.get_logger()

NIGHT = "prove_live"
ALSO = ("uncovered", "not_walked", *at_work.KINDS)
"""What stops no version, and must be known of a live one all the same, unless somebody consented."""
_UNDER_WAY = text(
    "SELECT EXISTS (SELECT FROM procrastinate_jobs WHERE task_name = :task AND status IN ('todo', 'doing'))"
)


@dataclass(frozen=True, slots=True)
class _Found:
    """One thing that was found of a live flow."""

    kind: str
    weight: str
    sentence: str
    step: str
    example: Row | None = None


def begin(house: House) -> int:
    """Has every live flow proven, each by a job of its own; gives how many."""
    with house.begin() as session:
        live = select(CallFlow.id).where(CallFlow.live_version_id.is_not(None), CallFlow.removed_at.is_(None))
        flows = list(session.scalars(live.order_by(CallFlow.client_id, CallFlow.id)))
        for flow_id in flows:
            jobs.defer(session, NIGHT, lock=f"prove-live-{flow_id}", flow_id=flow_id)
    return len(flows)


def ask(session: Session, flow: CallFlow, now: datetime) -> None:
    """Has one live flow proven, in the caller's transaction."""
    note_asked(session, flow, now, live=True)
    jobs.defer(session, NIGHT, lock=f"prove-live-{flow.id}", flow_id=flow.id)


def prove(house: House, flow_id: int) -> None:
    """Proves a flow as it is live, and keeps what was found: new, standing still, or mended by now."""
    now = house.now()
    with house.begin() as session:
        flow = session.get(CallFlow, flow_id)
        if flow is None or flow.removed_at is not None or flow.live_version_id is None:
            return
        client = session.get_one(Client, flow.client_id)
        version = session.get_one(FlowVersion, flow.live_version_id)
        document = as_spoken(session, house, client, FlowDocument.model_validate(version.document))
        inner, world = (
            inner_live(document, other_flows(session, house, client.id)),
            known(session, house, client, flow_id, now),
        )
        structure = [
            *versions.found_of(session, house, client, flow, document),
            *_at_work(session, house, client, flow, document),
        ]
        consented = {(one["kind"], one["step"]) for one in version.consents}
        found = [_Found(one.kind, one.weight, one.sentence, one.step) for one in structure]
        version_id, number, stamp = version.id, version.number, stamp_of(session, client)
    shown = apart.followed(walked, *as_rows(document, inner), world, now, limits=LIMITS, stops=lambda: False)
    walked_it = isinstance(shown, dict)
    if not isinstance(shown, dict):
        log.warning("a live flow could not be proven", flow=flow_id, because=shown)
        shown = not_walked("the walk was ended" if shown is None else shown.sentence)
    found += [
        _Found(one["kind"], one["weight"], one["sentence"], one["step"], None if one["end"] is None else shown["ends"][one["end"]]["example"])
        for one in shown["findings"]
    ]  # fmt: skip
    wanted = {
        (one.kind, one.step): one
        for one in reversed(found)
        if one.weight == "stops" or (one.kind in ALSO and (one.kind, one.step) not in consented)
    }
    with house.begin() as session:
        flow = session.get_one(CallFlow, flow_id, with_for_update={"key_share": True})
        if flow.live_version_id != version_id:
            return
        standing = _keep(session, house, flow, (version_id, stamp), wanted.values())
        if walked_it:
            for mended in standing:
                mended.mended_at = now
        keep(session, flow, (number, stamp), now, shown, live=True)


def _keep(
    session: Session, house: House, flow: CallFlow, of: tuple[int, str], found: Iterable[_Found]
) -> list[LiveFinding]:
    """Keeps what was found of a version in a world of its client; gives what stood before and was not found now."""
    now = house.now()
    standing = select(LiveFinding).where(LiveFinding.flow_id == flow.id, LiveFinding.mended_at.is_(None))
    rows = session.scalars(standing.order_by(LiveFinding.id).with_for_update())
    open_ = {(one.kind, one.step): one for one in rows}
    for one in found:
        kept = open_.pop((one.kind, one.step), None)
        if kept is None:
            kept = LiveFinding(
                agency_id=flow.agency_id, client_id=flow.client_id, flow_id=flow.id, kind=one.kind, step=one.step, since=now
            )  # fmt: skip
            session.add(kept)
        (kept.version_id, kept.stamp), kept.weight, kept.sentence, kept.example = (
            of,
            one.weight,
            one.sentence,
            one.example,
        )
        session.flush()
    return list(open_.values())


def tell(house: House) -> int:
    """Once the night's flows are all proven, queues one mail to each specialist with what was found and not told yet, of flows that they put
    live; gives how many findings."""
    now = house.now()
    with house.begin() as session:
        if session.scalar(_UNDER_WAY, {"task": NIGHT}):
            return 0
        rows = session.execute(
            select(LiveFinding, CallFlow, Client)
            .join(CallFlow, CallFlow.id == LiveFinding.flow_id)
            .join(Client, Client.id == LiveFinding.client_id)
            .where(LiveFinding.mended_at.is_(None), LiveFinding.told_at.is_(None), CallFlow.removed_at.is_(None))
            .order_by(LiveFinding.agency_id, Client.name, LiveFinding.id)
            .with_for_update(of=LiveFinding)
        ).all()
        addressed: list[tuple[str, str]] = []
        for finding, flow, client in rows:
            words = f"{client.name}, {flow.name}: {finding.sentence}"
            addressed += [(to, words) for to in _addresses(session, flow)]
            finding.told_at = now
        for to, some in groupby(sorted(addressed), key=lambda one: one[0]):
            lines = [words for _, words in some]
            subject = f"{len(lines)} {'finding' if len(lines) == 1 else 'findings'} of what is live"
            jobs.defer(
                session, "send_notice", by="email", to=to, subject=subject, words="\n\n".join(lines), key=f"live-{now.isoformat()}-{to}"
            )  # fmt: skip
    return len(rows)


def _addresses(session: Session, flow: CallFlow) -> list[str]:
    """Who put the flow live, if they still work there; else everybody who may."""
    last = select(PutLive.user_id).where(PutLive.flow_id == flow.id).order_by(PutLive.id.desc()).limit(1)
    works = select(User).where(
        User.agency_id == flow.agency_id, User.role.in_(("owner", "specialist")), User.removed_at.is_(None)
    )
    people = {one.id: one.email for one in session.scalars(works)}
    own = people.get(session.scalar(last) or 0)
    return [own] if own else sorted(people.values())


def _at_work(
    session: Session, house: House, client: Client, flow: CallFlow, document: FlowDocument
) -> Iterator[Finding]:
    """What is found of a live flow as it goes with its people and numbers now."""
    duty = {one.person: one for one in session.scalars(select(DutyRow).where(DutyRow.client_id == client.id))}
    people = {key: at_work.AtWork(one.name) for key, one in people_of(session, house, client.id).items()}
    for key, at in duty.items():
        if key in people:
            people[key] = at_work.AtWork(people[key].name, 0 if at.off else at.missed, at.off_since)
    reach = select(TrackingNumber.id).where(
        TrackingNumber.flow_id == flow.id, TrackingNumber.state.not_in(("released", "resting"))
    )
    around = (one.live for one in other_flows(session, house, client.id).values() if one.live and one.id != flow.id)
    led_to = session.scalar(reach.limit(1)) is not None or any(
        named.key == flow.key for other in around for _, named in names_in(other, "flow")
    )
    teams = teams_of(session, house, client.id)
    return at_work.findings(document, people, teams, led_to=led_to, now=house.now())


def look_again(house: House) -> int:
    """Has flows proven anew of which something stands and whose client has changed since, or whose people are at work again; gives how many."""
    with house.begin() as session:
        standing = (
            select(LiveFinding).join(CallFlow, CallFlow.id == LiveFinding.flow_id).order_by(LiveFinding.client_id)
        )
        standing = standing.where(
            LiveFinding.mended_at.is_(None), CallFlow.removed_at.is_(None), CallFlow.live_version_id.is_not(None)
        )
        again: set[int] = set()
        for client_id, rows in groupby(session.scalars(standing), key=lambda one: one.client_id):
            client, some = session.get_one(Client, client_id), list(rows)
            stamp = stamp_of(session, client)
            again |= {one.flow_id for one in some if one.stamp != stamp}
            again |= {
                one.flow_id for one in some if one.kind in at_work.KINDS and not _still(session, house, client, one)
            }
        for flow_id in sorted(again):
            jobs.defer(session, NIGHT, lock=f"prove-live-{flow_id}", flow_id=flow_id)
    return len(again)


def _still(session: Session, house: House, client: Client, finding: LiveFinding) -> bool:
    """Whether what was found of a flow's people or numbers is so now."""
    flow, version = session.get_one(CallFlow, finding.flow_id), session.get_one(FlowVersion, finding.version_id)
    found = _at_work(session, house, client, flow, FlowDocument.model_validate(version.document))
    return any((one.kind, one.step) == (finding.kind, finding.step) for one in found)


def standing(house: House, actor: Actor, client_id: int, flow_id: int) -> list[LiveFindingView]:
    """What stands of a flow as it is live, the worst first."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        own_flow(session, client_id, flow_id)
        found = select(LiveFinding).where(LiveFinding.flow_id == flow_id, LiveFinding.mended_at.is_(None))
        rows = session.scalars(found.order_by(LiveFinding.weight.desc(), LiveFinding.id))
        return [LiveFindingView.of(one) for one in rows]


def example(house: House, actor: Actor, client_id: int, flow_id: int, finding_id: int) -> tuple[str, int, Row]:
    """The client's country, the version, and the call that shows a finding of it. Raises NotFound where there is none."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        own_flow(session, client_id, flow_id)
        finding = session.get(LiveFinding, finding_id)
        if finding is None or finding.flow_id != flow_id or finding.example is None:
            raise NotFound
        return client.country, finding.version_id, dict(finding.example)
