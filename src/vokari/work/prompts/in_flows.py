"""Which take live flows play from when to when: as they go live, and when another take is put into them."""

import secrets
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.model.spoken import library_keys
from ...core.prompts.document import LibraryPrompt
from ...core.prompts.playing import Stretch, playing
from ...store.agency import Client, User
from ...store.flows import CallFlow, FlowVersion
from ...store.prompts import PlayedTake, PromptRow, Take
from ..agency.access import Actor, NotFound, allow, note
from ..house.house import House
from ..house.problems import Problem, Problems
from .library import heard_by, own, scope
from .playing import newest_takes, stretches_of

FARTHEST = timedelta(days=366)
"""How far ahead a take can be put into flows."""
WENT_LIVE = "live-"
"""How the name of a batch begins that a version went live with."""


@dataclass(frozen=True, slots=True)
class PlayingFlow:
    """A live flow that plays a prompt: the version, the numbers of the takes it plays now by language, and what it will play, each with its
    language, number and moment."""

    client_id: int
    client: str
    flow_id: int
    flow: str
    mark: str
    version: int
    now: dict[str, int]
    to_come: tuple[tuple[str, int, datetime], ...]
    zone: str


@dataclass(frozen=True, slots=True)
class Change:
    """Takes put into flows at once: who did, when, which take, for which stretch, into how many flows (0: a season, for all), and whether it
    was taken back."""

    batch: str
    take: int
    language: str
    since: datetime
    until: datetime | None
    made_at: datetime
    by: str
    flows: int
    taken_back: bool


def went_live(
    session: Session, house: House, actor: Actor, flow: CallFlow, version: FlowVersion, *, newest: bool, like: int | None = None
) -> None:  # fmt: skip
    """Writes down which takes a version plays that goes live: the newest where it has none yet, and, where a draft goes live (`newest`),
    wherever a newer one is there. One that is made after another version (`like`) plays, and will play, what that one does."""
    keys = _with_fallbacks(
        session, flow.agency_id, flow.client_id, library_keys(FlowDocument.model_validate(version.document))
    )
    if not keys:
        return
    ids = {
        row.key: row.id
        for row in session.execute(
            select(PromptRow.id, PromptRow.key).where(PromptRow.key.in_(keys), PromptRow.agency_id == flow.agency_id)
        )
    }
    stretches = stretches_of(session, flow.agency_id, keys, [version.id])
    now, batch = house.now(), f"{WENT_LIVE}{_batch()}"
    if like is not None and like != version.id:
        for (key, language), some in stretches_of(session, flow.agency_id, keys, [like]).items():
            for one in (one for one, of in some if of == like):
                session.add(
                    _played(house, actor, ids[key], language, one.take, version.id, one.since, one.until, batch)
                )
        session.flush()
        stretches = stretches_of(session, flow.agency_id, keys, [version.id])
    for key, languages in newest_takes(session, flow.agency_id, keys).items():
        for language, take in languages.items():
            own_ = [one for one, of in stretches.get((key, language), []) if of == version.id]
            plays = playing(own_, now)
            if plays is None or (newest and plays != take):
                session.add(_played(house, actor, ids[key], language, take, version.id, now, None, batch))
    session.flush()


def _with_fallbacks(session: Session, agency_id: int, client_id: int, keys: Iterable[str]) -> list[str]:
    """Prompts and those that are heard once they are over."""
    found = list(keys)
    for key in found:
        row = session.scalar(select(PromptRow.document).where(heard_by(agency_id, client_id), PromptRow.key == key))
        after = LibraryPrompt.model_validate(row).fallback if row else None
        if after and after not in found:
            found.append(after)
    return found


def _batch() -> str:
    return secrets.token_hex(6)


def _played(
    house: House, actor: Actor, prompt_id: int, language: str, take_id: int, version_id: int | None, since: datetime,
    until: datetime | None, batch: str,
) -> PlayedTake:  # fmt: skip
    return PlayedTake(
        agency_id=actor.agency_id, prompt_id=prompt_id, language=language, take_id=take_id, version_id=version_id, since=since,
        until=until, made_at=house.now(), made_by=actor.user_id, batch=batch,
    )  # fmt: skip


