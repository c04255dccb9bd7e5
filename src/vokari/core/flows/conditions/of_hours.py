"""Conditions on hours: which period of a set holds, and whether by an exception."""

from collections.abc import Iterator

from ..model.condition import CLOSED, Condition
from ..model.condition import Test as TestName
from ..questions.kinds import WhatHolds, WhichException
from .base import HoursNames, Looks, Names, Reading, Told, free_written

GONE = "a period that is gone"
RESERVED = ("and", "or", "not", CLOSED, "exception")


def _one(test: TestName, of: str, value: str = "") -> Condition:
    return Condition(test=test, of=of, any_of=(value,) if value else ())


def spellings(names: Names) -> dict[str, Condition]:
    """Every way to type a condition on hours. A period is named alone where no other set has one of its name."""
    found: dict[str, Condition] = {}
    counts: dict[str, int] = {}
    for known in names.hours.values():
        for name in known.periods.values():
            counts[name.casefold()] = counts.get(name.casefold(), 0) + 1
    for index, (key, known) in enumerate(names.hours.items()):
        for period, name in known.periods.items():
            alone = counts[name.casefold()] == 1 and name.casefold() not in RESERVED
            found[name if alone else f"{known.name}: {name}"] = _one("period", key, period)
            found.setdefault(f"{known.name}: {name}", _one("period", key, period))
        for name in known.exceptions:
            found[f"{known.name}: exception {free_written(name)}"] = _one("exception", key, name)
            found.setdefault(f"exception {free_written(name)}", _one("exception", key, name))
        for word, condition in ((CLOSED, _one("period", key, CLOSED)), ("exception", _one("exception", key))):
            found[f"{known.name}: {word}"] = condition
            if index == 0:
                found[word] = condition
    return found


def _shortest(names: Names) -> dict[Condition, str]:
    found: dict[Condition, str] = {}
    for text, condition in spellings(names).items():
        if condition not in found or len(text) < len(found[condition]):
            found[condition] = text
    return found


class _OfHours:
    """What both have in common: they are told what a set says now, and typed by the names of its periods."""

    unknown = ""
    merges = False
    test: TestName

    def looks(self, condition: Condition) -> Looks:
        return Looks(hours=frozenset([condition.of or ""]))

    def offered(self, names: Names) -> list[str]:
        return [text for condition, text in _shortest(names).items() if condition.test == self.test]

    def read(self, text: str, names: Names) -> Reading:
        folded = text.casefold()
        for name, condition in sorted(spellings(names).items(), key=lambda pair: -len(pair[0])):
            if folded.startswith(name.casefold()) and not folded[len(name) : len(name) + 1].isalnum():
                return (condition, len(name)) if condition.test == self.test else None
        return None

    def written(self, condition: Condition, names: Names) -> list[str]:
        known = _shortest(names)
        return [known.get(_one(self.test, condition.of or "", value), GONE) for value in self.values(condition)]

    def values(self, condition: Condition) -> Iterator[str]:
        yield ""


class Period(_OfHours):
    """Which period of a set of hours holds now; what no period covers is closed."""

    merges = True
    test: TestName = "period"

    def holds(self, condition: Condition, told: Told) -> bool:
        answer = told.ask(WhatHolds(condition.of or ""))
        return isinstance(answer, tuple) and answer[0] in condition.any_of

    def words(self, condition: Condition, names: Names) -> str:
        known = _known(condition, names)
        found = [known.periods.get(one, GONE) if one != CLOSED else CLOSED for one in condition.any_of]
        return " or ".join(found) or "no period"

    def values(self, condition: Condition) -> Iterator[str]:
        yield from condition.any_of


class ByException(_OfHours):
    """Whether an exception of a set of hours makes what holds now: any, or one of some names."""

    merges = True
    test: TestName = "exception"

    def holds(self, condition: Condition, told: Told) -> bool:
        if condition.any_of:
            return told.ask(WhichException(condition.of or "")) in condition.any_of
        answer = told.ask(WhatHolds(condition.of or ""))
        return isinstance(answer, tuple) and bool(answer[1])

    def values(self, condition: Condition) -> Iterator[str]:
        yield from condition.any_of or ("",)

    def written(self, condition: Condition, names: Names) -> list[str]:
        known, of = _shortest(names), _known(condition, names).name
        named = (f"{of}: exception {free_written(one)}" if one else GONE for one in self.values(condition))
        return [
            known.get(_one("exception", condition.of or "", one), gone)
            for one, gone in zip(self.values(condition), named, strict=True)
        ]

    def words(self, condition: Condition, names: Names) -> str:
        if condition.any_of:
            return " or ".join(condition.any_of)
        return f"an exception of {_known(condition, names).name}" if len(names.hours) > 1 else "an exception"


def _known(condition: Condition, names: Names) -> HoursNames:
    return names.hours.get(condition.of or "", HoursNames("hours that are gone", {}))
