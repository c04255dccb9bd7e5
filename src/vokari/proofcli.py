"""The commands of the terminal that prove flow files: check, paths."""

import argparse
import json
from collections.abc import Iterator, Mapping
from datetime import datetime
from typing import Any

from . import callscli
from .core.calls.fates import FATE_NAMES, REASONS
from .core.checks import proof
from .core.checks.finding import ORDER, Finding, Inner, Surroundings
from .core.checks.flows import findings
from .core.flows.running.flow import Flow
from .core.flows.shown.outline import numbers
from .core.proof import stored, told, when
from .core.proof.claims import Claims
from .core.proof.examples import Example, keys_of
from .core.proof.walk import Walk
from .core.proof.world import AHEAD, World
from .core.rehearsals import holding
from .formats.flow_file import FlowFile
from .reading import country_of, moment_of, read, tables_of, usage, where_of, zone_option


def add_commands(flow: Any) -> None:
    """Adds the commands to those about flows."""
    check = flow.add_parser("check", help="tell what is wrong with a flow file, walking every way a call can go")
    check.add_argument("--structure", action="store_true", help="look at the structure only: nothing is walked")
    check.set_defaults(run=run_check)
    paths = flow.add_parser(
        "paths", help="every way in which a call to a flow file can end, each with a call that does"
    )
    paths.set_defaults(run=run_paths)
    for one in (check, paths):
        one.add_argument("file")
    for one in (check, paths, *callscli.add_commands(flow)):
        one.add_argument(
            "--zone", type=zone_option, default="America/New_York", help="the client’s time zone, where hours name none"
        )
        one.add_argument("--at", default="", help="from when on, ISO 8601 (now); 13 months are walked")
        one.add_argument("--json", action="store_true", help="print JSON")


def proven(file: FlowFile, options: argparse.Namespace) -> Claims:
    """The walk of a file's flow over the months to come."""
    flow, now = Flow(file.flow, file.materials.flows), moment_of(options)
    return Claims(Walk(flow, World(flow, callscli.client_of(file, options), now, now + AHEAD)))


def run_check(options: argparse.Namespace) -> int:
    """Exit code 1 when the file cannot be read or a finding stops Put live, 2 for a moment that is none."""
    file = read(options.file)
    if file is None:
        return 1
    try:
        now = moment_of(options)
    except ValueError as error:
        return usage("check", error)
    found: Found = [(one, None) for one in _structural(file, options, now)]
    claims = None if options.structure or any(one.weight == "stops" for one, _ in found) else proven(file, options)
    found += [(one, None) for one in holding.findings(callscli.verdicts(file, options, now))]
    found += [(one.finding, one.example) for one in proof.findings(file.flow, claims)] if claims else []
    found.sort(key=lambda pair: ORDER.index(pair[0].weight))
    places = numbers(file.flow)
    if options.json:
        print(json.dumps(_as_json(file, claims, found, places), indent=2, ensure_ascii=False))
    else:
        for one, _ in found:
            where = f"step {places[one.step]}: " if one.step in places else ""
            print(f"{one.weight}: {where}{one.sentence}")
        print(_summary(file, claims, found))
    return 1 if any(one.weight == "stops" for one, _ in found) else 0


Found = list[tuple[Finding, Example | None]]


def _structural(file: FlowFile, options: argparse.Namespace, now: datetime) -> Iterator[Finding]:
    known = file.materials
    boxes = {key: bool(box.tell) for key, box in known.mailboxes.items()}
    flows = {key: Inner(one.name, one) for key, one in known.flows.items()}
    tables = tables_of(file, options.zone)
    around = Surroundings(
        boxes, set(known.sources), (), tables, now, known.people, known.teams, country=country_of(file), where=where_of(file), flows=flows
    )  # fmt: skip
    yield from findings(file.flow, around)


def _summary(file: FlowFile, claims: Claims | None, found: Found) -> str:
    stops = sum(one.weight == "stops" for one, _ in found)
    if stops:
        return f"{file.flow.name}: {stops} {'finding stops' if stops == 1 else 'findings stop'} it."
    if claims is None:
        return f"{file.flow.name}: {len(file.flow.steps)} steps, nothing wrong with the structure; nothing was walked."
    until = f"{claims.walk.world.times.until.astimezone(claims.walk.world.times.zone):%Y-%m-%d}"
    if not claims.proven:
        return f"{file.flow.name}: not everything was walked: {'; '.join(claims.walk.unwalked)}."
    return f"{file.flow.name}: {len(file.flow.steps)} steps, every way a call can go was walked until {until}: no caller is lost."


def _as_json(file: FlowFile, claims: Claims | None, found: Found, places: Mapping[str, int]) -> dict[str, Any]:
    rows = [
        {
            "code": one.kind, "severity": one.weight, "sentence": one.sentence, "step": one.step, "row": places.get(one.step), "exit": one.exit,
            "example": _call(example) if example else None,
        }
        for one, example in found
    ]  # fmt: skip
    walked = (
        {
            "proven": claims.proven,
            "until": claims.walk.world.times.until.isoformat(),
            "not_walked": claims.walk.unwalked,
        }
        if claims
        else None
    )
    return {"flow": file.flow.name, "findings": rows, "proof": walked}


def _call(example: Example) -> dict[str, Any]:
    return {"at": example.at.isoformat(), "keys": keys_of(example), "happens": told.steps_of(example)}


def run_paths(options: argparse.Namespace) -> int:
    """Exit code 1 when the file cannot be read or not everything was walked, 2 for a moment that is none."""
    file = read(options.file)
    if file is None:
        return 1
    try:
        claims = proven(file, options)
    except ValueError as error:
        return usage("paths", error)
    if options.json:
        shown = stored.dump_claims(claims)
        print(json.dumps({"flow": file.flow.name, **shown}, indent=2, ensure_ascii=False))
        return 0 if claims.proven else 1
    times, places = claims.walk.world.times, numbers(file.flow)
    for end in claims.ways:
        why = "as the caller chose" if end.came.fate == "lost" and end.declined else REASONS.get(end.came.reason, "")
        at = f" at step {places[end.at]}" if end.at in places else ""
        often = ", only calls to ".join([claims.when(end), *([", ".join(to)] if (to := claims.only_to(end)) else [])])
        print(f"{FATE_NAMES[end.came.fate]}{f' ({why})' if why else ''}{at}, {often}")
        print(
            f"  {when.moment(end.example.at, times.zone)}: {', '.join(told.steps_of(end.example)) or 'nothing is pressed'}"
        )
    for one in claims.partly:
        print(f"no call of up to {claims.walk.world.longest} comes to step {places[one.step]}, {one.never}")
    for words in claims.walk.unwalked:
        print(f"not walked: {words}")
    return 0 if claims.proven else 1
