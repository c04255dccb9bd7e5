"""Runs every measure on the demo world and prints that part of docs/measures.md; `--keep` writes it there as well."""

import os
import platform
import sys
from datetime import UTC, datetime

import structlog

from . import control, engine, holding, many_numbers, opening, pages, queues, sheet, strangers, turns, workers
from .kept import keep
from .town import Town, town


def main() -> None:
    structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(40))
    with town() as made:
        lines = _report(made)
    print("\n".join(lines))
    if "--keep" in sys.argv:
        keep(lines[0], lines)


def _report(made: Town) -> list[str]:
    calls, seconds = made.loaded
    here = control.measure(made)
    steps = engine.measure(made)
    lines = [
        "# Measures",
        f"Printed by `script/bench` on {datetime.now(UTC):%Y-%m-%d}, on {os.cpu_count()} cores, "
        f"{_memory()} GiB, Python {platform.python_version()}. Ratios are medians of five alternated rounds of one run; "
        "absolute figures are goals at most.",
        "",
        "## The demo world",
        f"{calls:,} calls of 90 days loaded in {seconds:.0f} s (goal: 60 s).",
        "",
        "## (a) Call-control decisions",
        f"{here.calls} whole calls of the demo world ({here.events:,} events) on {control.LINES} lines at once. “Bare” is the same server "
        "with the same pool, body model and signature check, as many reads and writes, each a statement of its own, one commit, and no "
        "engine.",
        "",
        "| | decisions a second | against bare |",
        "| --- | ---: | ---: |",
        f"| Vokari | {here.http.ours:,.0f} | {here.http.ratio:.2f} (at least 0.5, goal 0.8) |",
        f"| bare | {here.http.other:,.0f} | 1 |",
        f"| raw psycopg, no HTTP | {here.raw:,.0f} | {here.raw / here.http.other:.2f} |",
        "",
        "## (b) The engine alone",
        f"{steps.count:,} steps of finished calls folded again, one process, pure Python: {steps.steps.ours:,.0f} steps a second, "
        f"{steps.steps.ratio:.2f} times the rate at which Pydantic reads the events’ bodies ({steps.steps.other:,.0f} a second).",
        "",
        "## (c) Server time of the main pages",
        "The client with the most calls, whole pages with the frame.",
        "",
        "| page | median, ms | times the page with one read (goal: 3) | statements |",
        "| --- | ---: | ---: | ---: |",
    ]
    lines += [
        f"| {one.name} | {one.milliseconds:.1f} | {one.ratio:.1f} | {one.statements} |" for one in pages.measure(made)
    ]
    lines += _numbers(many_numbers.measure(made)) + _hours(opening.measure()) + _turns(turns.measure(made))
    lines += _holding(holding.measure(made)) + _queues(queues.measure(made))
    lines += _strangers(strangers.measure()) + _sheet(sheet.measure())
    return lines + _workers(workers.measure(made))


def _workers(found: list[workers.Scaled]) -> list[str]:
    """The measure of several processes."""
    lines = [
        "",
        "## (k) Several processes",
        f"Two workers against one, {workers.LINES} asking at once. The database and whoever asks share the cores; so the second pair of "
        "columns has all of it on two cores (with two workers) against all of it on one (with one worker).",
        "",
        "| | one worker, a second | two workers, a second | times | one core | two cores | times (goal: 1.8) |",
        "| --- | ---: | ---: | ---: | ---: | ---: | ---: |",
    ]
    for one in found:
        words = f"| {one.part} | {one.workers.other:,.0f} | {one.workers.ours:,.0f} | {one.workers.ratio:.2f} "
        cores = (
            f"| {one.cores.other:,.0f} | {one.cores.ours:,.0f} | {one.cores.ratio:.2f} |"
            if one.cores
            else "| – | – | – |"
        )
        lines.append(words + cores)
    return lines


def _strangers(found: strangers.Measured) -> list[str]:
    """What strangers sent, and what came of it."""
    return [
        "",
        "## (i) What strangers send",
        f"Random requests and mutated real forms over all {found.routes} routes, with every role, nobody, and another agency’s ids: "
        f"{found.requests:,} requests, {found.broken} answers of 5xx (goal: 0).",
    ]


