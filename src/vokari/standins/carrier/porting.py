"""Ports in, as this carrier plays them: requested, documents asked for, accepted with a date or rejected, done.

What takes days elsewhere takes seconds here: each stage lasts as long as the settings say.
"""

import secrets
import time
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

import phonenumbers
from phonenumbers import geocoder

from .inventory import Inventory, Unavailable

LETTER = "a signed letter of authorization"
WRONG_ACCOUNT = "0000"
"""An account that the losing carrier never knows, so that a rejection can be seen."""


@dataclass(frozen=True, slots=True)
class Stages:
    """How long a request waits until it is looked at, how long papers do, and how long until the transfer; seconds."""

    look: float = 15
    papers: float = 15
    transfer: float = 60


@dataclass(frozen=True, slots=True)
class PortState:
    """A port as the carrier sees it; `moves_at` is RFC 3339 or empty."""

    ref: str
    e164: str
    stage: str
    words: str
    asked_for: list[str]
    moves_at: str
    place: str
    kind: str
    rent: str
    set_up: str


class PortDesk:
    """The ports that were asked for, kept beside the numbers."""

    def __init__(self, inventory: Inventory, stages: Stages | None = None) -> None:
        self.inventory, self.stages = inventory, stages or Stages()
        inventory.ask(
            "CREATE TABLE IF NOT EXISTS ports (ref TEXT PRIMARY KEY, e164 TEXT, account TEXT, stage TEXT, words TEXT,"
            " since REAL, moves_at REAL, key TEXT UNIQUE, fail_safe TEXT)"
        )

    def request(self, e164: str, account: str, key: str, fail_safe: str) -> PortState:
        """Asks for a number; again with the same key it is the same request. Raises Unavailable with the reason."""
        known = self.inventory.ask("SELECT ref FROM ports WHERE key = ?", (key,))
        if known:
            return self.state(str(known[0][0]))
        if self.inventory.ask("SELECT 1 FROM numbers WHERE e164 = ?", (e164,)):
            raise Unavailable(409, "This number is at this carrier already: take it instead.")
        ref = secrets.token_hex(6)
        self.inventory.ask(
            "INSERT INTO ports VALUES (?, ?, ?, 'requested', '', ?, NULL, ?, ?)",
            (ref, e164, account, time.time(), key, fail_safe),
        )
        return self.state(ref)

    def state(self, ref: str) -> PortState:
        """A port as it stands now; time moves it on. Raises Unavailable for an unknown one."""
        row = self._row(ref)
        waited = time.time() - row["since"]
        if row["stage"] == "requested" and waited >= self.stages.look:
            self._to(ref, "documents", "")
        elif row["stage"] == "papers" and waited >= self.stages.papers:
            if row["account"] == WRONG_ACCOUNT:
                self._to(
                    ref, "rejected", "The losing carrier knows no account with this number: check it and ask again."
                )
            else:
                self._to(ref, "accepted", "", time.time() + self.stages.transfer)
        elif row["stage"] == "accepted" and time.time() >= row["moves_at"]:
            country, place, kind = describe(row["e164"])
            self.inventory.bring(row["e164"], country, place, kind, row["key"], row["fail_safe"])
            self._to(ref, "done", "", row["moves_at"])
        return self._shown(self._row(ref))

    def give_letter(self, ref: str) -> PortState:
        """The papers are here; they are looked at next."""
        if self.state(ref).stage == "documents":
            self._to(ref, "papers", "")
        return self.state(ref)

    def withdraw(self, ref: str) -> PortState:
        """Takes a request back, unless the number has come across."""
        if self.state(ref).stage == "done":
            raise Unavailable(409, "The number has come across already.")
        self._to(ref, "withdrawn", "")
        return self.state(ref)

    def _to(self, ref: str, stage: str, words: str, moves_at: float | None = None) -> None:
        self.inventory.ask(
            "UPDATE ports SET stage = ?, words = ?, since = ?, moves_at = ? WHERE ref = ?",
            (stage, words, time.time(), moves_at, ref),
        )

    def _row(self, ref: str) -> dict[str, Any]:
        names = ("ref", "e164", "account", "stage", "words", "since", "moves_at", "key", "fail_safe")
        rows = self.inventory.ask(f"SELECT {', '.join(names)} FROM ports WHERE ref = ?", (ref,))
        if not rows:
            raise Unavailable(404, "There is no such port.")
        return dict(zip(names, rows[0], strict=True))

    def _shown(self, row: dict[str, Any]) -> PortState:
        stage = str(row["stage"])
        moves = row["moves_at"]
        _, place, kind = describe(str(row["e164"]))
        return PortState(
            ref=str(row["ref"]), e164=str(row["e164"]), stage="requested" if stage == "papers" else stage,
            words=str(row["words"]), asked_for=[LETTER] if stage == "documents" else [],
            moves_at=datetime.fromtimestamp(moves, UTC).isoformat() if moves else "", place=place, kind=kind,
            rent="2.00", set_up="0.00",
        )  # fmt: skip


def describe(e164: str) -> tuple[str, str, str]:
    """Country, place and kind of any number, from the metadata of phonenumbers."""
    number = phonenumbers.parse(e164)
    country = phonenumbers.region_code_for_number(number) or ("GB" if e164.startswith("+44") else "US")
    toll_free = phonenumbers.number_type(number) == phonenumbers.PhoneNumberType.TOLL_FREE
    place = geocoder.description_for_number(number, "en")
    return country, place or country, "toll_free" if toll_free else "local"
