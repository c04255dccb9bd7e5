"""Which take callers hear: resolved when a call is admitted, from what stands beside the versions it runs on."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import text
from sqlalchemy.orm import Session

from ...core.prompts.playing import Stretch, boundaries, playing
from ...core.prompts.spoken import Spoken, Takes
from ...core.prompts.voices import Voice
from ..house.house import House

_STRETCHES = text(
    "SELECT p.key, s.language, s.take_id, s.since, s.until, s.version_id FROM played_takes s JOIN prompts p ON p.id = s.prompt_id"
    " WHERE p.agency_id = :agency AND p.key = ANY(:keys) AND s.taken_back_at IS NULL"
    " AND (s.version_id IS NULL OR s.version_id = ANY(:versions))"
)
_NEWEST = text(
    "SELECT DISTINCT ON (p.key, t.language) p.key, t.language, t.id FROM prompts p JOIN takes t ON t.prompt_id = p.id"
    " WHERE p.agency_id = :agency AND p.key = ANY(:keys) AND t.state = 'ready' AND NOT t.set_aside"
    " ORDER BY p.key, t.language, t.number DESC"
)
_TRUE_UNTIL = text(
    "SELECT key, document ->> 'true_until' AS until, document ->> 'fallback' AS fallback FROM prompts"
    " WHERE agency_id = :agency AND key = ANY(:keys) AND document ->> 'true_until' IS NOT NULL"
)
_TAKES = text("SELECT id, language, words, sound, voice FROM takes WHERE id = ANY(:ids)")

Chosen = dict[str, dict[str, dict[str, int]]]
"""By key of the inner flow (empty: the flow itself), key of the prompt and language the id of the take."""


DRAFT = 0
"""Stands for a draft in the place of a version: it plays the newest takes, but for seasons."""


@dataclass(frozen=True, slots=True)
class Played:
    """A flow of a call, by the key that it is continued in by (empty: the call's own): the version, and the keys of its prompts."""

    flow: str
    version: int
    prompts: frozenset[str]


def chosen(session: Session, agency_id: int, flows: Iterable[Played], at: datetime, today: date) -> Chosen:
    """The takes of a call that is admitted at a moment; `today` is the client's day. A prompt whose time is over is heard as the one it
    falls back on; a version for which no take was written down plays the newest."""
    flows = list(flows)
    wanted = {key for one in flows for key in one.prompts}
    if not wanted:
        return {}
    instead = _instead(session, agency_id, wanted, today)
    keys = wanted | set(instead.values())
    stretches = stretches_of(session, agency_id, keys, [one.version for one in flows])
    newest = newest_takes(session, agency_id, keys)
    found: Chosen = {}
    for one in flows:
        for key in one.prompts:
            heard = instead.get(key, key)
            languages = dict(newest.get(heard, {}))
            for (prompt, language), some in stretches.items():
                if prompt == heard:
                    take = playing([s for s, version in some if version in (None, one.version)], at)
                    if take is not None:
                        languages[language] = take
            if languages:
                found.setdefault(one.flow, {})[key] = languages
    return found


def boundaries_of(
    session: Session, agency_id: int, flows: Iterable[Played], since: datetime, until: datetime, zone: ZoneInfo
) -> list[datetime]:
    """The moments between two others at which callers of some flows begin to hear something else, in order: another take, or what a
    prompt falls back on once its last day, in the client's time zone, is over."""
    flows = list(flows)
    keys = {key for one in flows for key in one.prompts}
    if not keys:
        return []
    found: set[datetime] = set()
    for some in stretches_of(session, agency_id, keys, [one.version for one in flows]).values():
        for flow in flows:
            found.update(boundaries([one for one, of in some if of in (None, flow.version)], since, until))
    for row in session.execute(_TRUE_UNTIL, {"agency": agency_id, "keys": sorted(keys)}):
        over = datetime.combine(date.fromisoformat(row.until) + timedelta(days=1), time(), zone).astimezone(UTC)
        if row.fallback and since < over < until:
            found.add(over)
    return sorted(found)


def _instead(session: Session, agency_id: int, keys: Collection[str], today: date) -> dict[str, str]:
    """What is heard in the place of prompts that are true no more, by key."""
    found: dict[str, str] = {}
    wanted = set(keys)
    for _ in range(len(keys) + 5):
        rows = session.execute(_TRUE_UNTIL, {"agency": agency_id, "keys": sorted(wanted)}).all() if wanted else []
        over = {row.key: row.fallback for row in rows if row.fallback and date.fromisoformat(row.until) < today}
        if not over:
            break
        found |= over
        wanted = set(over.values()) - set(found)
    return {key: _last(found, key) for key in keys if key in found}


def _last(instead: Mapping[str, str], key: str) -> str:
    """The end of a chain of fallbacks; one that goes round ends where it began."""
    seen = {key}
    while (after := instead.get(key)) is not None and after not in seen:
        seen.add(after)
        key = after
    return key


def stretches_of(
    session: Session, agency_id: int, keys: Collection[str], versions: Collection[int]
) -> dict[tuple[str, str], list[tuple[Stretch, int | None]]]:
    """What stands beside versions: by key of the prompt and language the stretches, each with its version (None: a season)."""
    values = {"agency": agency_id, "keys": sorted(keys), "versions": sorted(versions)}
    found: dict[tuple[str, str], list[tuple[Stretch, int | None]]] = {}
    for row in session.execute(_STRETCHES, values):
        stretch = Stretch(row.take_id, row.since, row.until, row.version_id is None)
        found.setdefault((row.key, row.language), []).append((stretch, row.version_id))
    return found


def newest_takes(session: Session, agency_id: int, keys: Collection[str]) -> dict[str, dict[str, int]]:
    """By key and language the id of the newest take that is ready and was not set aside: what drafts play."""
    found: dict[str, dict[str, int]] = {}
    for row in session.execute(_NEWEST, {"agency": agency_id, "keys": sorted(keys)}) if keys else ():
        found.setdefault(row.key, {})[row.language] = row.id
    return found


def as_heard(session: Session, house: House, chosen: Mapping[str, Mapping[str, Mapping[str, int]]]) -> dict[str, Takes]:
    """The takes of some ids as the engine plays them; takes never change, so each process keeps those it has met."""
    ids = {take for prompts in chosen.values() for languages in prompts.values() for take in languages.values()}
    missing = [one for one in ids if one not in house.takes.known]
    rows = {row.id: row for row in session.execute(_TAKES, {"ids": missing})} if missing else {}

    def spoken(take: int) -> Spoken:
        return house.takes.get(session, take, lambda: _spoken(rows[take]._asdict()))

    return {
        flow: {
            key: {language: spoken(take) for language, take in languages.items()} for key, languages in prompts.items()
        }
        for flow, prompts in chosen.items()
    }


def _spoken(row: dict[str, Any]) -> Spoken:
    return Spoken(row["words"], row["sound"], Voice.model_validate(row["voice"]) if row["voice"] else None)
