"""Facts that somebody sets: what a rehearsal or the simulator says of a caller, one line each, only those that a flow looks at."""

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from ...callers.past import EarlierCall, Past
from ...places.whereabouts import Whereabouts
from ..conditions.base import Names
from ..conditions.of_caller import FATE_WORDS
from ..conditions.tests import looks, splits
from ..model.steps import AnyStep, Junction
from ..questions.facts import OF_VISITS, Touch
from .facts import Caller

FIRST_NAME = "first name"
"""The field of a contact that words say as {caller}."""
PAST_TESTS = ("first_call", "called", "last_call", "last_spoke_with")
TAG_TESTS = ("campaign", "source", "medium", "keyword", "content")
CONTACT_TESTS = ("on_list", "lead_status", "label")
PLACE_TESTS = ("area", "postal_code", "within", "nearest_location")
_BY_WORDS = {words: fate for fate, words in FATE_WORDS.items()}
_EARLIER = re.compile(
    rf"({'|'.join(sorted(FATE_WORDS.values(), key=len, reverse=True))})\s+(\d{{1,4}})\s+(minute|hour|day|week|month)s?\s+ago(?:\s+by\s+(.+))?",
    re.I,
)
_HOURS = {"minute": 1 / 60, "hour": 1.0, "day": 24.0, "week": 168.0, "month": 720.0}


@dataclass(frozen=True, slots=True)
class FactLine:
    """One line that can be set: its key, what it is called, an example of it, and what may be chosen (none: it is typed)."""

    key: str
    words: str
    example: str = ""
    choices: tuple[tuple[str, str], ...] = ()


def lines(steps: Iterable[AnyStep], names: Names) -> list[FactLine]:
    """The lines that make a difference to some steps, each once."""
    steps = list(steps)
    junctions = [step for step in steps if isinstance(step, Junction)]
    facts = {leaf for step in junctions for branch in step.branches for leaf in looks(branch.when).facts}
    tests = {leaf.test for leaf in facts}
    found: list[FactLine] = []
    if tests.intersection(PAST_TESTS):
        found.append(FactLine("past", "Earlier calls", "lost 1 hour ago, answered 20 days ago by Ada"))
    if "lead_source" in tests:
        found.append(FactLine("lead_source", "Lead source", choices=tuple(names.sources.items())))
    found += [FactLine(one, f"Campaign tag: {one}") for one in TAG_TESTS if one in tests]
    if tests.intersection(PLACE_TESTS):
        found.append(
            FactLine(
                "postal_code", "Postal code typed in an earlier call", "21401" if names.country == "US" else "01273"
            )
        )
    found += [
        FactLine(one, f"Web visit: {one.replace('_', ' ')}", _VISIT_EXAMPLES[one]) for one in OF_VISITS if one in tests
    ]
    found += [FactLine(one, f"Contact: {one.replace('_', ' ')}") for one in CONTACT_TESTS if one in tests]
    fields = {leaf.of or "" for leaf in facts if leaf.test == "contact_field"}
    if any("{caller" in one.prompt.say for step in steps for one in step.plays()):
        fields.add(FIRST_NAME)
    found += [FactLine(f"contact {one}", f"Contact: {one}") for one in sorted(fields)]
    for step in junctions:
        if splits(step).bounds:
            found.append(
                FactLine(f"share {step.id}", f"Share of callers at {step.called}", choices=tuple(_shares(step, names)))
            )
    return found


_VISIT_EXAMPLES = {
    "landing_page": "/prices", "page_now": "/prices", "any_page": "/prices, /opening-times", "referrer": "example.org", "visits": "3",
    "visit_age": "2 hours",
}  # fmt: skip


def _shares(step: Junction, names: Names) -> Iterable[tuple[str, str]]:
    """The shares of a junction by the hundredth at which each begins, and what is left."""
    shares = splits(step)
    for branch in step.branches:
        for leaf in branch.when.leaves():
            if leaf.test == "share" and shares.begins[id(leaf)] < 100:
                yield str(shares.begins[id(leaf)]), f"{branch.name or 'a share'} ({leaf.percent} %)"
    if shares.whole < 100:
        yield str(shares.whole), f"the others ({100 - shares.whole} %)"


