"""The carrier's numbers, all from the ranges set aside for fiction, and who has taken which.

In each US area code 555-0100 to 0159 are for sale, 0160 to 0179 are left to staff phones and 0180 to 0199 to callers;
in London 020 7946 0000 to 0599 are for sale. Sources of the ranges: see `core.numbering`.
"""

import sqlite3
import threading
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

US_PLACES = {
    "410": "Annapolis, MD", "443": "Annapolis, MD", "207": "Portland, ME", "503": "Portland, OR", "802": "Burlington, VT",
    "206": "Seattle, WA", "212": "New York, NY", "312": "Chicago, IL", "303": "Denver, CO", "404": "Atlanta, GA",
    "512": "Austin, TX", "505": "Santa Fe, NM", "608": "Madison, WI", "612": "Minneapolis, MN", "615": "Nashville, TN",
    "617": "Boston, MA", "619": "San Diego, CA", "704": "Charlotte, NC", "801": "Salt Lake City, UT", "904": "Jacksonville, FL",
}  # fmt: skip
LONDON = "London"
UK_NOWHERE = "United Kingdom"


class Unavailable(Exception):
    """The number cannot be had; `status` is 404 for one that does not exist and 409 for one that is taken."""

    def __init__(self, status: int, sentence: str) -> None:
        super().__init__(sentence)
        self.status = status
        self.sentence = sentence


@dataclass(frozen=True, slots=True)
class Offer:
    """A number for sale, with its prices in US dollars a month and once, and the documents asked for before it works."""

    e164: str
    country: str
    place: str
    kind: str
    rent: str
    set_up: str
    asks: tuple[str, ...] = ()


ADDRESS_PROOF = "proof of a business address in the country"


def asks_for(e164: str) -> tuple[str, ...]:
    """What this carrier asks for first: of UK numbers without an area, the proof of an address."""
    return (ADDRESS_PROOF,) if e164.startswith("+441632") else ()


def catalogue() -> Iterator[Offer]:
    """Every number that the carrier sells."""
    for code, place in US_PLACES.items():
        for n in range(100, 160):
            yield Offer(f"+1{code}5550{n}", "US", place, "local", "3.00", "0.00")
    for n in range(100, 200):
        yield Offer(f"+18005550{n}", "US", "Toll-free", "toll_free", "5.00", "0.00")
    for n in range(600):
        yield Offer(f"+442079460{n:03d}", "GB", LONDON, "local", "3.50", "1.00")
    for n in range(600):
        yield Offer(f"+441632960{n:03d}", "GB", UK_NOWHERE, "local", "3.50", "1.00")
    for n in range(1000):
        yield Offer(f"+448081570{n:03d}", "GB", "Toll-free", "toll_free", "6.00", "1.00")


