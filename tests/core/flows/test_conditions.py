"""Conditions on the caller, the touch, the place and what is typed: in words and back, and what a flow does by them."""

from datetime import UTC, datetime, timedelta

import pytest

from tests.flows import Talk, document, say
from vokari.core.callers.past import EarlierCall, Past
from vokari.core.flows.conditions.base import HoursNames, Names
from vokari.core.flows.conditions.tests import TESTS, splits
from vokari.core.flows.drafting import typed_conditions
from vokari.core.flows.model.condition import Condition
from vokari.core.flows.model.steps import Junction
from vokari.core.flows.questions.facts import HasCalled, Touch, WhichShare, Withheld
from vokari.core.flows.questions.kinds import Answer, Question, everyone_free
from vokari.core.flows.questions.knowledge import NOTHING
from vokari.core.flows.running.events import Digit, Finished
from vokari.core.flows.running.facts import Caller
from vokari.core.places.document import Area, Place, Places
from vokari.core.places.whereabouts import Whereabouts

NAMES = Names(
    {"yard": HoursNames("Yard", {"desk": "Front desk"}, ("Harbor fair", "Independence Day"))}, {"ada": "Ada Lund", "ben": "Ben, Jr."},
    {"van": "Van lettering", "ad": "Spring ad"}, {"yard": "Yard", "shop": "Ann Arbor and more"}, {"bay": "Bay area"}, ("order_number", "answer"),
)  # fmt: skip
NOW = datetime(2026, 11, 24, 17, tzinfo=UTC)

TYPED = [
    ("first call", "first call"), ("the first call", "first call"), ("called before", "called before"), ("called 3 times", "called 3 times"),
    ("called 3 times or more in the last 30 days", "called 3 times in 30 days"), ("called in a week", "called in 7 days"),
    ("lost in 2 hours", "lost in 2 hours"), ("left a message/lost 2 times in 14 days", "left a message/lost 2 times in 14 days"),
    ("last call turned away", "last call turned away"), ("last call lost within 1 day and 6 hours", "last call lost in 1 day and 6 hours"),
    ("spoke with Ada Lund in 90 days", "last spoke with Ada Lund in 90 days"), ('last spoke with "Ben, Jr."', 'last spoke with "Ben, Jr."'),
    ("last spoke with Ada Lund or last spoke with \"Ben, Jr.\"", 'last spoke with Ada Lund or last spoke with "Ben, Jr."'),
    ("number withheld", "withheld"), ("label regular or label boat owner", "label regular or label boat owner"),
    ("lead status is qualified", "lead status qualified"), ("on list Suppliers", "on list Suppliers"),
    ("contact boat type is \"ketch (old)\"", 'contact boat type is "ketch (old)"'), ("dialed (410) 555-0142", "dialed 410-555-0142"),
    ("lead source Spring ad", "lead source Spring ad"), ("campaign spring-launch", "campaign spring-launch"),
    ('campaign "rock and roll"', 'campaign "rock and roll"'), ("source newsletter", "source newsletter"), ("medium email", "medium email"),
    ("keyword boat lift", "keyword boat lift"), ("landing page /prices", "landing page /prices"), ("3 visits", "3 visits or more"),
    ("visited in 2 hours", "visited in 2 hours"), ("area code 410", "area code 410"), ("in md", "in Maryland"), ("in Annapolis MD", "in Annapolis MD"),
    ("postcode 214*", "postal code 214*"), ("within the Bay area", "within Bay area"), ("within 25 mi of Yard", "within 25 miles of Yard"),
    ("within 30 km of Yard", "within 30 km of Yard"), ('nearest to "Ann Arbor and more"', 'nearest to "Ann Arbor and more"'),
    ("nearest Ada Lund", "nearest to Ada Lund"), ("Order number is 12345 or order number is 1", "order number is 12345 or order number is 1"),
    ("language spanish", "language Spanish"), ("30% of callers", "30 % of callers"), ("exception Harbor fair", 'exception Harbor fair'),
    ("not (first call and in Maryland) or 30 % of callers", "not (first call and in Maryland) or 30 % of callers"),
]  # fmt: skip


