"""Alternated rounds of two ways to do a thing, and the median of their ratios."""

import statistics
import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

ROUNDS = 5


@dataclass(frozen=True, slots=True)
class Compared:
    """Medians over the rounds: things a second of ours and of the other way, and of the ratios ours / other."""

    ours: float
    other: float
    ratio: float


def compare(ours: Callable[[], int], other: Callable[[], int], rounds: int = ROUNDS) -> Compared:
    """Runs the two by turns, each time in the other order; each gives the count of things that it did."""
    rates: list[tuple[float, float]] = []
    for number in range(rounds):
        order = (ours, other) if number % 2 == 0 else (other, ours)
        found = {run: rate(run) for run in order}
        rates.append((found[ours], found[other]))
    return Compared(
        statistics.median(a for a, _ in rates),
        statistics.median(b for _, b in rates),
        statistics.median(a / b for a, b in rates),
    )


def side_by_side(run: Callable[..., None], lines: Iterable[tuple[Any, ...]]) -> None:
    """Runs as many threads as there are lines, each with the values of its own, until all are done."""
    threads = [threading.Thread(target=run, args=line) for line in lines]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def rate(run: Callable[[], int]) -> float:
    """Things a second of one run."""
    began = time.perf_counter()
    count = run()
    return count / (time.perf_counter() - began)
