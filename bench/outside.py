"""The checks of the proof against the outside, with more flows and calls than the tests take: `script/bench --outside [FLOWS CALLS]`."""

import os
import re
import subprocess
import sys
import time
from datetime import UTC, datetime

from .kept import keep

HEADING = "## Proof against the outside"
FLOWS, CALLS, SAME_CALLS = 500, 10_000, 1_000
CHECKS = ("core/proof/test_walk.py", "work/flows/test_one_engine.py")
"""Below tests/."""


def main() -> None:
    """Runs and prints."""
    numbers = [int(one) for one in sys.argv if re.fullmatch(r"\d+", one)]
    flows, calls = numbers if len(numbers) == 2 else (FLOWS, CALLS)
    given = {
        "VOKARI_CHECKED_FLOWS": str(flows),
        "VOKARI_CHECKED_CALLS": str(calls),
        "VOKARI_SAME_CALLS": str(SAME_CALLS),
    }
    since = time.perf_counter()
    done = subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "-n2", *(f"tests/{one}" for one in CHECKS)],
        env={**os.environ, **given},
        check=False,
    )
    minutes = (time.perf_counter() - since) / 60
    came = "no difference" if done.returncode == 0 else "DIFFERENCES: see above"
    lines = [
        HEADING,
        f"Printed by `script/bench --outside {flows} {calls}` on {datetime.now(UTC):%Y-%m-%d}: {flows} random flows of all kinds of steps, {calls:,} random calls each, none of"
        f" which may come to what was not claimed; each example of each claim replayed; {SAME_CALLS:,} random calls live through the carrier stand-in, in rehearsal, in the"
        f" simulator and folded again from their log: {came}, in {minutes:.0f} minutes.",
    ]
    print("\n".join(lines))
    if "--keep" in sys.argv and done.returncode == 0:
        keep(HEADING, lines)
    sys.exit(done.returncode)


if __name__ == "__main__":
    main()
