"""Live versions: putting a draft live, the list of who did when, and going back to an earlier one."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.checks.finding import Finding
from ...core.checks.flows import findings
from ...core.checks.within import broken_outside
from ...core.flows.drafting import edits
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.spoken import languages_of, played
from ...core.flows.model.steps import Step
from ...core.prompts.voices import for_language
from ...store.agency import Client, User
from ...store.due import DueChange
from ...store.flows import CallFlow, FlowVersion, PutLive
from ...store.numbers import TrackingNumber
from ..agency.access import Actor, NotFound, allow, note
from ..house import due, jobs
from ..house.house import House
from ..house.problems import Row
from ..house.views import CallFlowView, FlowVersionView
from ..prompts import in_flows
from ..prompts.speech import Wanted, wanted_of
from ..proof import proving
from . import consents, verdicts
from .drafts import change_rows
from .open_drafts import as_spoken, own_flow, surroundings


@dataclass(frozen=True, slots=True)
class VersionLine:
    """A version with who made it, and when it went live, by whom and why."""

    version: FlowVersionView
    made_by: str
    lives: tuple[tuple[datetime, str, str], ...]
    is_live: bool


@dataclass(frozen=True, slots=True)
class Stopped:
    """Put live did not happen: these findings stop it, or ask for a word first."""

    findings: list[Finding]

    @property
    def asks(self) -> bool:
        """Whether a word of consent lets it happen."""
        return all(one.weight == "asks" for one in self.findings)


PUT_LIVE = "put_live"
"""The kind of a planned change that puts a version live."""
LONGEST_WHY = 300
FARTHEST = timedelta(days=366)
"""How far ahead a version can be planned."""


@dataclass(frozen=True, slots=True)
class Going:
    """How a version goes live: why, in the words of whoever puts it live; when (None: now); the ids of numbers that point at the flow
    from then on; the word given for findings that ask for one (empty: none); and whether a draft that is not proven asks for one too."""

    why: str = ""
    at: datetime | None = None
    numbers: tuple[int, ...] = ()
    consent: str = ""
    proven: bool = False


NOW = Going()


@dataclass(frozen=True, slots=True)
class Planned:
    """A version that goes live at a moment to come: the planned change, who planned it, when, and why."""

    id: int
    version: FlowVersionView
    at: datetime
    by: str
    why: str
    numbers: tuple[int, ...]


def put_live(
    house: House, actor: Actor, client_id: int, flow_id: int, revision: int | None = None, going: Going = NOW
) -> FlowVersionView | Stopped:
    """Makes the draft a live version that callers meet from now on, or from a moment to come, unless a finding stops it.

    `revision` is the one the user saw; a draft that was edited meanwhile is not put live unseen.
    """
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        if revision is not None and revision != flow.revision:
            sentence = "The draft was edited meanwhile: look at it again, then put it live."
            return Stopped([Finding("edited", sentence)])
        document = as_spoken(session, house, client, FlowDocument.model_validate(flow.draft))
        found = found_of(session, house, client, flow, document, len(going.numbers))
        found += verdicts.found(session, house, client, flow.id, document)
        found += proving.of_draft(session, house, client, flow, must=going.proven)
        stops = [one for one in found if one.weight == "stops"] or _too_late(house, going)
        if stops:
            return Stopped(stops)
        asks, given = [one for one in found if one.weight == "asks"], _consents(session, flow)
        unanswered = consents.missing(asks, given)
        if unanswered and not going.consent.strip():
            return Stopped(unanswered)
        version = _version(session, house, actor, flow, document, flow.revision)
        version.consents = consents.kept(asks, given, going.consent, actor.name, house.now())
        _go(session, house, actor, flow, version, going, newest=True)
        for words, language, voice in spoken(document):
            jobs.defer(
                session, "make_speech", words=words, language=language, voice=voice.model_dump_json(), country=client.country
            )  # fmt: skip
        return FlowVersionView.of(version)


def asks(house: House, actor: Actor, client_id: int, flow_id: int) -> list[Finding]:
    """What asks for a word before the draft goes live."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        flow = own_flow(session, client_id, flow_id)
        document = as_spoken(session, house, client, FlowDocument.model_validate(flow.draft))
        found = found_of(session, house, client, flow, document)
        found += verdicts.found(session, house, client, flow.id, document)
        found += proving.of_draft(session, house, client, flow, must=True)
        return consents.missing([one for one in found if one.weight == "asks"], _consents(session, flow))


