"""Erlang's formulas: the chance that all are busy (B), the chance of waiting and how long (C), and how many are needed.

Load is in erlangs: calls per hour times their mean length in hours. B(0) = 1; B(n) = A B(n-1) / (n + A B(n-1)).
"""

import math

MOST = 10_000


def load(calls_per_hour: float, mean_seconds: float) -> float:
    """The offered load in erlangs."""
    return calls_per_hour * mean_seconds / 3600


def blocking(people: int, erlangs: float) -> float:
    """Erlang B: the chance that a call finds all busy, and goes on."""
    chance = 1.0
    for n in range(1, people + 1):
        chance = erlangs * chance / (n + erlangs * chance)
    return chance


def waiting(people: int, erlangs: float) -> float:
    """Erlang C: the chance that a call has to wait; 1 where the load is as much as all can do."""
    if erlangs >= people:
        return 1.0
    busy = blocking(people, erlangs)
    return busy / (1 - erlangs / people * (1 - busy))


def mean_wait(people: int, erlangs: float, mean_seconds: float) -> float | None:
    """The mean wait in seconds over all calls, waiting or not; None where the line would grow for ever."""
    if erlangs >= people:
        return None
    return waiting(people, erlangs) * mean_seconds / (people - erlangs)


def waits_longer(people: int, erlangs: float, mean_seconds: float, seconds: float) -> float:
    """The part of all calls that waits longer than so many seconds: C exp(-(n - A) t / h), for talks of exponential length
    served in order of arrival."""
    if erlangs >= people or mean_seconds <= 0:
        return waiting(people, erlangs)
    return waiting(people, erlangs) * math.exp(-(people - erlangs) * seconds / mean_seconds)


def people_for(erlangs: float, most_blocking: float) -> int:
    """The fewest people with whom at most this part of the calls finds all busy. Raises ValueError for no such chance."""
    if not 0 < most_blocking < 1 or erlangs < 0:
        raise ValueError("a chance lies between 0 and 1, a load is not negative")
    chance, people = 1.0, 0
    while chance > most_blocking and people < MOST:
        people += 1
        chance = erlangs * chance / (people + erlangs * chance)
    return people