class Inventory:
    """The numbers and who has them, kept in an SQLite file so that a restart forgets nothing."""

    def __init__(self, file: Path) -> None:
        file.parent.mkdir(parents=True, exist_ok=True)
        self.connection = sqlite3.connect(file, isolation_level=None, check_same_thread=False)
        self.lock = threading.Lock()
        self.connection.execute("PRAGMA journal_mode = WAL")
        self.connection.execute("PRAGMA synchronous = OFF")
        self.connection.execute(
            "CREATE TABLE IF NOT EXISTS numbers (e164 TEXT PRIMARY KEY, country TEXT, place TEXT, kind TEXT, rent TEXT,"
            " set_up TEXT, taken_key TEXT, fail_safe TEXT NOT NULL DEFAULT '', documents TEXT NOT NULL DEFAULT '')"
        )
        if not self.connection.execute("SELECT 1 FROM numbers LIMIT 1").fetchone():
            self.connection.execute("BEGIN")
            self.connection.executemany(
                "INSERT INTO numbers (e164, country, place, kind, rent, set_up) VALUES (?, ?, ?, ?, ?, ?)",
                [(o.e164, o.country, o.place, o.kind, o.rent, o.set_up) for o in catalogue()],
            )
            self.connection.execute("COMMIT")

    def search(self, *, country: str, area_code: str, place: str, kind: str, contains: str, limit: int) -> list[Offer]:
        """Free numbers that fit, spread over the ranges rather than one after the other; empty words fit all."""
        prefix = {"US": "+1", "GB": "+44"}.get(country, "+") + area_code.lstrip("0")
        rows = self.ask(
            "SELECT e164, country, place, kind, rent, set_up FROM numbers WHERE taken_key IS NULL"
            " AND (? = '' OR country = ?) AND e164 LIKE ? AND place LIKE ? AND (? = '' OR kind = ?) AND e164 LIKE ?"
            " ORDER BY substr(e164, -2), e164 LIMIT ?",
            (country, country, prefix + "%", f"%{place}%", kind, kind, f"%{contains}%", max(1, min(limit, 500))),
        )
        return [replace(Offer(*row), asks=asks_for(row[0])) for row in rows]

    def take(self, e164: str, key: str, fail_safe: str) -> Offer:
        """Takes a number; again with the same key it gives the same answer. Raises Unavailable."""
        taken = self.ask(
            "UPDATE numbers SET taken_key = ?, fail_safe = ? WHERE e164 = ? AND (taken_key IS NULL OR taken_key = ?)"
            " RETURNING e164, country, place, kind, rent, set_up",
            (key, fail_safe, e164, key),
        )
        if taken:
            return replace(Offer(*taken[0]), asks=asks_for(e164))
        if not self.ask("SELECT 1 FROM numbers WHERE e164 = ?", (e164,)):
            raise Unavailable(404, "The carrier has no such number.")
        raise Unavailable(409, "Somebody took this number a moment ago. Choose another one.")

    def give_back(self, e164: str, *, leaves: bool = False) -> None:
        """Takes a number back, to be sold again; one that leaves to another carrier is none of ours any more."""
        if leaves:
            self.ask("DELETE FROM numbers WHERE e164 = ?", (e164,))
        else:
            self.ask("UPDATE numbers SET taken_key = NULL, fail_safe = '', documents = '' WHERE e164 = ?", (e164,))

    def give_document(self, e164: str, kind: str) -> list[str]:
        """Notes a document and gives what is still asked for. Raises Unavailable for a number that nobody has taken."""
        rows = self.ask("SELECT documents FROM numbers WHERE e164 = ? AND taken_key IS NOT NULL", (e164,))
        if not rows:
            raise Unavailable(404, "Nobody has taken this number.")
        given = [*filter(None, rows[0][0].split("|")), kind]
        self.ask("UPDATE numbers SET documents = ? WHERE e164 = ?", ("|".join(given), e164))
        return [one for one in asks_for(e164) if one not in given]

    def bring(self, e164: str, country: str, place: str, kind: str, key: str, fail_safe: str) -> None:
        """A number that came across from another carrier is ours from now on."""
        self.ask(
            "INSERT OR REPLACE INTO numbers (e164, country, place, kind, rent, set_up, taken_key, fail_safe)"
            " VALUES (?, ?, ?, ?, '2.00', '0.00', ?, ?)",
            (e164, country, place, kind, key, fail_safe),
        )

    def set_fail_safe(self, e164: str, destination: str) -> None:
        """Raises Unavailable for a number that nobody has taken."""
        changed = "UPDATE numbers SET fail_safe = ? WHERE e164 = ? AND taken_key IS NOT NULL RETURNING e164"
        if not self.ask(changed, (destination, e164)):
            raise Unavailable(404, "Nobody has taken this number.")

    def fail_safe(self, e164: str) -> str:
        rows = self.ask("SELECT fail_safe FROM numbers WHERE e164 = ?", (e164,))
        return str(rows[0][0]) if rows else ""

    def taken(self) -> list[str]:
        """The numbers that are in use."""
        return [row[0] for row in self.ask("SELECT e164 FROM numbers WHERE taken_key IS NOT NULL ORDER BY e164")]

    def ask(self, statement: str, values: tuple[Any, ...] = ()) -> list[Any]:
        """One statement at a time: what it changed or found belongs to the thread that asked."""
        with self.lock:
            return self.connection.execute(statement, values).fetchall()

    def ask_many(self, statement: str, rows: Sequence[tuple[Any, ...]]) -> None:
        """One statement for many rows, all or none."""
        with self.lock:
            self.connection.execute("BEGIN")
            self.connection.executemany(statement, rows)
            self.connection.execute("COMMIT")
