"""What conditions on the caller's past and place add to call control, at the size of a large agency."""

import itertools
import json
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import psycopg
from sqlalchemy import text

from vokari.core.flows.model.document import FlowDocument
from vokari.formats.call_control.messages import EventMessage
from vokari.work.calls import live_calls
from vokari.work.calls.folding import Answered
from vokari.work.calls.live_calls import CarrierIdentity
from vokari.work.numbers.numbers import CARRIER

from ..rounds import Compared, compare
from ..town import Town
from .agency import LargeAgency

CALLS = 300
NUMBER = {True: "+12025550100", False: "+12025550101"}
ASKED: tuple[dict[str, Any], ...] = (
    {"test": "called", "any_of": ["lost"], "days": 2}, {"test": "called", "at_least": 90, "days": 400},
    {"test": "last_spoke_with", "any_of": ["nobody"]}, {"test": "within", "of": "bay"}, {"test": "nearest_location", "of": "places", "any_of": ["moor"]},
)  # fmt: skip
PLACES = {
    "places": [{"key": "yard", "name": "Yard", "postal_code": "21401"}, {"key": "moor", "name": "Moor", "postal_code": "99501"}],
    "areas": [{"key": "bay", "name": "Bay", "codes": ["99501"]}],
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Measured:
    """Events a second with and without the conditions, and of how many earlier calls each caller has at least."""

    rates: Compared
    events: int


def measure(town: Town, large: LargeAgency, url: str) -> Measured:
    """Whole calls of callers whom the largest client knows, by turns through two flows that differ by one junction's conditions: those
    that ask for the past and the place, none of which holds, and dates that are past."""
    with psycopg.connect(url) as connection:
        _prepare(connection, large)
        row = connection.execute(
            "SELECT array_agg(caller) FROM (SELECT caller FROM callers WHERE client_id = %s ORDER BY caller LIMIT %s) c",
            (large.largest, CALLS),
        ).fetchone()
    callers: list[str] = row[0] if row else []
    with town.house.engine.connect() as database:
        carrier = CarrierIdentity(
            int(database.scalar(text("SELECT id FROM carriers WHERE name = :name"), {"name": CARRIER}) or 0), True
        )
    numbers = itertools.count()

    def run(asking: bool) -> int:
        done = 0
        for caller in callers:
            done += _call(town, carrier, f"sorting-{next(numbers)}", caller, NUMBER[asking])
        return done

    run(asking=True)
    return Measured(compare(lambda: run(asking=True), lambda: run(asking=False)), 5 * len(callers))


def _prepare(connection: psycopg.Connection[Any], large: LargeAgency) -> None:
    places = {**PLACES, "codes": []}
    connection.execute(
        "INSERT INTO client_places (agency_id, client_id, document, revision) VALUES (%s, %s, %s, 0)",
        (large.id, large.largest, json.dumps(places)),
    )
    for asking, e164 in NUMBER.items():
        document = _flow(asking).model_dump_json()
        flow = _one(
            connection,
            "INSERT INTO flows (agency_id, client_id, key, draft, revision, stated) VALUES (%s, %s, %s, %s, 0, '{}') RETURNING id",
            large.id, large.largest, f"fl_sorting_{asking}".lower(), document,
        )  # fmt: skip
        version = _one(
            connection,
            "INSERT INTO flow_versions (agency_id, flow_id, number, document, revision, made_by, made_at)"
            " SELECT agency_id, id, 1, draft, 0, (SELECT id FROM users WHERE agency_id = flows.agency_id LIMIT 1), now() FROM flows WHERE id = %s"
            " RETURNING id",
            flow,
        )  # fmt: skip
        connection.execute("UPDATE flows SET live_version_id = %s WHERE id = %s", (version, flow))
        connection.execute(
            "UPDATE tracking_numbers SET flow_id = %s, e164 = %s, state = 'in_service' WHERE id = (SELECT id FROM tracking_numbers"
            " WHERE client_id = %s AND flow_id IS DISTINCT FROM %s AND e164 <> ALL(%s) AND state = 'in_service' ORDER BY id LIMIT 1)",
            (flow, e164, large.largest, flow, list(NUMBER.values())),
        )
    connection.commit()


def _one(connection: psycopg.Connection[Any], query: str, *values: object) -> int:
    row = connection.execute(query.encode(), values).fetchone()
    assert row
    return int(row[0])


def _flow(asking: bool) -> FlowDocument:
    """An announcement, the junction, a menu, a phone, a voicemail: what a call usually meets."""
    tests = ASKED if asking else ({"test": "dates", "any_of": ["2001-01-01"]},) * len(ASKED)
    branches = [{"id": f"b{n}", "when": one, "to": "vm"} for n, one in enumerate(tests)]
    steps: list[dict[str, Any]] = [
        {"kind": "announcement", "id": "hello", "prompt": {"say": "Hello"}, "next": "sort"},
        {"kind": "junction", "id": "sort", "branches": branches, "otherwise": "menu"},
        {"kind": "menu", "id": "menu", "prompt": {"say": "Press 1"}, "branches": [{"id": "k", "keys": "1", "to": "ring"}], "nothing": "vm", "wrong": "vm"},
        {"kind": "ring", "id": "ring", "to": [{"kind": "number", "id": "d", "number": "+12025550160", "seconds": 20}], "no_answer": "vm"},
        {"kind": "voicemail", "id": "vm", "mailbox": "mb", "greeting": {"say": "Leave word"}},
    ]  # fmt: skip
    name = f"Sorting, {'asking' if asking else 'not asking'}"
    return FlowDocument.model_validate({"name": name, "mark": "SO", "start": "hello", "rescue": "vm", "steps": steps})


def _call(town: Town, carrier: CarrierIdentity, ref: str, caller: str, called: str) -> int:
    """One call: heard, sorted, a key, a phone that answers, the end; gives the count of events."""
    at = town.house.now()
    commands = _event(town, carrier, ref, 1, at, {"type": "call_arrived", "caller": caller, "called": called})
    heard = {"type": "prompt_finished", "command": commands[0]["id"]}
    _event(town, carrier, ref, 2, at + timedelta(seconds=2), heard)
    rung = _event(town, carrier, ref, 3, at + timedelta(seconds=4), {"type": "digit", "key": "1"})
    leg = {"type": "leg", "command": rung[0]["id"], "outcome": "answered"}
    _event(town, carrier, ref, 4, at + timedelta(seconds=9), leg)
    _event(town, carrier, ref, 5, at + timedelta(seconds=60), {"type": "caller_gone"})
    return 5


def _event(
    town: Town, carrier: CarrierIdentity, ref: str, seq: int, at: datetime, event: dict[str, Any]
) -> list[dict[str, Any]]:
    body = json.dumps({"call": ref, "seq": seq, "at": at.isoformat(), "event": event}).encode()
    answer = live_calls.receive(town.house, carrier, EventMessage.model_validate_json(body), body)
    assert isinstance(answer, Answered), answer
    return answer.commands