def found_of(
    session: Session, house: House, client: Client, flow: CallFlow, document: FlowDocument, pointed: int = 0
) -> list[Finding]:
    """What is found of a document of a flow, there and in the flows that continue in it; `pointed` numbers will reach it."""
    around = surroundings(session, house, client, document, flow.key)
    around = replace(around, pointed=max(around.pointed, pointed))
    return [*findings(document, around), *broken_outside(document, flow.key, around.flows)]


def _stops(
    session: Session, house: House, client: Client, flow: CallFlow, document: FlowDocument, pointed: int = 0
) -> list[Finding]:
    """What of it keeps the document from going live."""
    return [one for one in found_of(session, house, client, flow, document, pointed) if one.weight == "stops"]


def _consents(session: Session, flow: CallFlow) -> list[Row]:
    """The words given for findings of what is live."""
    version = session.get(FlowVersion, flow.live_version_id) if flow.live_version_id else None
    return list(version.consents) if version else []


def _too_late(house: House, going: Going) -> list[Finding]:
    if going.at is not None and going.at <= house.now():
        return [Finding("past", "That moment has passed: choose one to come, or put it live now.")]
    if going.at is not None and going.at > house.now() + FARTHEST:
        return [Finding("past", "Choose a moment within the next year.")]
    return []


def _go(
    session: Session, house: House, actor: Actor, flow: CallFlow, version: FlowVersion, going: Going, *, newest: bool = False
) -> None:  # fmt: skip
    """Puts a version of a locked flow live, or plans that; with the newest takes, or those that it played before."""
    why = " ".join(going.why.split())[:LONGEST_WHY]
    if going.at is None:
        _make_live(session, house, actor, flow, version, why, newest=newest)
        _point(session, house, actor, flow, going.numbers)
        return
    detail = {"version_id": version.id, "why": why, "numbers": list(going.numbers), "newest": newest}
    due.plan(session, actor, house, flow.client_id, PUT_LIVE, flow.id, going.at, detail)
    words = f"planned version {version.number} of {flow.name} to go live at {going.at:%Y-%m-%d %H:%M} UTC"
    note(session, house, actor, flow.client_id, words)


def _point(session: Session, house: House, actor: Actor, flow: CallFlow, numbers: Sequence[int]) -> None:
    """Lets numbers of the client reach a flow; those that are its already, and those that are gone, are left alone."""
    for number in session.scalars(select(TrackingNumber).where(TrackingNumber.id.in_(numbers)).with_for_update()):
        if number.client_id == flow.client_id and number.state == "in_service" and number.flow_id != flow.id:
            number.flow_id = flow.id
            note(session, house, actor, flow.client_id, f"pointed {number.e164} at {flow.name}")


def choose_numbers(house: House, actor: Actor, client_id: int, flow_id: int, numbers: Sequence[int]) -> None:
    """Lets some numbers of the client reach a flow from now on; others that did have no flow then, which stands on Today."""
    with house.begin() as session:
        allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        _point(session, house, actor, flow, numbers)
        left = select(TrackingNumber).where(
            TrackingNumber.flow_id == flow.id, TrackingNumber.id.not_in(numbers), TrackingNumber.state == "in_service"
        )
        for number in session.scalars(left.with_for_update()):
            number.flow_id = None
            note(session, house, actor, client_id, f"took {number.e164} off {flow.name}")


def go_live_as_planned(session: Session, house: House, actor: Actor, change: DueChange) -> str:
    """Puts a planned version live at its moment, if nothing stops it by then; else says what does."""
    flow = session.get(CallFlow, change.of_id, with_for_update={"key_share": True})
    if flow is None or flow.removed_at is not None:
        return "the flow was removed"
    version = own_version(session, flow, change.detail["version_id"])
    client = session.get_one(Client, flow.client_id)
    document = FlowDocument.model_validate(version.document)
    found = _stops(session, house, client, flow, document, len(change.detail["numbers"]))
    if found:
        return found[0].sentence
    _make_live(
        session, house, actor, flow, version, change.detail["why"], newest=change.detail.get("newest", False)
    )  # fmt: skip
    _point(session, house, actor, flow, change.detail["numbers"])
    return ""


def planned(session: Session, flow_id: int) -> Planned | None:
    """What is planned to go live of a flow."""
    change = next(iter(due.waiting(session, PUT_LIVE, flow_id)), None)
    if change is None:
        return None
    version = session.get_one(FlowVersion, change.detail["version_id"])
    user = session.get_one(User, change.user_id)
    return Planned(
        change.id, FlowVersionView.of(version), change.at, user.name, change.detail["why"], tuple(change.detail["numbers"])
    )  # fmt: skip