def _sheet(found: sheet.Measured) -> list[str]:
    """The measure of a large flow's sheet."""
    return [
        "",
        f"## (j) A flow of {found.steps} steps",
        f"The outline takes {found.outline:.0f} ms. Beyond it (at most 20 ms each):",
        "",
        "| | ms |",
        "| --- | ---: |",
        f"| findings | {found.findings:.0f} |",
        f"| the drawing | {found.drawing:.0f} |",
        f"| an edit | {found.edit:.0f} |",
        f"| {sheet.TOGETHER} edits at once | {found.edits:.0f} |",
    ]


def _numbers(found: many_numbers.Measured) -> list[str]:
    """The measures at the size of a large agency."""
    rows = (("The plan of the largest client", found.plan), ("Finding over all numbers", found.find))
    return [
        "",
        "## (d) Numbers at the size of a large agency",
        f"{many_numbers.NUMBERS:,} numbers in {many_numbers.CLIENTS:,} clients, {many_numbers.LARGEST} in the largest. “Plain” is the "
        "same reads with an unstyled table.",
        "",
        "| | ms | plain, ms | times plain (at most 2) |",
        "| --- | ---: | ---: | ---: |",
        *(f"| {name} | {one.ours:.1f} | {one.plain:.1f} | {one.ratio:.2f} |" for name, one in rows),
        "",
        f"Taking {many_numbers.TAKEN} numbers in orders: {found.taking.ours:.0f} a second with all that is written down, "
        f"{found.taking.other:.0f} a second by the carrier stand-in alone ({found.taking.ratio:.2f} of it).",
    ]


def _hours(found: opening.Measured) -> list[str]:
    """The measures of hours."""
    seconds = opening.YEAR.total_seconds() / 60 / found.changes.ours
    return [
        "",
        "## (e) Hours",
        f"A set with {opening.PERIODS} periods, {opening.HOLIDAYS} public holidays and {opening.SEASONS} seasons, {found.count:,} "
        f"changes in a year. Listing them all, the set made ready anew each time, takes {seconds * 1000:.0f} ms: "
        f"{found.changes.ratio:,.0f} times faster than the rules read out at every minute by zoneinfo with nothing prepared "
        f"(at least 500), and {found.against_at.ratio:.0f} times faster than asking the prepared set at every minute.",
        "",
        f"What holds at a moment, once the set is ready: {found.microseconds:.1f} µs (goal: under 20 µs).",
    ]


def _turns(found: turns.Measured) -> list[str]:
    """The measures of turns."""
    return [
        "",
        "## (f) Turns under load",
        f"{turns.CALLS} simultaneous calls to one team of {turns.MEMBERS} by turns, against the same calls spread over {turns.TEAMS} "
        f"teams: {found.one.ours:.0f} against {found.one.other:.0f} calls admitted a second, {found.one.ratio:.2f} of the rate (at "
        f"least 0.25). Of {found.calls:,} calls to the one team, the member rung first most often had {found.uneven} more than the "
        "one rung first least often.",
    ]


def _holding(found: holding.Measured) -> list[str]:
    """The measures of a hold line."""
    return [
        "",
        "## (g) A hold line with many waiting",
        f"A line in which {holding.WAITING} callers wait, with {holding.PEOPLE} people on a call, against one in which nobody else waits.",
        "",
        "| event | a second in the long line | in the empty line | times the cost (at most 2) |",
        "| --- | ---: | ---: | ---: |",
        *(f"| {name} | {one.ours:.0f} | {one.other:.0f} | {1 / one.ratio:.2f} |" for name, one in found.kinds),
        "",
        f"The {found.rung} callers served in the long line were rung {'in the order' if found.in_order else 'NOT in the order'} in "
        "which they came.",
    ]


def _queues(found: queues.Measured) -> list[str]:
    """The measure of pokes behind other jobs."""
    return [
        "",
        "## (h) Pokes behind other jobs",
        f"From the commit until a poke is done, with {queues.BACKLOG:,} jobs waiting ({found.left:,} of them still when it was over): "
        f"{found.behind:.0f} ms (at the longest {found.longest:.0f} ms; goal: under 1,000 ms), against {found.alone:.0f} ms with none waiting: "
        f"{found.behind / found.alone:.2f} times.",
    ]


def _memory() -> int:
    return round(os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") / 2**30)


if __name__ == "__main__":
    main()