def read_past(text: str, at: datetime, people: Mapping[str, str]) -> Past | str:
    """Earlier calls as they are typed: “lost 1 hour ago, answered 20 days ago by Ada”; or a sentence. `people` are names by key."""
    found = []
    for one in (part.strip() for part in re.split(r"[,;\n]+", text)):
        if not one:
            continue
        match = _EARLIER.fullmatch(one)
        if match is None:
            return f"“{one[:40]}” is no earlier call: write lost 1 hour ago, answered 20 days ago by Ada."
        who = next(
            (key for key, name in people.items() if match[4] and name.casefold() == match[4].strip().casefold()), ""
        )
        if match[4] and not who:
            return f"None of the client’s people is called “{match[4].strip()[:40]}”."
        ago = timedelta(hours=int(match[2]) * _HOURS[match[3].lower()])
        found.append(EarlierCall(at - ago, _BY_WORDS[" ".join(match[1].lower().split())], who))
    return Past(at, sorted(found, key=lambda one: one.at, reverse=True))


def wrong(values: Mapping[str, str], at: datetime, names: Names) -> dict[str, str]:
    """What of some values cannot be read, as sentences by key."""
    found = {}
    past = read_past(values.get("past", ""), at, names.people)
    if isinstance(past, str):
        found["past"] = past
    code = values.get("postal_code", "").strip()
    if code and not re.fullmatch(r"\d{2,10}", code):
        found["postal_code"] = "Callers type postal codes of digits."
    visits, age = values.get("visits", "").strip(), values.get("visit_age", "").strip()
    if visits and not re.fullmatch(r"\d{1,4}", visits):
        found["visits"] = "Write how many visits."
    if age and _age(age) is None:
        found["visit_age"] = "Write how old it is: 2 hours, 3 days."
    return found


def _age(text: str) -> float | None:
    match = re.fullmatch(r"(\d{1,4})\s*(minute|hour|day|week|month)s?(?:\s+ago)?", text.strip(), re.I)
    return int(match[1]) * _HOURS[match[2].lower()] if match else None


def caller(
    values: Mapping[str, str], number: str, at: datetime, names: Names, touch: Callable[[], Touch], places: Callable[[], Whereabouts],
    secret: bytes, sign: str,
) -> Caller:  # fmt: skip
    """A caller of whom so much was said. `touch` is that of the number dialed, of which a line said otherwise comes first; what nobody
    said of a contact or a visit is not known."""

    def past() -> Past:
        read = read_past(values.get("past", ""), at, names.people)
        return Past(at, known=False) if not number or isinstance(read, str) else read

    def touched() -> Touch:
        usual = touch()
        tags = {**usual.tags, **{one: values[one].strip() for one in TAG_TESTS if values.get(one, "").strip()}}
        pages: dict[str, tuple[str, ...]] = {
            one: _texts(values[one]) for one in OF_VISITS if values.get(one, "").strip()
        }
        visits, age = values.get("visits", "").strip(), values.get("visit_age", "").strip()
        return Touch(
            usual.number, values.get("lead_source") or usual.lead_source, tags, pages or None, int(visits) if visits.isdigit() else None,
            _age(age) if age else None,
        )  # fmt: skip

    def contact(what: str, of: str) -> tuple[str, ...] | None:
        said = values.get(f"contact {of}" if what == "contact_field" else what, "").strip()
        return _texts(said) if said else None

    shares = {
        key.removeprefix("share "): int(value)
        for key, value in values.items()
        if key.startswith("share ") and value.isdigit()
    }
    return Caller(
        number, touched, past, places, lambda: values.get("postal_code", "").strip(), contact, sign, secret, shares
    )  # fmt: skip


def _texts(text: str) -> tuple[str, ...]:
    return tuple(one.strip() for one in text.split(",") if one.strip())
