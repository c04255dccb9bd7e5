"""Flow files as the terminal reads them, with what they say of their client."""

import argparse
import sys
from datetime import UTC, datetime
from pathlib import Path
from zoneinfo import ZoneInfo

from .core.agency.zones import zone_of
from .core.hours.timetable import Timetable
from .core.places.whereabouts import Whereabouts
from .formats import flow_file


def zone_option(name: str) -> ZoneInfo:
    """A time zone as an option names it."""
    zone = zone_of(name)
    if zone is None:
        raise argparse.ArgumentTypeError(f"there is no time zone {name}")
    return zone


def tables_of(file: flow_file.FlowFile, zone: ZoneInfo) -> dict[str, Timetable]:
    """The hours of a file, made ready, by the key that its flow names them by."""
    return {
        key: Timetable(one, ZoneInfo(one.time_zone) if one.time_zone else zone)
        for key, one in file.materials.hours.items()
    }


def read(path: str) -> flow_file.FlowFile | None:
    """The file, or None after its mistakes were printed."""
    try:
        text = sys.stdin.read() if path == "-" else Path(path).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        print(f"{path}: cannot be read: {error}", file=sys.stderr)
        return None
    file = flow_file.read(text)
    mistakes = file if isinstance(file, list) else flow_file.wrong_in(file)
    for mistake in mistakes:
        print(f"{path}: {mistake}", file=sys.stderr)
    return None if mistakes or isinstance(file, list) else file


def country_of(file: flow_file.FlowFile) -> str:
    """The country that a file is for, by the English that its flow speaks; it says nothing else of it."""
    return "GB" if file.flow.language == "en-GB" else "US"


def where_of(file: flow_file.FlowFile) -> Whereabouts:
    """The places of a file’s client."""
    return Whereabouts(file.materials.places, country_of(file))


def moment_of(options: argparse.Namespace) -> datetime:
    """The moment from which on a file is looked at: that of the option, in its zone if it names none, or now. Raises ValueError for none."""
    at = datetime.fromisoformat(options.at) if options.at else datetime.now(UTC)
    return at if at.tzinfo else at.replace(tzinfo=options.zone)


def usage(command: str, error: ValueError) -> int:
    """Says what is wrong with how a command was called; its exit code."""
    print(f"vokari flow {command}: {error}", file=sys.stderr)
    return 2
