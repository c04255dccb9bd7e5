"""Proofs: how long and how large for flows of many steps, against the engine alone; and the nightly proof of the demo world's flows."""

import gc
import itertools
import pickle
import resource
import statistics
import sys
import time
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from vokari.core.flows.conditions.base import Names
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.steps import AnyStep, Menu, Ring
from vokari.core.flows.model.values import Prompt
from vokari.core.flows.running import engine
from vokari.core.flows.running.flow import Flow
from vokari.core.hours.document import Hours, OneOff, Period
from vokari.core.hours.painting import merged
from vokari.core.hours.timetable import Timetable
from vokari.core.hours.typed import read_week
from vokari.core.proof.changes import changes
from vokari.core.proof.claims import Claims
from vokari.core.proof.cover import Covers
from vokari.core.proof.earlier import standing
from vokari.core.proof.sentences import sentences
from vokari.core.proof.stored import dump_claims, dump_cover
from vokari.core.proof.walk import Walk
from vokari.core.proof.world import AHEAD, Client, World
from vokari.core.rehearsals.calls import Setting
from vokari.core.rehearsals.holding import verdicts
from vokari.core.rehearsals.proposed import proposal
from vokari.demo.american import AMERICAN
from vokari.demo.british import BRITISH

from .kept import keep

HEADING = "## Proof"
ZONE = ZoneInfo("America/New_York")
NOW = datetime(2026, 11, 24, 17, tzinfo=UTC)
PERIODS, EXCEPTIONS = 10, 40
FLOWS = 1000
"""Flows of the nightly proof, of the demo world's mix of sizes."""


def hours() -> Timetable:
    """Hours of ten periods and forty exceptions."""
    weeks = []
    for number in range(PERIODS):
        week = read_week(f"Mon-Fri {6 + number}-{7 + number}; Sat {7 + number}-{8 + number}", f"p{number}")
        assert not isinstance(week, str), week
        weeks.append(week)
    first = NOW.date()
    days = [first + timedelta(days=9 * number) for number in range(EXCEPTIONS)]
    exceptions = tuple(
        OneOff(id=f"x{number}", name=f"Closed {number}", first=day, last=day) for number, day in enumerate(days)
    )
    periods = tuple(Period(id=f"p{number}", name=f"Period {number}") for number in range(PERIODS))
    return Timetable(Hours(name="Ten periods", periods=periods, week=merged(weeks), exceptions=exceptions), ZONE)


