"""The commands of the terminal that are about hours: what holds, what comes next, how long it is open, who covers it."""

import argparse
import json
import sys
from datetime import UTC, datetime, timedelta
from itertools import count
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from .core.hours import words
from .core.hours.cover import cover
from .core.hours.gathered import to_hours
from .core.hours.timetable import Timetable, open_minutes
from .formats import calendar_read, hours_file
from .reading import zone_option
from .work.hours import for_programs


def add_commands(commands: Any) -> None:
    """Adds the commands to the parser's."""
    hours = commands.add_parser("hours", help="hours files and calendars").add_subparsers(required=True, metavar="WHAT")
    for name, run, said in (
        ("at", run_at, "what holds at a moment, and why"), ("next", run_next, "the next changes"),
        ("week", run_week, "the open time a week"), ("cover", run_cover, "where own times leave a client uncovered"),
    ):  # fmt: skip
        command = hours.add_parser(name, help=said)
        command.add_argument("file", help="an hours file (.json) or a calendar (.ics)")
        if name == "cover":
            command.add_argument("own", nargs="+", help="files with the own times of those who answer")
        command.add_argument(
            "--zone", type=zone_option, default="America/New_York", help="the zone, where a file names none"
        )
        command.add_argument("--at", default="", help="when, ISO 8601 (now); without an offset in the file’s own time")
        command.add_argument("--days", type=int, default=14, help="how far ahead")
        command.add_argument("--json", action="store_true", help="print JSON")
        command.set_defaults(run=run)


def read(path: str, zone: ZoneInfo, today: datetime) -> Timetable | None:
    """The hours of a file, made ready; None after its mistakes were printed."""
    try:
        data = sys.stdin.buffer.read() if path == "-" else Path(path).read_bytes()
    except OSError as error:
        print(f"{path}: cannot be read: {error.strerror}", file=sys.stderr)
        return None
    if data.lstrip()[:1] == b"{":
        found = hours_file.read(data.decode("utf-8", "replace"))
        if isinstance(found, list):
            for mistake in found:
                print(f"{path}: {mistake}", file=sys.stderr)
            return None
        return Timetable(found, ZoneInfo(found.time_zone) if found.time_zone else zone)
    calendar = calendar_read.read(data, zone, today.astimezone(zone).date())
    numbers = count(1)
    made = (
        calendar
        if isinstance(calendar, str)
        else to_hours(calendar, calendar.name or "Calendar", (), lambda prefix: f"{prefix}{next(numbers)}")
    )
    if isinstance(made, str) or isinstance(calendar, str):
        print(f"{path}: {made}", file=sys.stderr)
        return None
    for sentence in calendar.left_out:
        print(f"{path}: {sentence}", file=sys.stderr)
    return Timetable(made, zone)


def run_at(options: argparse.Namespace) -> int:
    ready = _ready(options)
    if isinstance(ready, int):
        return ready
    table, at = ready
    if options.json:
        print(json.dumps(for_programs.said_at(table, at), indent=2, ensure_ascii=False))
    else:
        print(f"{at.astimezone(table.zone):%a %Y-%m-%d %H:%M} {table.zone.key}: {words.sentence(table, at)}")
    return 0


def run_next(options: argparse.Namespace) -> int:
    ready = _ready(options)
    if isinstance(ready, int):
        return ready
    table, at = ready
    found = for_programs.said_changes(table, at, at + timedelta(days=options.days), 10_000)
    if options.json:
        print(json.dumps(found, indent=2, ensure_ascii=False))
        return 0
    for one in found:
        why = f" ({one['because_name'] or one['because']})" if one["because"] != "week" else ""
        print(f"{datetime.fromisoformat(one['at']):%a %Y-%m-%d %H:%M}  {one['period_name']}{why}")
    if not found:
        print(f"Nothing changes in {options.days} days.")
    return 0


def run_week(options: argparse.Namespace) -> int:
    ready = _ready(options)
    if isinstance(ready, int):
        return ready
    table, _ = ready
    if options.json:
        print(json.dumps(for_programs.said_open(table), indent=2))
        return 0
    for period in table.hours.periods:
        print(f"{period.name}: {words.length(open_minutes(table.hours.week, period.id))}")
    print(f"in all: {words.length(open_minutes(table.hours.week))}")
    return 0


def run_cover(options: argparse.Namespace) -> int:
    """Exit code 1 too when something is left uncovered."""
    ready = _ready(options)
    if isinstance(ready, int):
        return ready
    table, at = ready
    members = [read(path, options.zone, at) for path in options.own]
    if any(one is None for one in members):
        return 1
    found = cover(table, (), [one for one in members if one is not None], at, at + timedelta(days=options.days))
    if options.json:
        print(json.dumps(for_programs.said_cover(table, found), indent=2))
    else:
        said = [words.length(part.total_seconds() / 60) for part in (found.covered, found.wanted)]
        print(f"{said[0]} of {said[1]} covered in {options.days} days.")
        for since, until in found.gaps:
            a, b = since.astimezone(table.zone), until.astimezone(table.zone)
            print(f"nobody: {a:%a %Y-%m-%d %H:%M} to {b:%a %Y-%m-%d %H:%M}")
    return 1 if found.gaps else 0


def _ready(options: argparse.Namespace) -> tuple[Timetable, datetime] | int:
    """The hours and the moment of the options, or an exit code."""
    try:
        at = datetime.fromisoformat(options.at) if options.at else datetime.now(UTC)
    except ValueError:
        print(f"vokari hours: --at {options.at} is no moment; write 2026-12-24T13:00", file=sys.stderr)
        return 2
    if not 1 <= options.days <= 800 or not 1990 <= at.year <= 2100:
        print("vokari hours: choose a moment from 1990 to 2100, and 1 to 800 days", file=sys.stderr)
        return 2
    table = read(options.file, options.zone, at if at.tzinfo else at.replace(tzinfo=options.zone))
    if table is None:
        return 1
    return table, at if at.tzinfo else at.replace(tzinfo=table.zone)
