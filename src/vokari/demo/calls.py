"""Makes one client's ninety days of calls with the simulator and copies them into the history."""

import hashlib
import itertools
import json
import random
import uuid
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import partial
from typing import Any
from zoneinfo import ZoneInfo

import psycopg

from ..core.calls.passages import Place, passages
from ..core.flows.model.document import FlowDocument
from ..core.flows.questions.facts import Touch
from ..core.flows.ready.fallback import fallback_flow
from ..core.flows.running import commands, engine
from ..core.flows.running.steps.voicemail import MESSAGE_SECONDS
from ..core.hours.timetable import Timetable
from ..core.places.whereabouts import Whereabouts
from ..core.traffic.callers import PhoneHabit
from ..core.traffic.season import Line, MadeCall, season
from ..formats import call_log
from ..formats.call_control.records import CallRecord
from ..formats.call_control.sending import sounds_of
from ..wiring import CarrierOverHttp, carrier_token
from ..work.calls import rollups
from ..work.calls.closing import COLUMNS, call_row, talk_seconds
from . import people
from .jobs import ClientJob, LineJob

AT_ONCE = 5000
DEALT_WITH_AFTER = timedelta(hours=26)
"""What an answering service took longer ago, somebody has dealt with."""


def make_calls(job: ClientJob) -> int:
    """Runs in a process of its own; gives the count of calls that were made."""
    made = list(_made(job))
    _tell_carrier(job, made)
    with psycopg.connect(job.settings.database_url.replace("+psycopg", "")) as connection:
        with connection.cursor().copy(f"COPY calls ({', '.join(COLUMNS)}) FROM STDIN") as copy:
            for row, _, _, _ in made:
                copy.write_row([row[column] for column in COLUMNS])
        with connection.cursor().copy(
            "COPY call_logs (call_id, started_at, agency_id, carrier_id, ref, entries) FROM STDIN"
        ) as copy:
            for row, entries, _, _ in made:
                copy.write_row(
                    (
                        row["id"],
                        row["started_at"],
                        job.agency_id,
                        job.carrier_id,
                        str(row["id"].hex),
                        json.dumps(entries),
                    )
                )
        for adding in rollups.from_calls("client_id = %s"):
            connection.execute(adding, (job.client_id,))
        _passages(connection, made)
        _messages(connection, job, made)
        connection.execute(
            "INSERT INTO service_calls (call_id, agency_id, client_id, at, dealt_at, user_id) SELECT id, agency_id, client_id, started_at,"
            " CASE WHEN started_at < %s THEN started_at + interval '9 hours' END, CASE WHEN started_at < %s THEN %s::bigint END FROM calls"
            " WHERE client_id = %s AND reason = 'service' AND NOT test",
            (job.until - DEALT_WITH_AFTER, job.until - DEALT_WITH_AFTER, job.user_id, job.client_id),
        )
    return len(made)


Made = tuple[dict[str, Any], list[dict[str, Any]], Any, bool]
"""A call's row, its log, what was true when it arrived, and whether a phone's own mailbox took it."""


def _tell_carrier(job: ClientJob, made: list[Made]) -> None:
    """Hands the calls to the carrier stand-in, as if it had carried them: it alone knows which a mailbox took."""
    carrier = CarrierOverHttp(job.settings.carrier_url, carrier_token(job.settings.secret()))
    numbers = {line.number_id: line.e164 for line in job.lines}
    records = [
        (
            CallRecord(
                number=1, call=row["id"].hex, caller=row["caller"] or None, called=numbers[row["number_id"]], at=row["started_at"],
                ended_at=row["started_at"] + timedelta(seconds=row["seconds"]), by="caller", reached=True,
            ),
            row["fate"] == "answered", mailbox,
        )
        for row, _, _, mailbox in made
    ]  # fmt: skip
    for start in range(0, len(records), AT_ONCE):
        carrier.load_calls(records[start : start + AT_ONCE])


def _made(job: ClientJob) -> Iterator[Made]:
    zone = ZoneInfo(job.zone)
    today = job.until.astimezone(zone).date()
    fallback = engine.prepare(_fallback(job))
    lines = [
        Line(
            line.e164, engine.prepare(line.document, job.inner) if line.document else fallback, line.calls_a_day,
            today - timedelta(days=line.first_ago), today - timedelta(days=line.last_ago), partial(_touch, job, line),
        )
        for line in job.lines
    ]  # fmt: skip
    habits = {number: habit for number, habit in job.habits.items() if isinstance(habit, PhoneHabit)}
    callers = people.CALLERS_GB if job.country == "GB" else _callers(job)
    ids = random.Random(job.seed + 1)
    tables = {
        key: Timetable(hours, ZoneInfo(hours.time_zone or job.zone), shared)
        for key, (hours, shared) in job.tables.items()
    }
    until = job.until - timedelta(minutes=30)
    for call in season(
        job.seed,
        zone,
        lines,
        habits,
        callers,
        until,
        _speaking(job),
        tables.get,
        job.people,
        job.teams,
        Whereabouts(job.places, job.country),
    ):
        ago = (today - call.at.astimezone(zone).date()).days
        line = next(one for one in job.lines if one.e164 == call.number and one.last_ago <= ago <= one.first_ago)
        yield _row(job, line, call, ids)


