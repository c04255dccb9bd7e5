"""What conditions ask of the caller and of what is behind the call. All of it is fixed within a call; None stands for not known."""

from collections.abc import Hashable
from dataclasses import dataclass
from typing import Literal

from ...places.whereabouts import By
from .knowledge import Knowledge

Known = bool | None
"""Yes, no, or not known."""
WhereAnswer = tuple[Known, By, int]
"""Whether something about the place holds, what tells so, and for how many of a hundred (see `places.whereabouts`)."""
FactAnswer = Known | WhereAnswer | int | str
FactClasses = list[tuple[FactAnswer, Knowledge]]
TouchFact = Literal[
    "number", "lead_source", "campaign", "source", "medium", "keyword", "content",
    "landing_page", "page_now", "any_page", "referrer", "visits", "visit_age",
]  # fmt: skip
ContactFact = Literal["contact_field", "label", "lead_status", "on_list"]
WhereFact = Literal["area", "postal_code", "within", "nearest_location"]
OF_VISITS: tuple[TouchFact, ...] = ("landing_page", "page_now", "any_page", "referrer", "visits", "visit_age")
"""What a visit to the client's website tells."""


def _yes_no(question: Hashable, known: Knowledge, *answers: FactAnswer) -> FactClasses:
    return [(answer, after) for answer, after in known.settle(question, answers)]


@dataclass(frozen=True, slots=True)
class Withheld:
    """Whether the caller withholds their number."""

    def classes(self, known: Knowledge) -> FactClasses:
        return _yes_no(self, known, True, False)

    def fits(self, answer: object) -> bool:
        return isinstance(answer, bool)


class _Perhaps:
    """What is answered by yes, no, or not known."""

    __slots__ = ()

    def fits(self, answer: object) -> bool:
        return answer is None or isinstance(answer, bool)


class _OfNumber(_Perhaps):
    """What is known of every caller but those who withhold their number, and of none of those."""

    __slots__ = ()

    def classes(self, known: Knowledge) -> FactClasses:
        found: FactClasses = []
        for withheld, after in Withheld().classes(known):
            found += [(None, after)] if withheld else _yes_no(self, after, True, False)
        return found


@dataclass(frozen=True, slots=True)
class HasCalled(_OfNumber):
    """Whether the caller called this client so often within so many hours (None: ever), counting calls of some fates (none: of all)."""

    at_least: int
    hours: int | None
    came_to: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class LastCallCameTo(_OfNumber):
    """Whether the caller's latest call came to one of some fates, and was within so many hours (None: whenever)."""

    came_to: tuple[str, ...]
    hours: int | None


@dataclass(frozen=True, slots=True)
class LastSpokeWith(_OfNumber):
    """Whether whoever talked with the caller last, within so many hours (None: ever), is one of some people, by key."""

    people: tuple[str, ...]
    hours: int | None


@dataclass(frozen=True, slots=True)
class OfTouch(_Perhaps):
    """Whether the touch behind this call is one of some: the number dialed (E.164), its lead source (by key), campaign tags, what a visit
    to the website tells. `at_least` counts visits, `hours` is how old the latest is at most."""

    what: TouchFact
    any_of: tuple[str, ...] = ()
    at_least: int | None = None
    hours: int | None = None

    def classes(self, known: Knowledge) -> FactClasses:
        return _yes_no(self, known, True, False, *([] if self.what == "number" else [None]))


@dataclass(frozen=True, slots=True)
class OfContact(_Perhaps):
    """Whether what is kept of the caller as a contact is one of some texts: a field of a name, labels, the lead status, lists."""

    what: ContactFact
    of: str = ""
    any_of: tuple[str, ...] = ()

    def classes(self, known: Knowledge) -> FactClasses:
        return _yes_no(self, known, True, False, None)


@dataclass(frozen=True, slots=True)
class Where:
    """Whether the caller is somewhere: in one of some states, cities or area codes (`area`), at a postal code, within an area or so many
    kilometers of a place (`of`, by key), nearest to one of some places or people. `typed` is the postal code that was typed in
    this call, if one was."""

    what: WhereFact
    of: str = ""
    any_of: tuple[str, ...] = ()
    km: float | None = None
    typed: str = ""

    def classes(self, known: Knowledge) -> FactClasses:
        by: By = "typed" if self.typed else "area_code"
        return _yes_no(self, known, (True, by, 100), (False, by, 100), (None, "", 100))

    def fits(self, answer: object) -> bool:
        if not isinstance(answer, tuple) or len(answer) != 3:
            return False
        holds, by, percent = answer
        return (holds is None or isinstance(holds, bool)) and isinstance(by, str) and isinstance(percent, int)


@dataclass(frozen=True, slots=True)
class WhichShare:
    """Which hundredth (0 to 99) of a split the caller falls into. `bounds` are the first hundredths of the shares that the split tells
    apart."""

    split: str
    bounds: tuple[int, ...]

    def classes(self, known: Knowledge) -> FactClasses:
        return _yes_no(self, known, *sorted({0, *(one for one in self.bounds if one < 100)}))

    def fits(self, answer: object) -> bool:
        return isinstance(answer, int) and not isinstance(answer, bool) and 0 <= answer < 100


Fact = Withheld | HasCalled | LastCallCameTo | LastSpokeWith | OfTouch | OfContact | Where | WhichShare
