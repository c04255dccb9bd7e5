"""The carrier's register of calls, kept beside the numbers: what it answers when it is asked which calls still exist and how
others ended. It outlives the process; calls that were going on when the process died ended then."""

import json
from collections.abc import Iterable, Sequence
from datetime import UTC, datetime
from typing import Any

from ...formats.call_control.messages import EventMessage
from ...formats.call_control.records import CallRecord, CallStanding, FailSafeUse, Records
from .inventory import Inventory

_COLUMNS = "number, ref, caller, called, at, ended_at, by, reached, fail_safe"

RINGINGS = "CREATE TABLE IF NOT EXISTS ringings (ref TEXT PRIMARY KEY, phone TEXT, since REAL)"
"""The table of phones that the application had rung, whose calls are none to its numbers."""


class CallRegister:
    """The calls of this carrier, those that go on and those that are over."""

    def __init__(self, inventory: Inventory) -> None:
        self.ask = inventory.ask
        self.many = inventory.ask_many
        self.ask(
            "CREATE TABLE IF NOT EXISTS calls (ref TEXT PRIMARY KEY, number INTEGER UNIQUE, caller TEXT, called TEXT, at TEXT,"
            " last_at TEXT, ended_at TEXT, by TEXT, state TEXT, reached INTEGER, fail_safe TEXT, untold TEXT,"
            " answered INTEGER, mailbox INTEGER)"
        )
        self.ask("CREATE INDEX IF NOT EXISTS calls_at ON calls (at)")
        self.ask(RINGINGS)
        for (ref,) in self.ask("SELECT ref FROM calls WHERE state <> 'over'"):
            self._end(ref, "last_at", "carrier")

    def begin(self, ref: str, caller: str | None, called: str, at: datetime) -> None:
        """A call arrives."""
        values = (ref, caller, called, _text(at), _text(at))
        self.ask(
            "INSERT INTO calls (ref, caller, called, at, last_at, state, reached, answered, mailbox) VALUES (?, ?, ?, ?, ?, 'exists',"
            " 0, 0, 0)",
            values,
        )

    def told(self, ref: str, at: datetime) -> None:
        """An event of it was answered."""
        self.ask("UPDATE calls SET last_at = ?, reached = 1 WHERE ref = ?", (_text(at), ref))

    def talks(self, ref: str, *, mailbox: bool) -> None:
        """It is connected: with a person, or with a phone's own mailbox, which the application cannot know."""
        self.ask("UPDATE calls SET answered = 1, mailbox = max(mailbox, ?) WHERE ref = ?", (int(mailbox), ref))

    def leaves(self, ref: str) -> None:
        """It goes to its fail-safe, without the application."""
        self.ask("UPDATE calls SET state = 'at_fail_safe' WHERE ref = ?", (ref,))

    def end(
        self, ref: str, at: datetime, by: str, fail_safe: FailSafeUse | None, untold: Sequence[EventMessage]
    ) -> None:
        """It is over; `untold` are its last events that could not be delivered."""
        used = fail_safe.model_dump_json() if fail_safe else None
        waiting = json.dumps([one.model_dump(mode="json") for one in untold]) if untold else None
        self.ask(
            "UPDATE calls SET last_at = ?, fail_safe = ?, untold = ? WHERE ref = ?",
            (_text(at), used, waiting, ref),
        )
        self._end(ref, "last_at", by)

    def _end(self, ref: str, column: str, by: str) -> None:
        self.ask(
            f"UPDATE calls SET state = 'over', ended_at = {column}, by = ?,"
            " number = (SELECT COALESCE(MAX(number), 0) + 1 FROM calls) WHERE ref = ? AND state <> 'over'",
            (by, ref),
        )

    def standing(self, ref: str) -> CallStanding:
        """How a call stands."""
        rows = self.ask(f"SELECT state, untold, {_COLUMNS} FROM calls WHERE ref = ?", (ref,))
        if not rows:
            return CallStanding(call=ref, state="unknown")
        state, untold, *record = rows[0]
        if state != "over":
            return CallStanding(call=ref, state=state)
        events = tuple(EventMessage.model_validate(one) for one in json.loads(untold or "[]"))
        return CallStanding(call=ref, state="over", record=_record(record), untold=events)

    def records(self, after: int, since: str, until: str, limit: int, *, fail_safe: bool) -> Records:
        """Calls that are over, from a number on, by their own clock between two moments (empty: any); `fail_safe`: only those
        that went there, or would have. Phones that the application had rung are no calls to its numbers."""
        rows = self.ask(
            f"SELECT {_COLUMNS} FROM calls WHERE state = 'over' AND number > ? AND (? = '' OR at >= ?) AND (? = '' OR at < ?)"
            " AND (? = 0 OR fail_safe IS NOT NULL) AND ref NOT IN (SELECT ref FROM ringings) ORDER BY number LIMIT ?",
            (after, since, since, until, until, int(fail_safe), limit + 1),
        )
        some = tuple(_record(row) for row in rows[:limit])
        return Records(calls=some, last=some[-1].number if some else 0, more=len(rows) > limit)

    def load(self, records: Iterable[tuple[CallRecord, bool, bool]]) -> None:
        """Takes over calls that are over, each with whether it was answered and by a mailbox, for loading a whole world."""
        self.many(
            "INSERT OR REPLACE INTO calls (number, ref, caller, called, at, last_at, ended_at, by, state, reached, answered,"
            " mailbox) VALUES ((SELECT COALESCE(MAX(number), 0) + 1 FROM calls), ?, ?, ?, ?, ?, ?, ?, 'over', 1, ?, ?)",
            [
                (one.call, one.caller, one.called, _text(one.at), _text(one.ended_at), _text(one.ended_at),
                 one.by, int(answered), int(mailbox))
                for one, answered, mailbox in records
            ],
        )  # fmt: skip

    def tally(self) -> dict[str, int]:
        """How many calls were connected, and how many of them with a phone's own mailbox."""
        answered, mailbox = self.ask("SELECT COALESCE(SUM(answered), 0), COALESCE(SUM(mailbox), 0) FROM calls")[0]
        return {"answered": answered, "by_a_mailbox": mailbox}


def _text(moment: datetime) -> str:
    """A moment so written that texts sort as moments do."""
    return moment.astimezone(UTC).isoformat(timespec="milliseconds")


def _record(row: Sequence[Any]) -> CallRecord:
    number, ref, caller, called, at, ended_at, by, reached, fail_safe = row
    used = FailSafeUse.model_validate_json(fail_safe) if fail_safe else None
    return CallRecord.model_validate({
        "number": number, "call": ref, "caller": caller, "called": called, "at": at, "ended_at": ended_at, "by": by,
        "reached": bool(reached), "fail_safe": used,
    })  # fmt: skip
