"""What is known of a caller and of the touch behind a call, and the answers to questions about it: live, rehearsed or simulated."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from ...callers.past import Past
from ...callers.shares import hundredth
from ...places.distance import Point
from ...places.whereabouts import UNKNOWN, Found, Signs, Whereabouts
from ..questions.facts import (
    Fact,
    FactAnswer,
    HasCalled,
    LastCallCameTo,
    LastSpokeWith,
    OfContact,
    OfTouch,
    Touch,
    Where,
    WhichShare,
    Withheld,
    is_one,
)


@dataclass(frozen=True)
class Caller:
    """Whoever calls, as far as conditions can ask. `touch`, `past` and `places` are read when they are first asked for; `contact` gives the texts
    of something that is kept of them, None where that is not known; `sign` is what tells this caller, or a call that withholds its
    number, from others, and `secret` the key by which shares are drawn."""

    number: str = ""
    touch: Callable[[], Touch] = Touch
    past: Callable[[], Past] | None = None
    places: Callable[[], Whereabouts] | None = None
    earlier_code: Callable[[], str] = lambda: ""
    contact: Callable[[str, str], tuple[str, ...] | None] = lambda _what, _of: None
    sign: str = ""
    secret: bytes = b""
    share: Mapping[str, int] = field(default_factory=dict)

    def answer(self, question: Fact) -> FactAnswer:
        """The answer to a question about the caller or the touch; None where it is not known."""
        match question:
            case Withheld():
                return not self.number
            case HasCalled():
                return self.past().called(question.at_least, question.hours, question.came_to) if self.past else None
            case LastCallCameTo():
                return self.past().last_call(question.hours, question.came_to) if self.past else None
            case LastSpokeWith():
                return self.past().last_spoke_with(question.people, question.hours) if self.past else None
            case OfTouch():
                return question.told_by(self.touch())
            case OfContact():
                return is_one(self.contact(question.what, question.of), question.any_of)
            case Where():
                return self._where(question)
            case WhichShare():
                known = self.share.get(question.split)
                return hundredth(self.secret, self.sign or self.number, question.split) if known is None else known

    def _where(self, question: Where) -> Found:
        if self.places is None:
            return UNKNOWN
        where = self.places()
        contact = self.contact("contact_field", "postal code")
        signs = Signs(
            question.typed, contact[0] if contact else "", self.earlier_code() if self.number else "", self.number
        )
        match question.what:
            case "area":
                return where.in_place(question.any_of, signs)
            case "postal_code":
                return where.has_code(question.any_of, signs)
            case "nearest_location":
                points: Mapping[str, Point] = where.territories() if question.of == "people" else where.middles()
                return where.nearest(points, question.any_of, signs)
        if question.km is not None:
            return where.within_km(question.of, question.km, signs)
        area = where.places.area(question.of)
        return where.within(area, signs) if area else UNKNOWN