def flow_of(steps: int, *, again: bool = False) -> FlowDocument:
    """A flow of so many steps, sorted by ten periods at its start; behind each menus of five keys with an announcement before, phones in order and
    a voicemail; what is left over says something first. `again`: every block of ten steps asks for the hours anew and leads on to the next."""
    made: list[dict[str, Any]] = [
        {"kind": "voicemail", "id": "vm", "mailbox": "mb", "message_left": "end", "no_message": "end"}
    ]
    size = 8 if again else 7
    blocks = max(1, (steps - 2) // size)
    words = [f"w{n}" for n in range(steps - 2 - blocks * size)]
    ways = [_period(f"p{n}", f"b{n % blocks}h") for n in range(PERIODS)]
    made.append({"kind": "junction", "id": "hours", "branches": ways, "otherwise": "vm"})
    for block in range(blocks):
        made += _block(
            f"b{block}", f"b{block + 1}h" if again and block + 1 < blocks else "vm", block if again else None
        )
        if not again and block + PERIODS < blocks:
            made[-5]["no_answer"] = f"b{block + PERIODS}h"
    onward = [*words, "hours"]
    made += [_says(here, after) for here, after in itertools.pairwise(onward)]
    return FlowDocument.model_validate(
        {"name": "Large", "mark": "LG", "start": onward[0], "rescue": "vm", "steps": made}
    )


def _says(here: str, after: str) -> dict[str, Any]:
    return {"kind": "announcement", "id": here, "prompt": {"say": "Welcome to the yard"}, "next": after}


def _period(period: str, to: str) -> dict[str, Any]:
    return {"id": period, "when": {"test": "period", "of": "main", "any_of": [period]}, "to": to}


def _block(here: str, after: str, asks: int | None) -> list[dict[str, Any]]:
    """Seven steps, eight with the hours: words, a menu (or the hours and a menu), and the phones behind its keys."""
    first = _says(f"{here}h", f"{here}m")
    made = [first]
    if asks is not None:
        some = [_period(f"p{n}", f"{here}m") for n in range(asks % 3, PERIODS, 3)]
        made = [
            first | {"next": f"{here}j"},
            {"kind": "junction", "id": f"{here}j", "branches": some, "otherwise": after},
        ]
    keys = [{"id": f"k{n}", "keys": str(n), "to": f"{here}r{n}"} for n in range(1, 6)]
    menu = {
        "kind": "menu", "id": f"{here}m", "prompt": {"say": "For one press 1, for two press 2"}, "nothing": f"{here}r1", "wrong": f"{here}r1",
        "branches": [*keys, {"id": "k6", "keys": "6", "to": after}],
    }  # fmt: skip
    made.append(menu)
    for n in range(1, 6):
        phones = [
            {"kind": "number", "id": f"d{m}", "name": f"Desk {m}", "number": f"+141055501{10 + m}", "seconds": 20}
            for m in range(3)
        ]
        ring = {
            "kind": "ring",
            "id": f"{here}r{n}",
            "to": phones,
            "strategy": "in_order",
            "machine_detection": True,
            "no_answer": after,
        }
        made.append(ring)
    return made


@dataclass(frozen=True, slots=True)
class Measured:
    """Of a flow: situations, seconds of a proof, and of the engine alone for the same steps; megabytes above the start."""

    steps: int
    situations: int
    seconds: float
    engine: float
    memory: float


def measured(steps: int, *, again: bool = False) -> Measured:
    """The proof of a flow in this process."""
    gc.disable()  # as in the worker's own process
    document = flow_of(steps, again=again)
    flow, client = Flow(document), Client(ZONE, {"main": hours()})
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    since = time.perf_counter()
    claims = Claims(Walk(flow, World(flow, client, NOW, NOW + AHEAD)))
    dump_claims(claims)
    seconds = time.perf_counter() - since
    after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    assert claims.proven
    return Measured(
        len(document.steps), len(claims.walk.situations), seconds, alone(claims.walk), (after - before) / 1024
    )


def alone(walk: Walk) -> float:
    """Seconds that the engine takes for the steps of a walk, with the answers given."""
    taken = [
        (walk.situations[edge.source].state, edge.event, edge.answers)
        for edges in walk.edges
        for edge in edges
        if edge.event
    ]
    since = time.perf_counter()
    for state, event, answers in taken:
        assert event is not None
        left = list(answers)
        result = engine.step(walk.flow, state, event, {})
        while isinstance(result, engine.Ask):
            result = engine.resume(walk.flow, result, left.pop(0)[1])
    return time.perf_counter() - since


def apart(steps: int, *, again: bool = False) -> Measured:
    """The same in a fresh process, so that memory is its own."""
    with ProcessPoolExecutor(1) as pool:
        return pool.submit(measured, steps, again=again).result()


def middle(rounds: Sequence[Measured]) -> Measured:
    """The round of the median ratio, with the median of the seconds."""
    found = sorted(rounds, key=lambda one: one.seconds / one.engine)[len(rounds) // 2]
    seconds = statistics.median(one.seconds for one in rounds)
    return replace(found, seconds=seconds, engine=seconds * found.engine / found.seconds)


@dataclass(frozen=True, slots=True)
class Again:
    """A walk after an edit, from what stands of the one before, read from where it was kept: how many of the situations were walked, and in what
    part of the time of a walk of all."""

    anew: int
    situations: int
    part: float


def after_edits(steps: int) -> dict[str, Again]:
    """Of a flow whose menu gets other words, of one of whose phones is taken away, and of one with a key led elsewhere; medians of five rounds."""
    gc.disable()
    document, client = flow_of(steps), Client(ZONE, {"main": hours()})
    menu = next(one for one in document.steps if isinstance(one, Menu))
    ring = next(one for one in document.steps if isinstance(one, Ring))
    edits: dict[str, AnyStep] = {
        "words": menu.model_copy(update={"prompt": Prompt(say="Other words")}),
        "phones": ring.model_copy(update={"to": ring.to[:-1]}),
        "key": menu.with_target(menu.branches[0].id, "vm"),
    }

    def world(of: FlowDocument) -> World:
        return World(Flow(of), client, NOW, NOW + AHEAD)

    first = world(document)
    kept = pickle.dumps(Walk(first.flow, first).left())
    found = {}
    for name, edited in edits.items():
        other = document.with_steps(tuple(edited if one.id == edited.id else one for one in document.steps))
        walks: list[Walk] = []

        def partly(other: FlowDocument = other, walks: list[Walk] = walks) -> None:
            here = world(other)
            walks.append(Walk(here.flow, here, standing=standing(pickle.loads(kept), here.flow, here)))

        def wholly(other: FlowDocument = other, walks: list[Walk] = walks) -> None:
            here = world(other)
            walks.append(Walk(here.flow, here))

        part = statistics.median(_seconds(partly) / _seconds(wholly) for _ in range(5))
        one, all_ = walks[-2:]
        assert (one.edges, one.awaited, one.rounds) == (all_.edges, all_.awaited, all_.rounds)
        found[name] = Again(len(one.anew), len(one.situations), part)
    return found


def compared(steps: int) -> tuple[float, float]:
    """What changes for callers, in proofs: from a flow to itself, and to one in which a key leads elsewhere; medians of five rounds."""
    gc.disable()
    document = flow_of(steps)
    menu = next(one for one in document.steps if isinstance(one, Menu))
    other = menu.with_target(menu.branches[0].id, "vm")
    edited = document.with_steps(tuple(other if one is menu else one for one in document.steps))
    client = Client(ZONE, {"main": hours()})

    def proof() -> None:
        dump_claims(Claims(Walk(Flow(document), World(Flow(document), client, NOW, NOW + AHEAD))))

    def comparison(after: FlowDocument) -> None:
        found = changes((Flow(document), client), (Flow(after), client), NOW, NOW + AHEAD)
        assert found.compared
        assert bool(sentences(found)) == (after is edited)

    rounds = [
        (_seconds(proof), _seconds(lambda: comparison(document)), _seconds(lambda: comparison(edited)))
        for _ in range(5)
    ]
    return statistics.median(one[1] / one[0] for one in rounds), statistics.median(one[2] / one[0] for one in rounds)


def _seconds(what: Callable[[], None]) -> float:
    since = time.perf_counter()
    what()
    return time.perf_counter() - since


def rehearsed(count: int) -> tuple[float, float]:
    """Seconds of a run of so many kept rehearsals of a demo flow, the first time and then the median of five."""
    plan = AMERICAN[0]()
    document, zone = plan.flows[0].model_copy(update={"rehearsals": ()}), ZoneInfo(plan.zone)
    client = Client(zone, {one.key: Timetable(one.hours, zone) for one in plan.hours}, plan.people, plan.teams)
    setting = Setting(client, NOW, Names(people={key: one.name for key, one in plan.people.items()}))
    flow = Flow(document, plan.inner)
    found = proposal(Walk(flow, World(flow, client, NOW, NOW + AHEAD)), setting, "+14105550185").rehearsals
    many = tuple(found[number % len(found)].model_copy(update={"id": f"r{number}"}) for number in range(count))
    runs = []
    flow = Flow(document.model_copy(update={"rehearsals": many}), plan.inner)
    for _ in range(6):
        since = time.perf_counter()
        assert all(one.holds for one in verdicts(flow, setting))
        runs.append(time.perf_counter() - since)
    return runs[0], statistics.median(runs[1:])


def night() -> tuple[int, float, int]:
    """Flows proven, seconds, and how many of them lose callers: the demo world's, over and over."""
    work: list[Callable[[], bool]] = []
    for plan in (make() for make in (*AMERICAN, *BRITISH)):
        zone = ZoneInfo(plan.zone)
        client = Client(zone, {one.key: Timetable(one.hours, zone) for one in plan.hours}, plan.people, plan.teams)
        work += [lambda one=one, plan=plan, client=client: _loses(one, plan.inner, client) for one in plan.flows]  # type: ignore[misc]
    since, losing = time.perf_counter(), 0
    for number in range(FLOWS):
        losing += work[number % len(work)]()
        if sys.stderr.isatty() and number % 20 == 0:
            print(f"\r{number} of {FLOWS} flows", end="", file=sys.stderr)
    return FLOWS, time.perf_counter() - since, losing


def _loses(document: FlowDocument, inner: dict[str, FlowDocument], client: Client) -> bool:
    flow = Flow(document, inner)
    claims = Claims(Walk(flow, World(flow, client, NOW, NOW + AHEAD)))
    dump_claims(claims)
    dump_cover(Covers(claims.walk))
    return bool(claims.losses)


def main() -> None:
    """Measures and prints."""
    rounds = [{steps: apart(steps) for steps in (50, 60, 200, 800)} for _ in range(5)]
    found = {steps: middle([one[steps] for one in rounds]) for steps in rounds[0]}
    hard = middle([apart(60, again=True) for _ in range(3)])
    lines = [
        HEADING,
        f"Printed by `script/bench --proof` on {datetime.now(UTC):%Y-%m-%d}, on 2 cores. Flows with hours of {PERIODS} periods and {EXCEPTIONS} exceptions, over 13"
        " months; the walk with its claims and examples, against the engine alone for the steps that were walked; medians of five rounds (goal: 2 times, 200 steps in 2 s, 300 MB,"
        " 60 steps in 0.5 s).",
        "",
        "| steps | situations | proof, s | engine alone, s | times | MB |",
        "| ---: | ---: | ---: | ---: | ---: | ---: |",
        *(
            f"| {one.steps} | {one.situations:,} | {one.seconds:.2f} | {one.engine:.2f} | {one.seconds / one.engine:.2f} | {one.memory:.0f} |"
            for one in (*found.values(), hard)
        ),
        "",
    ]
    with ProcessPoolExecutor(1) as pool:
        same, edited = pool.submit(compared, 200).result()
        after = pool.submit(after_edits, 200).result()
    first, again = rehearsed(50)
    ratio = statistics.median(one[800].seconds / one[50].seconds for one in rounds)
    flows, seconds, losing = night()
    lines += [
        "The last line is a flow that asks for the hours anew in every block, so that the time of the call stays known throughout.",
        "",
        f"{found[800].steps} steps take {ratio:.1f} times as long as {found[50].steps} (at most 20)."
        f" The nightly proof of {flows:,} flows of the demo world’s mix, with their cover: {seconds:.0f} s in"
        f" one process, {flows / seconds:.1f} flows a second a core (goal 4); {losing} of them lose callers.",
        "",
        f"After an edit of {found[200].steps} steps only what it bears on is walked again, against a walk of all: "
        + ", ".join(
            f"{words} {after[name].anew} of {after[name].situations:,} situations ({after[name].part:.2f} times)"
            for name, words in (
                ("words", "for other words of a menu"),
                ("phones", "for a phone that is taken away"),
                ("key", "for a key that leads elsewhere"),
            )
        )
        + ".",
        "",
        f"What changes for callers of 200 steps: {same:.2f} times one proof where nothing does, {edited:.2f} times where a key leads elsewhere"
        f" (at most 2.5). A kept set of 50 rehearsals: {1000 * again:.0f} ms, {1000 * first:.0f} ms the first time (goal 100).",
    ]
    text = "\n".join(lines)
    print(text)
    if "--keep" in sys.argv:
        keep(HEADING, lines)


if __name__ == "__main__":
    main()