def take_back_planned(house: House, actor: Actor, client_id: int, flow_id: int, change_id: int) -> bool:
    """Takes back that a version goes live at a moment to come; False where it did already, or was taken back."""
    with house.begin() as session:
        allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id)
        change = due.take_back(session, house, client_id, change_id)
        if change is not None:
            note(session, house, actor, client_id, f"took back what was planned for {flow.name}")
        return change is not None


def _version(
    session: Session, house: House, actor: Actor, flow: CallFlow, document: FlowDocument, revision: int
) -> FlowVersion:
    """The next version of a locked flow, or the latest where it says the same; `revision` is that of the draft which it equals."""
    latest = session.scalar(select(func.max(FlowVersion.number)).where(FlowVersion.flow_id == flow.id)) or 0
    same = session.scalar(select(FlowVersion).where(FlowVersion.flow_id == flow.id, FlowVersion.number == latest))
    if same is not None and same.revision == revision and same.document == document.model_dump(mode="json"):
        return same
    version = FlowVersion(
        agency_id=actor.agency_id, flow_id=flow.id, number=latest + 1, document=document.model_dump(mode="json"),
        revision=revision, made_by=actor.user_id, made_at=house.now(),
    )  # fmt: skip
    session.add(version)
    session.flush()
    return version


def put_back(
    house: House, actor: Actor, client_id: int, flow_id: int, version_id: int, going: Going = NOW
) -> FlowVersionView | Stopped:
    """Puts an earlier version live again, now or at a moment to come, unless something stops it by now; the draft stays as it is."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        version = own_version(session, flow, version_id)
        document = FlowDocument.model_validate(version.document)
        around = surroundings(session, house, client, document, flow.key)
        found = _too_late(house, going) or list(broken_outside(document, flow.key, around.flows))
        if found:
            return Stopped(found)
        _go(session, house, actor, flow, version, going)
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


def listed(
    house: House, actor: Actor, client_id: int, flow_id: int
) -> tuple[CallFlowView, list[VersionLine], Planned | None]:
    """A flow's versions, newest first, and what is planned to go live."""
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
        plan = planned(session, flow_id)
    by_version: dict[int, list[tuple[datetime, str, str]]] = {}
    for live, name in lives:
        by_version.setdefault(live.version_id, []).append((live.at, name, live.why))
    found = [
        VersionLine(
            FlowVersionView.of(version), name, tuple(by_version.get(version.id, ())), version.id == flow.live_version_id
        )
        for version, name in versions
    ]
    return CallFlowView.of(flow), found, plan


def spoken(document: FlowDocument) -> list[Wanted]:
    """Every text that a flow has read by a voice, in the parts in which its sound is made beforehand, with the language and the voice. What
    the library holds is made with its takes."""
    found: list[Wanted] = []
    for _, one in played(document):
        if one.prompt.prompt is not None:
            continue
        own = document.voice.model_copy(update={"name": one.prompt.voice}) if one.prompt.voice else document.voice
        for language in [one.prompt.language] if one.prompt.language else sorted(languages_of(document)):
            found += wanted_of(one.prompt.say, language, for_language(own, language))
    return list(dict.fromkeys(found))


def stated(document: FlowDocument) -> list[str]:
    """The keys of the lead sources that branches of a flow state, each once."""
    branches = (branch for step in document.steps for branch in getattr(step, "branches", ()))
    return sorted({branch.source for branch in branches if getattr(branch, "source", None)})


def _make_live(
    session: Session, house: House, actor: Actor, flow: CallFlow, version: FlowVersion, why: str = "", *,
    newest: bool = False, like: int | None = None,
) -> None:  # fmt: skip
    """Makes a version of a locked flow the one that callers meet; what was planned for the flow stays planned. It plays the newest takes, or
    those it played before, or those of the version that it is made after (`like`)."""
    in_flows.went_live(session, house, actor, flow, version, newest=newest, like=like)
    flow.live_version_id, flow.worse = version.id, ""
    flow.stated = stated(FlowDocument.model_validate(version.document))
    lived = PutLive(
        agency_id=flow.agency_id, flow_id=flow.id, version_id=version.id, user_id=actor.user_id, at=house.now(), why=why
    )
    session.add(lived)
    jobs.defer(session, "prove_live", lock=f"prove-live-{flow.id}", flow_id=flow.id)
    because = f": {why}" if why else ""
    note(session, house, actor, flow.client_id, f"put version {version.number} of {flow.name} live{because}")


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
    stops = _stops(session, house, client, flow, after)
    if stops:
        return f"{flow.name} could not go live: {stops[0].sentence}"
    made = _version(session, house, actor, flow, after, flow.revision if same else version.revision)
    _make_live(session, house, actor, flow, made, like=version.id)
    return f"{flow.name}, live"
