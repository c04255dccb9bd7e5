"""The commands of the terminal that are about flows: call, simulate, export, import; those of the proof are in `proofcli`."""

import argparse
import json
import sys
from collections import Counter
from datetime import UTC, date, datetime, timedelta
from functools import partial
from pathlib import Path
from typing import Any

from . import proofcli
from .core.callers.past import Past
from .core.calls import fates
from .core.flows.questions.facts import Touch
from .core.flows.running import commands as core_commands
from .core.flows.running import engine
from .core.flows.running.answering import answer_source
from .core.flows.running.facts import Caller
from .core.flows.shown.events import event_words
from .core.numbers import numbering
from .core.people.line_up import Around, Staff
from .core.traffic.callers import PhoneHabit
from .core.traffic.line import CallRun, Message, Phone, ScriptedCaller, run_call
from .core.traffic.pacing import BEHAVIORS
from .core.traffic.season import Line, season
from .core.traffic.waits import Waits
from .formats import flow_file
from .reading import read, tables_of, where_of, zone_option
from .settings import from_environment


def add_commands(commands: Any) -> None:
    """Adds the commands to the parser's."""
    flow = commands.add_parser("flow", help="flow files and flows").add_subparsers(required=True, metavar="WHAT")

    proofcli.add_commands(flow)

    call = flow.add_parser("call", help="make one call through a flow and print what happens")
    call.add_argument("file")
    call.add_argument("--at", default="", help="when, ISO 8601 (now)")
    call.add_argument(
        "--zone", type=zone_option, default="America/New_York", help="the client’s time zone, where hours name none"
    )
    call.add_argument("--from", dest="caller", default="", help="the caller’s number (withheld)")
    call.add_argument("--to", dest="called", default="", help="the number dialed")
    call.add_argument("--press", default="", help="keys with their seconds: 1@6,2@14.5")
    call.add_argument("--phones", default="", help="what phones do: NUMBER=answers:6:30,NUMBER=busy,*=rings_out")
    call.add_argument("--hangs-up", type=float, default=None, help="the caller hangs up at this second")
    call.add_argument("--message", type=float, default=8.0, help="seconds of voice left at a voicemail")
    call.add_argument("--json", action="store_true", help="print the transcript as JSON")
    call.set_defaults(run=run_call_command)

    simulate = commands.add_parser("simulate", help="many made-up calls through a flow, and what became of them")
    simulate.add_argument("file")
    simulate.add_argument("--days", type=int, default=30)
    simulate.add_argument("--calls-a-day", type=float, default=20.0)
    simulate.add_argument("--seed", type=int, default=1)
    simulate.add_argument("--zone", type=zone_option, default="America/New_York")
    simulate.add_argument("--json", action="store_true")
    simulate.set_defaults(run=run_simulate)

    export = flow.add_parser("export", help="write a flow of the database as a flow file")
    export.add_argument("flow", type=int)
    export.add_argument("--user", required=True, help="the email address of who asks")
    export.set_defaults(run=run_export)

    bring = flow.add_parser("import", help="make a new flow of a client from a flow file")
    bring.add_argument("file")
    bring.add_argument("--client", type=int, required=True)
    bring.add_argument("--user", required=True, help="the email address of who asks")
    bring.add_argument("--name", default="", help="another name for the flow")
    bring.add_argument("--new", action="store_true", help="make what the client has none of; else it is left open")
    bring.set_defaults(run=run_import)


