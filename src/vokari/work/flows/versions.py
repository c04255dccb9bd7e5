"""Live versions: putting a draft live, the list of who did when, and going back to an earlier one."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.checks.finding import Finding
from ...core.checks.flows import findings
from ...core.flows.drafting import edits
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import Step
from ...store.agency import Client, User
from ...store.flows import CallFlow, FlowVersion, PutLive
from ..agency.access import Actor, NotFound, allow, note
from ..house import jobs
from ..house.house import House
from ..house.views import CallFlowView, FlowVersionView
from .drafts import change_rows, own_flow, surroundings


@dataclass(frozen=True, slots=True)
class VersionLine:
    """A live version with who made it, and when it went live and by whom."""

    version: FlowVersionView
    made_by: str
    lives: tuple[tuple[datetime, str], ...]
    is_live: bool


@dataclass(frozen=True, slots=True)
class Stopped:
    """Put live did not happen: these findings stop it."""

    findings: list[Finding]


def put_live(
    house: House, actor: Actor, client_id: int, flow_id: int, revision: int | None = None
) -> FlowVersionView | Stopped:
    """Makes the draft a live version that callers meet from now on, unless a finding stops it.

    `revision` is the one the user saw; a draft that was edited meanwhile is not put live unseen.
    """
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        if revision is not None and revision != flow.revision:
            sentence = "The draft was edited meanwhile: look at it again, then put it live."
            return Stopped([Finding("edited", sentence)])
        document = FlowDocument.model_validate(flow.draft)
        found = [
            one
            for one in findings(document, surroundings(session, house, client, document, flow.key))
            if one.weight == "stops"
        ]
        if found:
            return Stopped(found)
        version = _version(session, house, actor, flow, document, flow.revision)
        _make_live(session, house, actor, flow, version)
        for words, language in spoken(document):
            jobs.defer(session, "make_speech", words=words, language=language)
        return FlowVersionView.of(version)


def _version(
    session: Session, house: House, actor: Actor, flow: CallFlow, document: FlowDocument, revision: int
) -> FlowVersion:
    """The next version of a locked flow; `revision` is that of the draft which it equals."""
    latest = session.scalar(select(func.max(FlowVersion.number)).where(FlowVersion.flow_id == flow.id)) or 0
    version = FlowVersion(
        agency_id=actor.agency_id, flow_id=flow.id, number=latest + 1, document=document.model_dump(mode="json"),
        revision=revision, made_by=actor.user_id, made_at=house.now(),
    )  # fmt: skip
    session.add(version)
    session.flush()
    return version


def put_back(house: House, actor: Actor, client_id: int, flow_id: int, version_id: int) -> FlowVersionView:
    """Puts an earlier version live again; the draft stays as it is."""
    with house.begin() as session:
        allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        version = own_version(session, flow, version_id)
        _make_live(session, house, actor, flow, version)
        return FlowVersionView.of(version)


def one(house: House, actor: Actor, client_id: int, flow_id: int, version_id: int) -> FlowVersionView:
    """A version of a flow, live now or earlier."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        return FlowVersionView.of(own_version(session, own_flow(session, client_id, flow_id), version_id))


def own_version(session: Session, flow: CallFlow, version_id: int) -> FlowVersion:
    """A version of this flow; raises NotFound for any other."""
    version = session.get(FlowVersion, version_id)
    if version is None or version.flow_id != flow.id:
        raise NotFound
    return version


def listed(house: House, actor: Actor, client_id: int, flow_id: int) -> tuple[CallFlowView, list[VersionLine]]:
    """A flow's versions, newest first."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        flow = own_flow(session, client_id, flow_id)
        versions = session.execute(
            select(FlowVersion, User.name)
            .join(User, User.id == FlowVersion.made_by)
            .where(FlowVersion.flow_id == flow_id)
            .order_by(FlowVersion.number.desc())
        ).all()
        lives = session.execute(
            select(PutLive, User.name)
            .join(User, User.id == PutLive.user_id)
            .where(PutLive.flow_id == flow_id)
            .order_by(PutLive.id)
        ).all()
    by_version: dict[int, list[tuple[datetime, str]]] = {}
    for live, name in lives:
        by_version.setdefault(live.version_id, []).append((live.at, name))
    return CallFlowView.of(flow), [
        VersionLine(
            FlowVersionView.of(version), name, tuple(by_version.get(version.id, ())), version.id == flow.live_version_id
        )
        for version, name in versions
    ]


def spoken(document: FlowDocument) -> list[tuple[str, str]]:
    """Every text that a flow speaks, with the language it is spoken in; a branch's language may come on top."""
    languages = {document.language}
    for step in document.steps:
        languages |= {branch.language for branch in getattr(step, "branches", ()) if getattr(branch, "language", None)}
    found = []
    for step in document.steps:
        for prompt in (one.prompt for one in step.plays()):
            if not prompt.is_empty():
                found += [
                    (prompt.say.strip(), one) for one in ([prompt.language] if prompt.language else sorted(languages))
                ]
    return list(dict.fromkeys(found))


def stated(document: FlowDocument) -> list[str]:
    """The keys of the lead sources that branches of a flow state, each once."""
    branches = (branch for step in document.steps for branch in getattr(step, "branches", ()))
    return sorted({branch.source for branch in branches if getattr(branch, "source", None)})


def _make_live(session: Session, house: House, actor: Actor, flow: CallFlow, version: FlowVersion) -> None:
    flow.live_version_id = version.id
    flow.stated = stated(FlowDocument.model_validate(version.document))
    session.add(
        PutLive(
            agency_id=actor.agency_id, flow_id=flow.id, version_id=version.id, user_id=actor.user_id, at=house.now()
        )
    )
    note(session, house, actor, flow.client_id, f"put version {version.number} of {flow.name} live")


Change = Callable[[FlowDocument], Sequence[Step]]
"""The steps of a document that a change makes anew; none where it does not touch it."""


def change_steps(
    session: Session, house: House, actor: Actor, client: Client, flow: CallFlow, change: Change, *, live: bool
) -> list[str]:
    """Carries a change out on a locked flow: on its draft as an edit, and if wanted on what is live, as a new version of that;
    what else stands in the draft stays there. Gives what was changed, in words."""
    version = session.get(FlowVersion, flow.live_version_id) if flow.live_version_id else None
    same = version is not None and version.revision == flow.revision
    done = []
    steps = change(FlowDocument.model_validate(flow.draft))
    if steps:
        refused = change_rows(session, house, actor, flow, [edits.SetStep(step=step) for step in steps])
        done.append(
            f"the draft of {flow.name} could not be changed: {refused[0].sentence}"
            if isinstance(refused, list)
            else f"the draft of {flow.name}"
        )
    if live and version is not None:
        said = _change_live(session, house, actor, client, flow, version, change, same=same)
        done += [said] if said else []
    return done


def _change_live(
    session: Session, house: House, actor: Actor, client: Client, flow: CallFlow, version: FlowVersion, change: Change,
    *, same: bool,
) -> str:  # fmt: skip
    document = FlowDocument.model_validate(version.document)
    new = {step.id: step for step in change(document)}
    if not new:
        return ""
    after = document.model_copy(update={"steps": tuple(new.get(step.id, step) for step in document.steps)})
    around = surroundings(session, house, client, after, flow.key)
    stops = [one for one in findings(after, around) if one.weight == "stops"]
    if stops:
        return f"{flow.name} could not go live: {stops[0].sentence}"
    made = _version(session, house, actor, flow, after, flow.revision if same else version.revision)
    _make_live(session, house, actor, flow, made)
    return f"{flow.name}, live"
