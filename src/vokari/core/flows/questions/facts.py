"""What conditions ask of the caller and of what is behind the call. All of it is fixed within a call; None stands for not known."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field
from typing import Literal, cast

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
SEVERAL: tuple[TouchFact, ...] = ("any_page", "visits", "visit_age")
"""Facts of a touch of which several can hold at once."""
OF_VISITS: tuple[TouchFact, ...] = ("landing_page", "page_now", "any_page", "referrer", "visits", "visit_age")
"""What a visit to the client's website tells."""


@dataclass(frozen=True, slots=True)
class Touch:
    """The touch behind a call: the number dialed (E.164), the key of its lead source and its campaign tags by name, and of a visit what
    it tells by name (texts, each fact some of them). A lead source or visit of None is not known."""

    number: str = ""
    lead_source: str | None = None
    tags: Mapping[str, str] = field(default_factory=dict)
    visit: Mapping[str, tuple[str, ...]] | None = None
    visits: int | None = None
    visit_age: float | None = None


def is_one(said: tuple[str, ...] | None, any_of: tuple[str, ...]) -> Known:
    """Whether one of some texts is one of others, however they are capitalized."""
    if said is None:
        return None
    wanted = {one.casefold() for one in any_of}
    return any(one.casefold() in wanted for one in said)


@dataclass(frozen=True, slots=True)
class Withheld:
    """Whether the caller withholds their number."""

    def classes(self, known: Knowledge) -> FactClasses:
        return [(answer, after) for answer, after in known.settle(self, (True, False))]

    def fits(self, answer: object) -> bool:
        return isinstance(answer, bool)


class _Perhaps:
    """What is answered by yes, no, or not known. Which answers of one caller go together is said by each kind: who called three times
    has called twice, and nobody is nearest to two places."""

    __slots__ = ()

    def fits(self, answer: object) -> bool:
        return answer is None or isinstance(answer, bool)

    def implies(self, other: Hashable) -> bool:
        """Whether the other is true of every caller of whom this is."""
        return False

    def excludes(self, other: Hashable) -> bool:
        """Whether no caller is both."""
        return False

    def is_of(self, other: Hashable) -> bool:
        """Whether the other looks at the same thing, which is known or not."""
        return False


def _agree(one: _Perhaps, said: Hashable, other: Hashable, known: Hashable) -> bool:
    """Whether two answers can both be true. Not known goes with everything but what is known of the same."""
    if not isinstance(other, _Perhaps):
        return True
    if one.is_of(other) and (said is None) is not (known is None):
        return False
    if said is True and known is False:
        return not one.implies(other)
    if said is False and known is True:
        return not other.implies(one)
    return not (said is True and known is True and one.excludes(other))


def _plain(answer: Hashable) -> Hashable:
    """Yes, no, or None, of an answer that says more."""
    return answer[0] if isinstance(answer, tuple) else answer


def _told(question: _Perhaps, known: Knowledge, *answers: FactAnswer) -> FactClasses:
    """Each of some answers that goes with what was told."""
    fitting = [
        one for one in answers if all(_agree(question, _plain(one), asked, _plain(told)) for asked, told in known.told)
    ]
    return [(answer, after) for answer, after in known.settle(cast(Hashable, question), fitting)]


def _told_by_number(question: _Perhaps, known: Knowledge, *answers: FactAnswer) -> FactClasses:
    """The same of what is known by the caller's number. The last answer is that nothing is known: always so where it is withheld."""
    nothing = answers[-1]
    if (Withheld(), True) in known.told:
        return [(nothing, known)]
    given = frozenset([(Withheld(), False)])
    return [
        (answer, after if answer == nothing else after._replace(told=after.told | given))
        for answer, after in _told(question, known, *answers)
    ]


def _within(hours: float | None, other: float | None) -> bool:
    return other is None or (hours is not None and hours <= other)


def _among(came_to: tuple[str, ...], other: tuple[str, ...]) -> bool:
    """Whether every call of some fates (none: of all) is one of others."""
    return not other or (bool(came_to) and set(came_to) <= set(other))


class _OfNumber(_Perhaps):
    """What is known of every caller but those who withhold their number, and of none of those."""

    __slots__ = ()

    def classes(self, known: Knowledge) -> FactClasses:
        found: FactClasses = []
        for withheld, after in Withheld().classes(known):
            found += [(None, after)] if withheld else _told(self, after, True, False)
        return found


@dataclass(frozen=True, slots=True)
class HasCalled(_OfNumber):
    """Whether the caller called this client so often within so many hours (None: ever), counting calls of some fates (none: of all)."""

    at_least: int
    hours: int | None
    came_to: tuple[str, ...] = ()

    def implies(self, other: Hashable) -> bool:
        return (
            isinstance(other, HasCalled)
            and self.at_least >= other.at_least
            and _within(self.hours, other.hours)
            and _among(self.came_to, other.came_to)
        )


@dataclass(frozen=True, slots=True)
class LastCallCameTo(_OfNumber):
    """Whether the caller's latest call came to one of some fates, and was within so many hours (None: whenever)."""

    came_to: tuple[str, ...]
    hours: int | None

    def implies(self, other: Hashable) -> bool:
        if isinstance(other, HasCalled):
            return (
                other.at_least == 1 and _within(self.hours, other.hours) and _among(self.came_to, other.came_to)
            )  # fmt: skip
        return (
            isinstance(other, LastCallCameTo)
            and _within(self.hours, other.hours)
            and set(self.came_to) <= set(other.came_to)
        )

    def excludes(self, other: Hashable) -> bool:
        return isinstance(other, LastCallCameTo) and not set(self.came_to) & set(other.came_to)