def run_call_command(options: argparse.Namespace) -> int:
    file = read(options.file)
    if file is None:
        return 1
    try:
        script = read_script(options.press, options.phones)
        at = datetime.fromisoformat(options.at) if options.at else datetime.now(UTC)
    except ValueError as error:
        print(f"vokari flow call: {error}", file=sys.stderr)
        return 2
    for typed in (options.caller, options.called):
        problem = numbering.problem_of(typed) if typed else ""
        if problem:
            print(f"vokari flow call: {typed}: {problem}", file=sys.stderr)
            return 2
    press, phones, others = script
    caller = ScriptedCaller(
        press, options.hangs_up, Message(options.message, "hang_up" if options.message else "silence")
    )
    everyone = dict.fromkeys(_numbers(file), others) | phones
    flow = engine.prepare(file.flow, file.materials.flows)
    at = at if at.tzinfo else at.replace(tzinfo=options.zone)
    tables = tables_of(file, options.zone).get
    around = Around(at, options.zone, tables, lambda numbers: (), file.materials.people, file.materials.teams)
    source = answer_source(
        flow,
        at,
        options.zone,
        tables,
        lambda numbers: (),
        Staff(lambda: around, lambda step: step.id),
        lambda step, question: Waits().turn(step, question, around),
        caller=Caller(
            options.caller,
            partial(Touch, options.called),
            lambda: Past(at, known=bool(options.caller)),
            partial(where_of, file),
            sign=options.caller or "withheld",
            secret=b"one call",
        ),
    )
    run = run_call(flow, caller, everyone, source=source)
    end = fates.ending(run.state, run.seconds)
    lines = transcript(file, run)
    if options.json:
        head = {"flow": file.flow.name, "at": at.isoformat(), "from": options.caller, "to": options.called}
        result = {"fate": end.fate, "reason": end.reason, "seconds": run.seconds, "source": run.state.source}
        print(
            json.dumps(
                {**head, **result, "labels": run.state.labels, "transcript": lines}, indent=2, ensure_ascii=False
            )
        )
        return 0
    for line in lines:
        print(f"{line['at']:7.1f} s  {line['what']}")
    why = f" ({fates.REASONS[end.reason]})" if end.reason else ""
    print(f"{run.seconds:7.1f} s  {fates.FATE_NAMES[end.fate]}{why}")
    return 0


def read_script(press: str, phones: str) -> tuple[tuple[tuple[float, str], ...], dict[str, Phone], Phone]:
    """Keys and phones as the options write them. Raises ValueError with a sentence."""
    keys = []
    for part in (one.strip() for one in press.split(",") if one.strip()):
        key, _, second = part.partition("@")
        if len(key) != 1 or key not in "0123456789*#" or not second:
            raise ValueError(f"“{part}” is no key with its second, as in 1@6")
        keys.append((float(second), key))
    behaviors: dict[str, Phone] = {}
    for part in (one.strip() for one in phones.split(",") if one.strip()):
        number, _, what = part.partition("=")
        behavior, *times = what.split(":")
        if behavior not in BEHAVIORS:
            raise ValueError(f"“{behavior}” is none of {', '.join(BEHAVIORS)}")
        seconds = [float(one) for one in times[:2]]
        behaviors[number] = Phone(behavior, *seconds)  # type: ignore[arg-type]
    return tuple(keys), behaviors, behaviors.pop("*", Phone("rings_out"))


def _numbers(file: flow_file.FlowFile) -> list[str]:
    destinations = (
        one for step in file.flow.steps for one in getattr(step, "to", None) or () if not isinstance(one, str)
    )
    people = [phone.to for person in file.materials.people.values() for phone in person.phones]
    return [*(one.number for one in destinations if getattr(one, "number", "")), *people]


def transcript(file: flow_file.FlowFile, run: CallRun) -> list[dict[str, Any]]:
    """What happened, line by line, with the second and the step."""
    steps = {step.id: step.called for step in file.flow.steps}
    rung = [one for entry in run.log for one in entry.commands if isinstance(one, core_commands.RingLeg)]
    phones = {one.id: one.destination.name or one.destination.dialed for one in rung}
    lines = []
    for entry in run.log:
        said = event_words(entry.event, phones)
        if said:
            what = said if said.startswith(tuple(phones.values())) else said[0].lower() + said[1:]
            lines.append({"at": entry.at, "step": steps.get(entry.state.at, ""), "what": what})
        for command in entry.commands:
            lines.append({"at": entry.at, "step": steps.get(entry.state.at, ""), "what": command_words(command)})
    return lines


