"""The conditions of a Junction: whether one holds, what each names, and how it is said in words."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from datetime import date

from ..running.questions import Answer, InDates, Question, WhatHolds
from .document import FlowDocument
from .steps import Junction, Ring, Sorting, Step
from .values import Condition

RUNNING = ("all", "any", "not", "period", "exception", "dates")
"""The tests that can be run today."""

CLOSED = "closed"


def holds(
    condition: Condition, ask: Callable[[Question], Answer], values: Mapping[str, str] | None = None
) -> bool:  # fmt: skip
    """Whether a condition holds, asking no more than it takes; `values` are what was typed, by the names it is kept under. A
    test that cannot be run yet does not hold."""
    match condition.test:
        case "all":
            return all(holds(part, ask, values) for part in condition.parts)
        case "any":
            return any(holds(part, ask, values) for part in condition.parts)
        case "not":
            return not any(holds(part, ask, values) for part in condition.parts)
        case "period" | "exception":
            answer = ask(WhatHolds(condition.of or ""))
            if not isinstance(answer, tuple):
                return False
            return answer[0] in condition.any_of if condition.test == "period" else bool(answer[1])
        case "value":
            return (values or {}).get(condition.of or "") in condition.any_of
        case "dates":
            return ask(InDates(condition.any_of)) is True
    return False


def leaves(condition: Condition) -> Iterator[Condition]:
    """The conditions that a condition combines, down to those that look at something themselves."""
    if condition.test in ("all", "any", "not"):
        for part in condition.parts:
            yield from leaves(part)
    else:
        yield condition


# dates


def read_range(text: str) -> tuple[date, date] | None:
    """The first and last day of "2026-12-01/2026-12-24" or "2026-12-01"; None when it is neither."""
    first, _, last = text.partition("/")
    try:
        found = date.fromisoformat(first), date.fromisoformat(last or first)
    except ValueError:
        return None
    return found if found[0] <= found[1] else None


def in_ranges(ranges: tuple[str, ...], on: date) -> bool:
    """Whether a day lies in one of the ranges."""
    return any(pair is not None and pair[0] <= on <= pair[1] for pair in map(read_range, ranges))


def _range_words(text: str) -> str:
    pair = read_range(text)
    if pair is None:
        return text
    first, last = pair
    return f"{first:%b} {first.day}" if first == last else f"{first:%b} {first.day} to {last:%b} {last.day}"


# names


@dataclass(frozen=True, slots=True)
class HoursNames:
    """What a set of hours is called, and its periods by id."""

    name: str
    periods: Mapping[str, str]


Names = Mapping[str, HoursNames]
"""The sets of hours of a client, by the key that flows name them by."""


def words(condition: Condition, names: Names) -> str:
    """A condition in words: "Front desk", "an exception of Yard", "Dec 1 to Dec 24"."""
    known = names.get(condition.of or "", HoursNames("hours that are gone", {}))
    match condition.test:
        case "period":
            found = [
                known.periods.get(one, "a period that is gone") if one != CLOSED else CLOSED for one in condition.any_of
            ]
            return " or ".join(found) or "no period"
        case "exception":
            return f"an exception of {known.name}" if len(names) > 1 else "an exception"
        case "dates":
            return " or ".join(map(_range_words, condition.any_of)) or "no dates"
        case "all" | "any":
            return (" and " if condition.test == "all" else " or ").join(words(part, names) for part in condition.parts)
        case "not":
            return "not " + " or ".join(words(part, names) for part in condition.parts)
    return condition.test.replace("_", " ")


def sole_hours(step: Junction) -> str:
    """The key of the set that a junction sorts by, where its periods are all of one set and none of them is closed."""
    found = [leaf for branch in step.branches for leaf in leaves(branch.when) if leaf.test == "period"]
    keys = {leaf.of or "" for leaf in found}
    return keys.pop() if len(keys) == 1 and not any(CLOSED in leaf.any_of for leaf in found) else ""


def named(document: FlowDocument, names: Names) -> FlowDocument:
    """The document as it is shown: exits without a name of their own are called by their condition, and what is left of
    one set of hours is called closed. So a period that gets another name keeps its exit."""
    if not any(isinstance(step, Junction) for step in document.steps):
        return document
    return document.model_copy(update={"steps": tuple(_named(step, names) for step in document.steps)})


def _named(step: Step, names: Names) -> Step:
    if not isinstance(step, Junction):
        return step
    branches = tuple(
        branch if branch.name else branch.model_copy(update={"name": words(branch.when, names)[:60]})
        for branch in step.branches
    )
    rest = step.otherwise_name or (CLOSED if sole_hours(step) else "")
    return step.model_copy(update={"branches": branches, "otherwise_name": rest})


def by_period(key: str, periods: list[str], new_id: Callable[[str], str]) -> list[Sorting]:
    """An exit for each period of a set of hours; what is closed goes by otherwise."""
    return [Sorting(id=new_id("b"), when=Condition(test="period", of=key, any_of=(period,))) for period in periods]


# uses


@dataclass(frozen=True, slots=True)
class Use:
    """A place in a flow that names a set of hours: the step, the exit (empty for a phone's own times), the periods."""

    hours: str
    step: Step
    exit: str = ""
    periods: tuple[str, ...] = ()
    phone: str = ""


def uses(document: FlowDocument) -> Iterator[Use]:
    """Every place in a flow that names a set of hours."""
    for step in document.steps:
        if isinstance(step, Junction):
            for branch in step.branches:
                for leaf in leaves(branch.when):
                    if leaf.test in ("period", "exception") and leaf.of:
                        yield Use(leaf.of, step, branch.id, leaf.any_of)
        elif isinstance(step, Ring):
            for one in step.to:
                key = getattr(one, "hours", None)
                if key:
                    yield Use(key, step, phone=getattr(one, "name", "") or getattr(one, "number", ""))


def without_period(step: Junction, key: str, period: str) -> Junction:
    """The junction without the exits that ask for one period alone; exits that ask for others too ask for those."""
    kept = []
    for branch in step.branches:
        found = _without(branch.when, key, period)
        if found is not None:
            kept.append(branch.model_copy(update={"when": found}))
    return step.model_copy(update={"branches": tuple(kept)})


def _without(condition: Condition, key: str, period: str) -> Condition | None:
    if condition.test == "period" and condition.of == key and period in condition.any_of:
        rest = tuple(one for one in condition.any_of if one != period)
        return condition.model_copy(update={"any_of": rest}) if rest else None
    if condition.parts:
        parts = tuple(part for part in (_without(one, key, period) for one in condition.parts) if part is not None)
        lost = len(parts) < len(condition.parts)
        return (
            None if lost and (condition.test != "any" or not parts) else condition.model_copy(update={"parts": parts})
        )
    return condition


def rekeyed(step: Step, keys: Mapping[str, str]) -> Step:
    """The step with every set of hours named by another key, where there is one for it."""
    if isinstance(step, Junction):
        branches = tuple(branch.model_copy(update={"when": _rekeyed(branch.when, keys)}) for branch in step.branches)
        return step.model_copy(update={"branches": branches})
    if isinstance(step, Ring):
        to = []
        for one in step.to:
            key = getattr(one, "hours", None)
            to.append(one.model_copy(update={"hours": keys.get(key, key)}) if key else one)
        return step.model_copy(update={"to": tuple(to)})
    return step


def _rekeyed(condition: Condition, keys: Mapping[str, str]) -> Condition:
    parts = tuple(_rekeyed(part, keys) for part in condition.parts)
    return condition.model_copy(update={"of": keys.get(condition.of or "", condition.of), "parts": parts})