def _touch(job: ClientJob, line: LineJob, at: datetime) -> Touch:
    """The touch of a call to a number, by the lead source that it had then."""
    return replace(job.touches[_source_of(line, at)], number=line.e164)


def _source_of(line: LineJob, at: datetime) -> int:
    return next(source for since, source in reversed(line.holdings) if since <= at)


def _fallback(job: ClientJob) -> FlowDocument:
    """What runs on a number without a flow: the client's fail-safe."""
    return fallback_flow(sorted(job.habits)[0], "en-GB" if job.country == "GB" else "en-US")


def _callers(job: ClientJob) -> tuple[str, ...]:
    """Callers of the client's own area code come three times as often as those from elsewhere."""
    code = job.lines[0].e164[:5]
    local = tuple(number for number in people.CALLERS_US if number.startswith(code))
    return people.CALLERS_US + local * 24


def _speaking(job: ClientJob) -> Any:
    def seconds(play: commands.Play) -> float:
        made = [job.lengths.get(name, 0.0) for name in sounds_of(play, job.country)]
        return sum(made) if made and all(made) else max(1.0, len(play.prompt.say.split()) * 0.4)

    return seconds


def _row(job: ClientJob, line: LineJob, call: MadeCall, ids: random.Random) -> Made:
    at = call.at.astimezone(UTC)
    source_id = _source_of(line, at)
    live = {
        "id": _call_id(at, ids), "started_at": at, "agency_id": job.agency_id, "client_id": job.client_id,
        "version_id": line.version_id,
        "context": {
            "caller": call.caller, "number_id": line.number_id, "flow_id": line.flow_id, "source_id": source_id,
            "sources": job.sources, "test": False, "time_zone": job.zone, "late": line.late,
        },
    }  # fmt: skip
    entries: list[dict[str, Any]] = [
        call_log.entry(
            one.seq, (at + timedelta(seconds=one.at)).isoformat(), one.event, one.answers, one.following,
            _sounds(job, one.commands), country=job.country,
        )
        for one in call.run.log
    ]  # fmt: skip
    for entry in entries:
        entry["digest"] = hashlib.sha256(json.dumps(entry["event"]).encode()).hexdigest()
    if line.version_id is None:
        entries[0]["fallback"] = (line.document or _fallback(job)).model_dump(mode="json")
    if line.pins:
        entries[0]["pins"] = line.pins
    numbers = {c["id"]: c["number"] for entry in entries for c in entry["commands"] if c["type"] == "ring"}
    connected = [c["id"] for entry in entries for c in entry["commands"] if c["type"] == "connect"]
    row, _ = call_row(
        live, at + timedelta(seconds=call.run.seconds), call.run.state, entries,
        answered_by=numbers[connected[-1]] if connected else "",
    )  # fmt: skip
    row["talk_seconds"] = talk_seconds(entries)
    return row, entries, live, call.run.mailbox


def _sounds(job: ClientJob, made: tuple[commands.Command, ...]) -> call_log.Sounds:
    """The sounds of the prompts among commands that are made, by name, with their lengths."""
    names = (name for one in made if isinstance(one, commands.Play) for name in sounds_of(one, job.country))
    return {name: job.lengths[name] for name in names if name in job.lengths}


def _call_id(at: datetime, ids: random.Random) -> uuid.UUID:
    """A call's id (UUID version 7) from a seeded generator, so that the world is the same each time."""
    milliseconds = int(at.timestamp() * 1000)
    value = (milliseconds << 80) | (0x7 << 76) | (ids.getrandbits(12) << 64) | (0b10 << 62) | ids.getrandbits(62)
    return uuid.UUID(int=value)


def _passages(connection: psycopg.Connection[Any], made: list[Made]) -> None:
    """How callers passed through the versions. Another client's process counts others."""
    passed: Counter[Place] = Counter()
    gave_up: Counter[Place] = Counter()
    for row, entries, _, _ in made:
        if row["version_id"]:
            pins = entries[0].get("pins") or {}
            more, lost = passages(entries, row["version_id"], pins, lost=row["fate"] == "lost")
            passed += more
            gave_up += lost
    with connection.cursor().copy("COPY flow_passages (version_id, step, exit, calls, gave_up) FROM STDIN") as copy:
        for place in sorted({*passed, *gave_up}):
            copy.write_row((*place, passed[place], gave_up[place]))


def _messages(connection: psycopg.Connection[Any], job: ClientJob, made: list[Made]) -> None:
    """A row for each message that was left; the sounds are a few that were spoken once."""
    boxes = {
        (line.version_id, step.id): getattr(step, "mailbox", "")
        for line in job.lines if line.document for step in engine.prepare(line.document, job.inner).steps.values()
    }  # fmt: skip
    chooser = random.Random(job.seed + 2)
    columns = "agency_id, client_id, call_id, at, mailbox, seconds, recording, file, told"
    with connection.cursor().copy(f"COPY voice_messages ({columns}) FROM STDIN") as copy:
        for row, entries, _, _ in made:
            for before, entry in itertools.pairwise(entries):
                event = entry["event"]
                if event["kind"] == "recorded" and event["voice"] >= MESSAGE_SECONDS:
                    file, _ = chooser.choice(job.sounds)
                    box = boxes.get((row["version_id"], before["step"]), "")
                    copy.write_row(
                        (job.agency_id, job.client_id, row["id"], entry["at"], box, event["voice"], "", file, True)
                    )
