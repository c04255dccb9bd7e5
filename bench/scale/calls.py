"""Five million calls over three years by COPY, a month at a time in several processes; full logs for two clients' last 90 days."""

import os
import random
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, datetime, timedelta
from typing import Any

import psycopg

from vokari.store.database import ensure_months
from vokari.work.calls import rollups
from vokari.work.calls.closing import COLUMNS

from ..town import Town
from .agency import LargeAgency

CALLS, DAYS, LOG_DAYS = 5_000_000, 1095, 90
FATES = (
    (50, "answered", "", 150, 120), (12, "answered", "unconfirmed", 140, 110), (14, "message_left", "", 70, 0),
    (6, "served", "", 50, 0), (6, "turned_away", "", 20, 0), (8, "lost", "ringing", 45, 0), (4, "lost", "quick", 2, 0),
)  # fmt: skip
"""Fates with their reasons: how many of a hundred, and the seconds they take and talk."""


def load(town: Town, url: str, made: LargeAgency) -> int:
    """Copies the calls, then builds their indexes, rollups and logs; gives their count."""
    until = town.house.now()
    with town.house.begin() as session:
        ensure_months(session.connection(), (until - timedelta(days=DAYS + 40)).date(), until.date())
    with psycopg.connect(url, autocommit=True) as connection:
        indexes = [str(one[0]) for one in connection.execute(
            "SELECT indexdef FROM pg_indexes WHERE tablename = 'calls' AND indexname NOT LIKE 'pk%'"
        )]  # fmt: skip
        for (name,) in connection.execute(
            "SELECT indexname FROM pg_indexes WHERE tablename = 'calls' AND indexname NOT LIKE 'pk%'"
        ).fetchall():
            connection.execute(f"DROP INDEX {name}".encode())
        months = list(_months(until))
        with ProcessPoolExecutor(max_workers=os.cpu_count() or 1) as pool:
            count = sum(pool.map(_month, [(url, made, begin, end) for begin, end in months]))
        for one in indexes:
            connection.execute(one.replace(" ON ONLY ", " ON ").encode())
        connection.execute("ANALYZE calls")
        rolled_up(connection, made.id)
        _logs(connection, made, until)
        connection.execute("VACUUM ANALYZE")
    return count


def rolled_up(connection: psycopg.Connection[Any], agency: int) -> None:
    """The rollups of an agency's calls, from the calls."""
    for adding in rollups.from_calls("agency_id = %s"):
        connection.execute(adding, (agency,))


def _months(until: datetime) -> Iterator[tuple[datetime, datetime]]:
    """The months of the time, each as the part of it in which calls came."""
    begin = until - timedelta(days=DAYS)
    while begin < until:
        following = datetime(begin.year + begin.month // 12, begin.month % 12 + 1, 1, tzinfo=UTC)
        yield begin, min(following, until)
        begin = following


def _month(job: tuple[str, LargeAgency, datetime, datetime]) -> int:
    url, made, begin, end = job
    span = (end - begin).total_seconds()
    count = round(CALLS * span / (DAYS * 86400))
    chance = random.Random(f"{begin}")
    callers = [f"+1{area}55501{n:02d}" for area in range(210, 990) for n in range(100)]
    tails = [
        f"{fate}\t{reason}\t{seconds + n % 9}\t{talk + n % 9 if talk else 0}\t{'+12125550160' if talk else ''}\t{{}}\t\tf\t\n"
        for share, fate, reason, seconds, talk in FATES for n in range(share)
    ]  # fmt: skip
    with (
        psycopg.connect(url) as connection,
        connection.cursor().copy(f"COPY calls ({', '.join(COLUMNS)}) FROM STDIN") as copy,
    ):
        for rows in _chunks(count):
            copy.write(_rows(chance, made, begin, span, callers, tails, rows))
    return count


def _chunks(count: int, size: int = 5000) -> Iterator[int]:
    while count > 0:
        yield min(size, count)
        count -= size


def _rows(
    chance: random.Random, made: LargeAgency, begin: datetime, span: float, callers: Sequence[str], tails: Sequence[str], count: int
) -> str:  # fmt: skip
    """Lines as COPY reads them; ids hold their moment (UUID version 7), callers come in the daytime of the Americas."""
    start = begin.timestamp()
    lines = []
    for held in chance.choices(made.held, [one.weight for one in made.held], k=count):
        seconds = start + chance.random() * span
        if 3 < seconds / 3600 % 24 < 13 and chance.random() < 0.9:
            seconds = min(start + span - 1, seconds + 10 * 3600)
        random_bits = chance.getrandbits(74)
        number = (
            (int(seconds * 1000) << 80)
            | (0x7 << 76)
            | (random_bits >> 62 << 64)
            | (0b10 << 62)
            | (random_bits & (1 << 62) - 1)
        )
        at = datetime.fromtimestamp(seconds, UTC)
        lines.append(
            f"{number:032x}\t{at}\t{made.id}\t{held.client_id}\t{held.number_id}\t{chance.choice(callers)}\t{_null(held.flow_id)}\t"
            f"{_null(held.version_id)}\t{_null(held.source_id)}\t{'assignment' if held.source_id else 'none'}\t{chance.choice(tails)}"
        )
    return "".join(lines)


def _null(value: int | None) -> str:
    return r"\N" if value is None else str(value)


def _logs(connection: psycopg.Connection[Any], made: LargeAgency, until: datetime) -> None:
    """Logs of the last days for the largest and a small client: those of calls of the demo world, by their fates."""
    connection.execute(
        "INSERT INTO call_logs (call_id, started_at, agency_id, carrier_id, ref, entries) SELECT k.id, k.started_at, k.agency_id, 1,"
        " replace(k.id::text, '-', ''), l.entries FROM calls k JOIN (SELECT DISTINCT ON (c.fate) c.fate, g.entries FROM calls c JOIN"
        " call_logs g ON g.call_id = c.id AND g.started_at = c.started_at WHERE c.agency_id <> %s ORDER BY c.fate,"
        " length(g.entries::text) DESC) l ON l.fate = k.fate WHERE k.client_id IN (%s, %s) AND k.started_at > %s",
        (made.id, made.largest, made.small, until - timedelta(days=LOG_DAYS)),
    )