@dataclass(frozen=True, slots=True)
class LastSpokeWith(_OfNumber):
    """Whether whoever talked with the caller last, within so many hours (None: ever), is one of some people, by key."""

    people: tuple[str, ...]
    hours: int | None

    def implies(self, other: Hashable) -> bool:
        if isinstance(other, HasCalled):
            return other.at_least == 1 and _within(self.hours, other.hours) and _among(("answered",), other.came_to)
        return (
            isinstance(other, LastSpokeWith)
            and _within(self.hours, other.hours)
            and set(self.people) <= set(other.people)
        )

    def excludes(self, other: Hashable) -> bool:
        return isinstance(other, LastSpokeWith) and not set(self.people) & set(other.people)


@dataclass(frozen=True, slots=True)
class OfTouch(_Perhaps):
    """Whether the touch behind this call is one of some: the number dialed (E.164), its lead source (by key), campaign tags, what a visit
    to the website tells. `at_least` counts visits, `hours` is how old the latest is at most."""

    what: TouchFact
    any_of: tuple[str, ...] = ()
    at_least: int | None = None
    hours: int | None = None

    def classes(self, known: Knowledge) -> FactClasses:
        """Of a number whose touch is known what that tells; a visit may tell anything."""
        if known.numbers.each and self.what not in OF_VISITS:
            return [*known.by_number(self, self.told_by)]
        return _told(self, known, True, False, *([] if self.what == "number" else [None]))

    def told_by(self, touch: Touch) -> Known:
        """What a touch tells."""
        match self.what:
            case "number":
                return touch.number in self.any_of
            case "lead_source":
                return None if touch.lead_source is None else touch.lead_source in self.any_of
            case "campaign" | "source" | "medium" | "keyword" | "content":
                said = touch.tags.get(self.what)
                return is_one(None if said is None else (said,), self.any_of)
            case "visits":
                return None if touch.visits is None else touch.visits >= (self.at_least or 1)
            case "visit_age":
                if touch.visit_age is None:
                    return None
                return self.hours is None or touch.visit_age <= self.hours
        return None if touch.visit is None else is_one(touch.visit.get(self.what), self.any_of)

    def is_of(self, other: Hashable) -> bool:
        return isinstance(other, OfTouch) and self.what == other.what

    def implies(self, other: Hashable) -> bool:
        if not isinstance(other, OfTouch) or self.what != other.what:
            return False
        if self.what == "visits":
            return (self.at_least or 1) >= (other.at_least or 1)
        return _within(self.hours, other.hours) if self.what == "visit_age" else set(self.any_of) <= set(other.any_of)

    def excludes(self, other: Hashable) -> bool:
        return (
            self.is_of(other) and self.what not in SEVERAL and not set(self.any_of) & set(cast(OfTouch, other).any_of)
        )


@dataclass(frozen=True, slots=True)
class OfContact(_Perhaps):
    """Whether what is kept of the caller as a contact is one of some texts: a field of a name, labels, the lead status, lists."""

    what: ContactFact
    of: str = ""
    any_of: tuple[str, ...] = ()

    def classes(self, known: Knowledge) -> FactClasses:
        return _told_by_number(self, known, True, False, None)

    def is_of(self, other: Hashable) -> bool:
        return isinstance(other, OfContact) and (self.what, self.of) == (other.what, other.of)

    def implies(self, other: Hashable) -> bool:
        return self.is_of(other) and set(self.any_of) <= set(cast(OfContact, other).any_of)

    def excludes(self, other: Hashable) -> bool:
        return (
            self.what == "lead_status"
            and self.is_of(other)
            and not set(self.any_of) & set(cast(OfContact, other).any_of)
        )


@dataclass(frozen=True, slots=True)
class Where(_Perhaps):
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
        told = _told if self.typed else _told_by_number
        return told(self, known, (True, by, 100), (False, by, 100), (None, "", 100))

    def _alike(self, other: Hashable) -> bool:
        return isinstance(other, Where) and (self.what, self.of, self.typed) == (other.what, other.of, other.typed)

    def is_of(self, other: Hashable) -> bool:
        return self.what in ("postal_code", "nearest_location") and self._alike(other)

    def implies(self, other: Hashable) -> bool:
        if not isinstance(other, Where) or not self._alike(other):
            return False
        if self.what == "within":
            return self.km is not None and other.km is not None and self.km <= other.km
        return set(self.any_of) <= set(other.any_of)

    def excludes(self, other: Hashable) -> bool:
        return self.is_of(other) and not set(self.any_of) & set(cast(Where, other).any_of)

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
        hundredths = sorted({0, *(one for one in self.bounds if one < 100)})
        return [(answer, after) for answer, after in known.settle(self, hundredths)]

    def fits(self, answer: object) -> bool:
        return isinstance(answer, int) and not isinstance(answer, bool) and 0 <= answer < 100


Fact = Withheld | HasCalled | LastCallCameTo | LastSpokeWith | OfTouch | OfContact | Where | WhichShare
