"""Builds the large agency, measures its pages, and prints that part of docs/measures.md; `--keep` writes it there as well."""

import os
import sys
import time
from datetime import UTC, datetime

import psycopg
import structlog

from ..kept import keep
from ..town import town
from . import agency, calls, pages, sorting

HEADING = "## Scale"


def main() -> None:
    structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(40))
    with town() as made:
        url = made.settings.database_url.replace("+psycopg", "")
        began = time.monotonic()
        with psycopg.connect(url) as connection:
            large = agency.make(made, connection)
        count = calls.load(made, url, large)
        built = time.monotonic() - began
        found = pages.measure(made, large)
        compiled = pages.compiled(made, large)
        sorted_ = sorting.measure(made, large, url)
    lines = [
        HEADING,
        f"Printed by `script/bench --scale` on {datetime.now(UTC):%Y-%m-%d}, on {os.cpu_count()} cores: an agency of {agency.CLIENTS:,} "
        f"clients, {agency.NUMBERS:,} numbers and {count:,} calls over three years, built in {built:.0f} s. Kilobytes are those of the page as "
        "made, and as sent compressed.",
    ]
    for name, costs in found.items():
        lines += ["", f"### {name}", "| page | ms | statements | kB | kB sent |", "| --- | ---: | ---: | ---: | ---: |"]
        lines += [
            f"| {one.name} | {one.milliseconds:.0f} | {one.statements} | {one.kilobytes:.0f} | {one.sent:.0f} |"
            for one in costs
        ]
    lines += [
        "",
        f"With PostgreSQL’s compiling of queries (JIT) on, pages of the largest client come at {compiled.ratio:.2f} of the rate without "
        "it: it is off.",
        "",
        f"Conditions on the caller’s past and place: {sorted_.rates.ours:,.0f} events of whole calls a second in one process, against "
        f"{sorted_.rates.other:,.0f} with conditions that ask nothing of the caller, {1 / sorted_.rates.ratio - 1:+.0%} of time (at most +10%).",
    ]
    print("\n".join(lines))
    if "--keep" in sys.argv:
        keep(HEADING, lines)


if __name__ == "__main__":
    main()