@pytest.mark.parametrize(("typed", "written"), TYPED)
def test_every_condition_is_typed_and_written_so_that_it_reads_the_same(typed: str, written: str) -> None:
    read = typed_conditions.read(typed, NAMES)
    assert isinstance(read, Condition), read
    assert typed_conditions.write(read, NAMES) == written
    assert typed_conditions.read(written, NAMES) == read


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("130 % of callers", "1 to 100 %"), ("0% of callers", "1 to 100 %"), ("within 0 miles of Yard", "more than nothing"),
        ("within Moor", "no area"), ("within 3 miles of Moor", "no place"), ("in Atlantis", "no state"), ("nearest to Moor", "no place"),
        ("postal code SW1A", "of digits"), ("called", "how often"), ("called 500 times", "up to 100"), ("lost in 9999 days", "no time to look back"),
        ("last spoke with Zed", "None of the client’s people"), ("lead source Zed", "no lead source"), ("dialed 12", ""), ("language Klingonish", "no language"),
        ("shoe size is 44", "Nothing in this flow keeps"), ("last call", "what came of it"), ("area code four", "in digits"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_in_words(typed: str, says: str) -> None:
    read = typed_conditions.read(typed, NAMES)
    assert isinstance(read, str)
    assert says in read


def test_all_that_is_offered_can_be_typed() -> None:
    every = {
        read.test
        for text in typed_conditions.offered(NAMES)
        if isinstance(read := typed_conditions.read(text, NAMES), Condition)
    }
    assert not [text for text in typed_conditions.offered(NAMES) if isinstance(typed_conditions.read(text, NAMES), str)]
    assert every >= set(TESTS) - {"dates", "times", "number_dialled"}


PLACES = Whereabouts(
    Places(places=(Place(key="yard", name="Yard", postal_code="21401"), Place(key="shop", name="Shop", postal_code="21613")),
           areas=(Area(key="bay", name="Bay", codes=("214*",)),)), "US",
)  # fmt: skip


def goes(typed: str, caller: Caller, names: Names = NAMES) -> bool:
    """Whether a caller takes the exit of a condition."""
    when = typed_conditions.read(typed, names)
    assert isinstance(when, Condition), when
    sorting = {
        "kind": "junction",
        "id": "j",
        "branches": [{"id": "b", "when": when.model_dump(mode="json"), "to": "x"}],
        "otherwise": "y",
    }

    def source(question: Question) -> Answer:
        return (
            caller.answer(question)
            if hasattr(caller, "answer") and type(question).__module__.endswith("facts")
            else everyone_free(question)
        )

    return Talk(document(sorting, say("x", "Yes"), say("y", "No")), source).words == ["Yes"]


PAST = Past(
    NOW, [EarlierCall(NOW - timedelta(hours=1), "lost"), EarlierCall(NOW - timedelta(days=20), "answered", "ada")]
)
KNOWN = Caller(
    "+14105550123", lambda: Touch("+14105550142", "van", {"campaign": "Spring-Launch", "medium": ""}), lambda: PAST, lambda: PLACES,
    sign="+14105550123", secret=b"k" * 32,
)  # fmt: skip


@pytest.mark.parametrize(
    ("typed", "holds"),
    [
        ("first call", False), ("called 2 times in 30 days", True), ("called 2 times in 2 days", False), ("lost in 2 hours", True),
        ("last call lost in 30 days", True), ("last call answered", False), ("last spoke with Ada Lund in 30 days", True),
        ("last spoke with Ada Lund in 10 days", False), ("withheld", False), ("lead source Van lettering", True), ("campaign spring-launch", True),
        ("dialed 410 555 0142", True), ("within Bay area", False), ("in Maryland", True), ("not in Maryland", False), ("100 % of callers", True),
        ("label regular", False), ("not label regular", False), ("landing page /x or in Maryland", True), ("3 visits", False),
    ],
)  # fmt: skip
def test_a_caller_is_sorted_by_what_is_known_of_them(typed: str, holds: bool) -> None:
    assert goes(typed, KNOWN) is holds


def test_of_a_withheld_number_neither_a_past_nor_a_place_is_known() -> None:
    nobody = Caller("", past=lambda: Past(NOW, known=False), places=lambda: PLACES, sign="call 7", secret=b"k" * 32)
    assert goes("withheld", nobody)
    for typed in ("first call", "not first call", "called before", "in Maryland", "not in Maryland", "nearest to Yard"):
        assert not goes(typed, nobody), typed
    assert goes("50 % of callers or not 50 % of callers", nobody), "a share is drawn for the call then"


def test_a_typed_postal_code_leads_to_the_nearest_place() -> None:
    near = {"test": "nearest_location", "of": "places", "any_of": ["shop"]}
    flow = document(
        {"kind": "keypad_entry", "id": "k", "prompt": {"say": "Your code"}, "shortest": 5, "longest": 5, "store_as": "postal_code", "typed": "j"},
        {"kind": "junction", "id": "j", "branches": [{"id": "b", "when": near, "to": "shop"}], "otherwise": "yard"},
        say("shop", "The shop"), say("yard", "The yard"),
    )  # fmt: skip
    for code, words in (("21622", "The shop"), ("21403", "The yard")):
        talk = Talk(
            flow, lambda one: KNOWN.answer(one) if type(one).__module__.endswith("facts") else everyone_free(one)
        )  # type: ignore[arg-type]
        talk(Finished(talk.state.awaiting), *map(Digit, code))
        assert talk.words == [words]


def test_the_shares_of_a_junction_follow_each_other() -> None:
    split = Junction.model_validate(
        {"id": "j", "branches": [{"id": one, "to": "x", "when": {"test": "share", "percent": part}} for one, part in (("a", 30), ("b", 50), ("c", 30))]}
    )  # fmt: skip
    assert splits(split).whole == 110
    flow = document(
        split.model_copy(update={"otherwise": "z"}).model_dump(mode="json")
        | {
            "branches": [
                one | {"to": to} for one, to in zip(split.model_dump(mode="json")["branches"], "abc", strict=True)
            ]
        },
        *(say(one, one) for one in "abcz"),
    )
    found = [
        Talk(flow, lambda one, n=n: n if isinstance(one, WhichShare) else everyone_free(one)).words[0]
        for n in range(100)
    ]  # type: ignore[misc]
    assert found == ["a"] * 30 + ["b"] * 50 + ["c"] * 20


def test_what_was_told_once_is_known() -> None:
    for answer, after in HasCalled(1, None).classes(NOTHING):
        assert [one for one, _ in HasCalled(1, None).classes(after)] == [answer]
        assert [one for one, _ in Withheld().classes(after)] == [answer is None]
