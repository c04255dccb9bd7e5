"""All tests of conditions, by the names they are stored with, and what combines them."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from ...value import once
from ..model.condition import CLOSED, Condition
from ..model.condition import Test as TestName
from ..model.document import FlowDocument
from ..model.steps import AnyStep, Junction, Sorting
from .base import ConditionTest, Holds, Looks, Names, Told
from .of_caller import Called, Contact, ContactField, FirstCall, IsWithheld, LastCall, LastSpoke
from .of_dates import Dates
from .of_hours import ByException, Period
from .of_place import InPlace, Nearest, PostalCode, Within
from .of_times import Times
from .of_touch import LeadSource, NumberDialed, Tagged, VisitAge, Visits
from .of_values import InLanguage, KeptValue, Share

TESTS: Mapping[TestName, ConditionTest] = {
    "period": Period(), "exception": ByException(), "dates": Dates(), "times": Times(),
    "first_call": FirstCall(), "called": Called(), "last_call": LastCall(), "last_spoke_with": LastSpoke(), "withheld": IsWithheld(),
    "on_list": Contact("on_list", "on list", "Suppliers"), "lead_status": Contact("lead_status", "lead status", "qualified"),
    "label": Contact("label", "label", "regular"), "contact_field": ContactField(),
    "number_dialled": NumberDialed(), "lead_source": LeadSource(),
    "campaign": Tagged("campaign", "campaign", "spring-launch"), "source": Tagged("source", "source", "newsletter"),
    "medium": Tagged("medium", "medium", "email"), "keyword": Tagged("keyword", "keyword", "boat lift"),
    "content": Tagged("content", "content", "blue-banner"),
    "landing_page": Tagged("landing_page", "landing page", "/prices"),
    "page_now": Tagged("page_now", "page now", "/prices"), "any_page": Tagged("any_page", "any page", "/prices"),
    "referrer": Tagged("referrer", "came from", "example.org"), "visits": Visits(), "visit_age": VisitAge(),
    "area": InPlace(), "postal_code": PostalCode(), "within": Within(), "nearest_location": Nearest(),
    "language": InLanguage(), "share": Share(), "value": KeptValue(),
}  # fmt: skip
"""Every test that looks at something itself."""


def holds(condition: Condition, told: Told) -> Holds:
    """Whether a condition holds, asking no more than it takes; None where it is not known."""
    match condition.test:
        case "all":
            return _all(condition.parts, told, unless=False)
        case "any":
            return _all(condition.parts, told, unless=True)
        case "not":
            found = _all(condition.parts, told, unless=True)
            return None if found is None else not found
    return TESTS[condition.test].holds(condition, told)


def _all(parts: tuple[Condition, ...], told: Told, *, unless: bool) -> Holds:
    """The parts joined by and (`unless` False) or by or (`unless` True): that value as soon as one part has it, else not known as
    soon as one part is, else the other."""
    known = True
    for part in parts:
        found = holds(part, told)
        if found is unless:
            return unless
        known = known and found is not None
    return (not unless) if known else None


def looks(condition: Condition) -> Looks:
    """What a condition looks at, all its parts together."""
    found = Looks()
    for leaf in condition.leaves():
        found |= TESTS[leaf.test].looks(leaf)
    return found


def words(condition: Condition, names: Names) -> str:
    """A condition in words: "Front desk", "an exception of Yard and Dec 1 to Dec 24"."""
    match condition.test:
        case "all" | "any":
            return (" and " if condition.test == "all" else " or ").join(words(part, names) for part in condition.parts)
        case "not":
            return "not " + " or ".join(words(part, names) for part in condition.parts)
    return TESTS[condition.test].words(condition, names)


def named(document: FlowDocument, names: Names) -> FlowDocument:
    """The document as it is shown: exits without a name of their own are called by their condition, and what is left of
    one set of hours is called closed. So a period that gets another name keeps its exit."""
    if not any(isinstance(step, Junction) for step in document.steps):
        return document
    return document.with_steps(tuple(_named(step, names) for step in document.steps))


def _named(step: AnyStep, names: Names) -> AnyStep:
    if not isinstance(step, Junction):
        return step
    branches = tuple(
        branch if branch.name else branch.model_copy(update={"name": words(branch.when, names)[:60]})
        for branch in step.branches
    )
    rest = step.otherwise_name or (CLOSED if step.sole_hours else "")
    return step.model_copy(update={"branches": branches, "otherwise_name": rest})


def by_period(key: str, periods: list[str], new_id: Callable[[str], str]) -> list[Sorting]:
    """An exit for each period of a set of hours; what is closed goes by otherwise."""
    return [Sorting(id=new_id("b"), when=Condition(test="period", of=key, any_of=(period,))) for period in periods]


@dataclass(frozen=True, slots=True)
class Splits:
    """The shares of a junction, one after the other in the order of its branches: the first hundredth of each condition that is one (by
    its identity: two shares may be alike), all hundredths at which one begins or ends, and how many of a hundred callers they come to."""

    begins: Mapping[int, int]
    bounds: tuple[int, ...]
    whole: int


@once
def splits(junction: Junction) -> Splits:
    """The shares of a junction."""
    begins: dict[int, int] = {}
    at = 0
    for branch in junction.branches:
        for leaf in branch.when.leaves():
            if leaf.test == "share":
                begins[id(leaf)] = at
                at += leaf.percent or 0
    return Splits(begins, tuple(sorted({*begins.values(), at})) if begins else (), at)


def taken(junction: Junction, told: Told) -> Sorting | None:
    """The first branch of a junction whose condition is true; None where none is. One that is not known to be true is not."""
    shares = splits(junction)
    if shares.begins:
        told = replace(told, split=junction.id, begins=shares.begins, bounds=shares.bounds)
    return next((branch for branch in junction.branches if holds(branch.when, told) is True), None)
