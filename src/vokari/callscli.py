"""The commands of the terminal that run calls through flow files: rehearse, compare, cover."""

import argparse
import json
from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Any

from .core.calls.fates import FATE_NAMES
from .core.flows.conditions.base import Names
from .core.flows.model.document import FlowDocument
from .core.flows.running.flow import Flow
from .core.flows.shown.reasons import fact_as_case
from .core.people import uses
from .core.proof import stored
from .core.proof.changes import changes
from .core.proof.cover import Covered, Covers
from .core.proof.sentences import sentences
from .core.proof.when import moment
from .core.proof.world import AHEAD, Client
from .core.rehearsals import holding, moments
from .core.rehearsals.calls import Setting
from .formats.flow_file import FlowFile
from .reading import country_of, moment_of, read, tables_of, usage, where_of

WEEK = timedelta(days=7)


def add_commands(flow: Any) -> list[argparse.ArgumentParser]:
    """Adds the commands to those about flows, and gives them for the options that all share."""
    rehearse = flow.add_parser("rehearse", help="run the rehearsals that are kept in a flow file")
    rehearse.set_defaults(run=run_rehearse)
    compare = flow.add_parser(
        "compare", help="what changes for callers from one flow file to another, the largest first"
    )
    compare.set_defaults(run=run_compare)
    cover = flow.add_parser(
        "cover", help="who is rung when, and what follows if nobody answers: a week, then exceptions"
    )
    cover.set_defaults(run=run_cover)
    for one in (rehearse, compare, cover):
        one.add_argument("file")
    compare.add_argument("after", help="the file that comes after it")
    return [rehearse, compare, cover]


def client_of(file: FlowFile, options: argparse.Namespace) -> Client:
    """What a file says of its client."""
    return Client(options.zone, tables_of(file, options.zone), file.materials.people, file.materials.teams)


def verdicts(file: FlowFile, options: argparse.Namespace, now: datetime) -> list[holding.Verdict]:
    """What comes of the rehearsals that are kept in a file."""
    setting = Setting(client_of(file, options), now, _names(file), where_of(file))
    return holding.verdicts(Flow(file.flow, file.materials.flows), setting)


def _names(file: FlowFile) -> Names:
    people = {key: one.name for key, one in file.materials.people.items()}
    sources = {key: one.name for key, one in file.materials.sources.items()}
    return Names(people=people, sources=sources, country=country_of(file))


def run_rehearse(options: argparse.Namespace) -> int:
    """Exit code 1 when the file cannot be read or a rehearsal fails, 2 for a moment that is none."""
    file = read(options.file)
    if file is None:
        return 1
    try:
        found = verdicts(file, options, moment_of(options))
    except ValueError as error:
        return usage("rehearse", error)
    failing = [one for one in found if not one.holds]
    if options.json:
        rows = [
            {"id": one.kept.id, "name": one.kept.name, "holds": one.holds, "misses": list(one.misses)} for one in found
        ]
        print(json.dumps({"flow": file.flow.name, "rehearsals": rows}, indent=2, ensure_ascii=False))
    else:
        for one in failing:
            print(f"fails: {one.kept.name}, {moments.in_words(one.kept.when)}: {' '.join(one.misses)}")
        print(f"{file.flow.name}: {len(found) - len(failing)} hold, {len(failing)} fail.")
    return 1 if failing else 0


def run_compare(options: argparse.Namespace) -> int:
    """Exit code 1 when a file cannot be read or not everything was compared, 2 for a moment that is none."""
    before, after = read(options.file), read(options.after)
    if before is None or after is None:
        return 1
    try:
        now = moment_of(options)
    except ValueError as error:
        return usage("compare", error)
    named = [
        pair
        for file in (before, after)
        for kind in (file.materials.mailboxes, file.materials.sources)
        for pair in kind.items()
    ]
    sides = [(Flow(_shown(file), file.materials.flows), client_of(file, options)) for file in (before, after)]
    found = changes(sides[0], sides[1], now, now + AHEAD, {key: one.name for key, one in named})
    names = _names(after)
    told = [one.text for one in sentences(found, lambda asked, answer: fact_as_case(asked, answer, names))]
    if options.json:
        shown = {"changes": told, "not_compared": found.abreast.unwalked}
        print(json.dumps(shown, indent=2, ensure_ascii=False))
        return 0 if found.compared else 1
    for sentence in told:
        print(sentence)
    for why in found.abreast.unwalked:
        print(f"not compared: {why}")
    if found.compared and not told:
        print("Nothing changes for any caller.")
    return 0 if found.compared else 1


def _shown(file: FlowFile) -> FlowDocument:
    """The flow of a file with people and teams under their names."""
    known = file.materials
    names = {key: one.name for key, one in known.people.items()}
    return uses.named(file.flow, names | {key: one.name for key, one in known.teams.items()})


def run_cover(options: argparse.Namespace) -> int:
    """Exit code 1 when the file cannot be read or not everything was walked, 2 for a moment that is none."""
    from .proofcli import proven

    file = read(options.file)
    if file is None:
        return 1
    try:
        claims = proven(file, options)
    except ValueError as error:
        return usage("cover", error)
    covers = Covers(claims.walk)
    if options.json:
        print(json.dumps({"flow": file.flow.name, **stored.dump_cover(covers)}, indent=2, ensure_ascii=False))
    else:
        for line in _lines(covers):
            print(line)
    return 0 if claims.proven else 1


def _lines(covers: Covers) -> Iterator[str]:
    times = covers.walk.world.times
    yield from (_line(one, covers) for one in covers.between(times.since, times.since + WEEK))
    for exceptional in covers.exceptions:
        days = ", ".join(day.isoformat() for day in exceptional.days)
        yield f"{exceptional.name or 'an exception'}: {days}"
        yield from (f"  {_line(one, covers)}" for one in exceptional.stretches)


def _line(one: Covered, covers: Covers) -> str:
    zone = covers.walk.world.times.zone
    who = ", ".join(one.cover.who) or "nobody"
    fate = f"; if nobody answers: {FATE_NAMES[one.cover.fate]}" if one.cover.fate in FATE_NAMES else ""
    sign = "gap: " if one.cover.is_gap else "thin: " if one.cover.is_thin else ""
    return f"{moment(one.since, zone)} to {moment(one.until, zone)}: {sign}{who}{fate}"