_LIVE = text(
    "SELECT f.id AS flow_id, f.name AS flow, f.mark, c.id AS client_id, c.name AS client, c.time_zone AS zone, v.id AS version_id, v.number"
    " FROM flows f JOIN clients c ON c.id = f.client_id JOIN flow_versions v ON v.id = f.live_version_id"
    " WHERE f.agency_id = :agency AND f.removed_at IS NULL AND (CAST(:client AS bigint) IS NULL OR f.client_id = :client)"
    " AND EXISTS (SELECT 1 FROM jsonb_path_query(v.document, 'strict $.steps.**.prompt ? (@ == $key)',"
    " jsonb_build_object('key', CAST(:key AS text)), true)) ORDER BY c.name, f.name"
)


def playing_flows(session: Session, house: House, row: PromptRow) -> list[PlayingFlow]:
    """The live flows that play a prompt, each with the takes it plays."""
    flows = session.execute(_LIVE, {"agency": row.agency_id, "client": row.client_id, "key": row.key}).all()
    numbers = {
        one.id: one.number for one in session.execute(select(Take.id, Take.number).where(Take.prompt_id == row.id))
    }
    stretches = stretches_of(session, row.agency_id, [row.key], [one.version_id for one in flows])
    newest = newest_takes(session, row.agency_id, [row.key]).get(row.key, {})
    now, found = house.now(), []
    for flow in flows:
        plays, to_come = dict(newest), []
        for (_, language), some in stretches.items():
            mine: list[Stretch] = [one for one, of in some if of in (None, flow.version_id)]
            plays[language] = playing(mine, now) or plays.get(language, 0)
            to_come += [(language, numbers[one.take], one.since) for one in mine if one.since > now]
        found.append(
            PlayingFlow(
                flow.client_id, flow.client, flow.flow_id, flow.flow, flow.mark, flow.number,
                {language: numbers[take] for language, take in plays.items() if take in numbers},
                tuple(sorted(to_come, key=lambda one: one[2])), flow.zone,
            )
        )  # fmt: skip
    return found


@dataclass(frozen=True, slots=True)
class Beside:
    """What stands beside a version: a prompt, in a language, with the number of the take that plays from a moment to another (None: on),
    and whether that is for a season."""

    prompt: str
    language: str
    take: int
    since: datetime
    until: datetime | None
    seasonal: bool


