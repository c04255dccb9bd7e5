"""What random requests and mutated forms over the whole route table came to: the test of it, run once."""

import re
import subprocess
import sys
from dataclasses import dataclass

TEST = "tests/web/test_strangers.py"
LINE = re.compile(r"seed \d+: (\d+) routes, (\d+) requests, (\d+) answers of 5xx")


@dataclass(frozen=True, slots=True)
class Measured:
    """How many routes were asked how often, and how often it broke."""

    routes: int
    requests: int
    broken: int


def measure() -> Measured:
    """Runs the test. Raises ValueError when it printed no figures."""
    words = [sys.executable, "-m", "pytest", "-q", "-s", "-p", "no:cacheprovider", TEST]
    said = subprocess.run(words, capture_output=True, text=True, errors="replace").stdout
    found = LINE.search(said)
    if found is None:
        raise ValueError(f"{TEST} printed no figures:\n{said[-2000:]}")
    return Measured(*(int(one) for one in found.groups()))