def command_words(command: core_commands.Command) -> str:
    """A command in words."""
    match command:
        case core_commands.Play():
            return f"says “{command.prompt.say}”"
        case core_commands.Listen():
            return f"waits {command.seconds} s for a key"
        case core_commands.RingLeg():
            return f"rings {command.destination.name or command.destination.dialed} for {command.seconds} s"
        case core_commands.Drop():
            return "stops ringing a phone"
        case core_commands.Connect():
            return "caller and person talk"
        case core_commands.Record():
            return "records a message"
        case core_commands.Timer():
            return f"sets a limit of {command.seconds} s"
    return "ends the call"


def run_simulate(options: argparse.Namespace) -> int:
    file = read(options.file)
    if file is None:
        return 1
    zone = options.zone
    last = date(2026, 1, 1) + timedelta(days=options.days - 1)
    line = Line(
        "+14105550100", engine.prepare(file.flow, file.materials.flows), options.calls_a_day, date(2026, 1, 1), last
    )
    habits = {number: PhoneHabit() for number in _numbers(file)}
    until = datetime.combine(last + timedelta(days=1), datetime.min.time(), zone)
    found: Counter[tuple[str, str]] = Counter()
    callers = [f"+14105550{n}" for n in range(180, 199)]
    known = file.materials
    for call in season(
        options.seed, zone, [line], habits, callers, until, tables=tables_of(file, zone).get, people=known.people,
        teams=known.teams, where=where_of(file),
    ):  # fmt: skip
        end = fates.ending(call.run.state, call.run.seconds)
        found[end.fate, end.reason] += 1
    total = sum(found.values())
    if options.json:
        rows = [{"fate": fate, "reason": reason, "calls": n} for (fate, reason), n in found.most_common()]
        print(json.dumps({"calls": total, "fates": rows}, indent=2))
        return 0
    print(f"{total:6d} calls in {options.days} days")
    for (fate, reason), n in found.most_common():
        why = f": {fates.REASONS[reason]}" if reason else ""
        print(f"{n:6d} {n / total:5.1%}  {fate.replace('_', ' ')}{why}")
    return 0


def _acting(email: str) -> tuple[Any, Any] | None:
    from .wiring import build
    from .work.agency.accounts import actor_by_email

    house = build(from_environment())
    actor = actor_by_email(house, email)
    if actor is None:
        print(f"vokari: nobody signs in as {email}", file=sys.stderr)
        return None
    return house, actor


def run_export(options: argparse.Namespace) -> int:
    from .work.agency import access
    from .work.flows import files

    acting = _acting(options.user)
    if acting is None:
        return 1
    try:
        sys.stdout.write(files.export(acting[0], acting[1], files.client_of(acting[0], options.flow), options.flow))
    except (access.NotFound, access.NotAllowed):
        print(f"vokari: there is no flow {options.flow} for {options.user}", file=sys.stderr)
        return 1
    return 0


def run_import(options: argparse.Namespace) -> int:
    from .work.agency import access
    from .work.flows import bringing

    acting = _acting(options.user)
    if acting is None:
        return 1
    try:
        text = Path(options.file).read_text(encoding="utf-8")
        looked = bringing.look(*acting, options.client, text)
        result = bringing.bring_in(
            *acting, options.client, text, options.name, rest=bringing.NEW if options.new else bringing.OPEN
        )
    except (access.NotFound, access.NotAllowed):
        print(f"vokari: there is no client {options.client} for {options.user}", file=sys.stderr)
        return 1
    except (OSError, UnicodeDecodeError) as error:
        print(f"{options.file}: cannot be read: {error}", file=sys.stderr)
        return 1
    if isinstance(result, list):
        for mistake in result:
            print(f"{options.file}: {mistake}", file=sys.stderr)
        return 1
    for one in looked.offered if isinstance(looked, bringing.Looked) else ():
        made = options.new and one.chosen == bringing.OPEN and one.can_be_made
        print(f"{one.thing.name}: {'made' if made else dict(one.known).get(one.chosen[3:], 'left open')}")
        for sentence in (*one.wrong, *one.notes):
            print(f"  {sentence}")
    print(f"{result.name} is flow {result.id}, a draft that is not live yet.")
    return 0