def beside(house: House, actor: Actor, client_id: int, flow_id: int) -> dict[int, list[Beside]]:
    """Which takes the versions of a flow play from when to when, by the id of the version, in order of prompts and moments."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        versions = {
            one.id: library_keys(FlowDocument.model_validate(one.document))
            for one in session.scalars(select(FlowVersion).where(FlowVersion.flow_id == flow_id))
        }
        keys = {key for some in versions.values() for key in some}
        stretches = stretches_of(session, client.agency_id, keys, list(versions)) if keys else {}
        takes = {one.take for some in stretches.values() for one, _ in some}
        numbers = {
            one.id: one.number for one in session.execute(select(Take.id, Take.number).where(Take.id.in_(takes)))
        }
        query = select(PromptRow.key, PromptRow.name).where(
            PromptRow.key.in_(keys), PromptRow.agency_id == client.agency_id
        )
        names = {one.key: one.name for one in session.execute(query)}
    found: dict[int, list[Beside]] = {}
    for version, own_keys in versions.items():
        mine = [
            Beside(
                names.get(key, "a prompt that is gone"), language, numbers[one.take], one.since, one.until, one.seasonal
            )
            for (key, language), some in stretches.items()
            if key in own_keys
            for one, of in some
            if of in (None, version)
        ]
        found[version] = sorted(mine, key=lambda one: (one.prompt.casefold(), one.language, one.since))
    return found


def use(
    house: House, actor: Actor, client_id: int | None, prompt_id: int, take_id: int, flows: Collection[int], at: datetime | None = None
) -> str | Problems:  # fmt: skip
    """Puts a take into live flows from now on, or from a moment to come: `at` is local time of each flow's client, without a zone. Gives
    what the change is taken back by."""
    with house.begin() as session:
        scope(session, actor, client_id, changing=True)
        row = own(session, actor, client_id, prompt_id, lock=True)
        take = _ready(session, row, take_id)
        if isinstance(take, list):
            return take
        chosen = [
            one
            for one in session.execute(_LIVE, {"agency": row.agency_id, "client": row.client_id, "key": row.key})
            if one.flow_id in flows
        ]
        if not chosen:
            return [Problem("flows", "Choose the flows that are to play it.")]
        now, batch = house.now(), _batch()
        for flow in chosen:
            since = now if at is None else at.replace(tzinfo=ZoneInfo(flow.zone)).astimezone(UTC)
            if at is not None and not now < since <= now + FARTHEST:
                return [Problem("at", "Choose a moment within the next year.")]
            session.add(_played(house, actor, row.id, take.language, take.id, flow.version_id, since, None, batch))
        where = "1 flow" if len(chosen) == 1 else f"{len(chosen)} flows"
        when = "" if at is None else f" from {at:%Y-%m-%d %H:%M} on"
        note(session, house, actor, client_id, f"put take {take.number} of {row.name} into {where}{when}")
        return batch


def season(
    house: House, actor: Actor, client_id: int | None, prompt_id: int, take_id: int, first: date, last: date
) -> str | Problems:
    """Lets a take be heard wherever the prompt is, from the first day to the last; what was played before comes back by itself. Days are
    those of the client, or, for the agency's prompts, of UTC."""
    with house.begin() as session:
        client = scope(session, actor, client_id, changing=True)
        row = own(session, actor, client_id, prompt_id, lock=True)
        take = _ready(session, row, take_id)
        if isinstance(take, list):
            return take
        zone = ZoneInfo(client.time_zone if client else "UTC")
        since, until = (
            datetime.combine(day, time(), zone).astimezone(UTC) for day in (first, last + timedelta(days=1))
        )
        if until <= since or until <= house.now():
            return [Problem("last", "The last day comes after the first, and is still to come.")]
        batch = _batch()
        session.add(_played(house, actor, row.id, take.language, take.id, None, since, until, batch))
        note(session, house, actor, client_id, f"let take {take.number} of {row.name} be heard from {first} to {last}")
        return batch


def _ready(session: Session, row: PromptRow, take_id: int) -> Take | Problems:
    take = session.get(Take, take_id)
    if take is None or take.prompt_id != row.id:
        raise NotFound
    if take.state != "ready":
        return [Problem("take", "This take is not ready.")]
    return take


def take_back(
    house: House, actor: Actor, client_id: int | None, prompt_id: int, batch: str, *, again: bool = False
) -> Problems:
    """Takes back what was put into flows at once, so that they play what they played before; or does it again."""
    with house.begin() as session:
        scope(session, actor, client_id, changing=True)
        row = own(session, actor, client_id, prompt_id, lock=True)
        rows = session.scalars(
            select(PlayedTake).where(PlayedTake.prompt_id == row.id, PlayedTake.batch == batch)
        ).all()
        if not rows:
            raise NotFound
        for one in rows:
            one.taken_back_at = None if again else house.now()
        note(session, house, actor, client_id, f"{'put back' if again else 'took back'} a take of {row.name}")
        return []


def changes(session: Session, prompt_id: int) -> Sequence[Change]:
    """What was put into flows, the newest first; what a version went live with is not among it."""
    query = (
        select(PlayedTake, Take.number, User.name)
        .join(Take, Take.id == PlayedTake.take_id)
        .join(User, User.id == PlayedTake.made_by)
        .where(PlayedTake.prompt_id == prompt_id, PlayedTake.batch.not_like(f"{WENT_LIVE}%"))
        .order_by(PlayedTake.id.desc())
        .limit(200)
    )
    found: dict[str, Change] = {}
    for played, number, by in session.execute(query):
        before = found.get(played.batch)
        flows = (before.flows if before else 0) + (played.version_id is not None)
        found[played.batch] = Change(
            played.batch, number, played.language, played.since, played.until, played.made_at, by, flows,
            played.taken_back_at is not None,
        )  # fmt: skip
    return list(found.values())


def client_zone(session: Session, client_id: int | None) -> str:
    """The time zone in which moments of a prompt are written."""
    return str(session.scalar(select(Client.time_zone).where(Client.id == client_id)) or "UTC") if client_id else "UTC"
