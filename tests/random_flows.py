"""Random flows: every kind of step and condition that runs, led anywhere, sound or not; and answers to what they ask."""

import random
from datetime import UTC, date, datetime
from typing import Any

from hypothesis import strategies as st

from tests.flows import document, phone
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.steps import KINDS
from vokari.core.flows.questions.kinds import Answer, AnswerSource, Question
from vokari.core.flows.questions.knowledge import Knowledge, Moment
from vokari.core.flows.running import engine
from vokari.core.flows.running.flow import Flow

IDS = [f"s{n}" for n in range(8)]
NOON = datetime(2026, 11, 24, 17, tzinfo=UTC)
MORNINGS = "Mon-Fri 08:00-12:00"
KNOWN = Knowledge.of(
    tuple(
        Moment(NOON, {"yard": (period, exceptional)}, day, weeks, {"yard": "Fair"} if exceptional else {})
        for period in ("desk", "shop", "closed") for exceptional in (False, True)
        for day in (date(2026, 11, 24), date(2026, 12, 24)) for weeks in (frozenset(), frozenset([MORNINGS]))
    )
)  # fmt: skip
"""A world with one set of hours, in which anything can hold on a day like another and on Christmas Eve, in the morning or not."""

_targets = st.one_of(st.none(), st.sampled_from([*IDS, "end"]))
_keys = st.lists(st.sampled_from(["1", "2", "12", "123", "3", "*", "#", "0", "4567"]), unique=True, max_size=5)
_words = st.sampled_from([{"say": ""}, {"say": "Hello"}, {"say": "Press one"}])
_maybe_words = st.one_of(st.none(), _words)
_extensions = st.one_of(st.just({}), st.builds(lambda to: {"dial_extensions": True, "extension": to}, _targets))
_accept = st.sampled_from([None, {"key": "1"}])
_recording = st.sampled_from(
    [
        {},
        {"purpose": "all"},
        {"purpose": "all", "sources": ["adverts"]},
        {"purpose": "learn"},
        {"purpose": "learn", "keep_key": None},
    ]
)
_leaves = st.one_of(
    st.builds(lambda p: {"test": "period", "of": "yard", "any_of": p}, st.sampled_from([["desk"], ["shop", "closed"]])),
    st.just({"test": "exception", "of": "yard"}),
    st.builds(
        lambda d: {"test": "dates", "any_of": [d]},
        st.sampled_from(["2026-12-24/2026-12-26", "--12-01/--12-31", "--12-24"]),
    ),
    st.just({"test": "times", "any_of": [MORNINGS]}),
    st.builds(
        lambda v: {"test": "value", "of": "entry", "any_of": v}, st.sampled_from([["12"], ["2468", "3"], ["value"]])
    ),
    st.sampled_from(
        [
            {"test": "first_call"},
            {"test": "called", "at_least": 3, "days": 30},
            {"test": "called", "any_of": ["lost"], "hours": 2},
            {"test": "last_call", "any_of": ["lost"]},
            {"test": "last_spoke_with", "any_of": ["ada"]},
            {"test": "withheld"},
            {"test": "label", "any_of": ["regular"]},
            {"test": "lead_source", "any_of": ["adverts"]},
            {"test": "campaign", "any_of": ["spring"]},
            {"test": "area", "any_of": ["US-MD"]},
            {"test": "within", "of": "bay"},
            {"test": "postal_code", "any_of": ["21401"]},
            {"test": "nearest_location", "of": "places", "any_of": ["yard"]},
            {"test": "language", "any_of": ["es"]},
            {"test": "share", "percent": 30},
            {"test": "share", "percent": 50},
            {"test": "exception", "of": "yard", "any_of": ["Fair"]},
            {"test": "value", "of": "extension", "any_of": ["739"]},
        ]
    ),
)
_conditions = st.recursive(
    _leaves,
    lambda inner: st.builds(
        lambda test, parts: {"test": test, "parts": parts},
        st.sampled_from(["all", "any", "not"]),
        st.lists(inner, max_size=3),
    ),
    max_leaves=4,
)


def _destinations(draw: st.DrawFn) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = [phone("P", f"+141055501{60 + n}") for n in range(draw(st.integers(0, 3)))]
    for one in found:
        one["answered"] = draw(st.sampled_from(["picked_up", "picked_up", "dialed", "key", "service"]))
        one["number"] += draw(st.sampled_from(["", "", ";ext=24"]))
    if draw(st.integers(0, 3)) == 0:
        found.append({"kind": "team", "id": "dt", "team": "crew"})
    if draw(st.integers(0, 5)) == 0:
        found.append({"kind": "dialed", "id": "dd"})
    return found


def _fields(draw: st.DrawFn, kind: str) -> dict[str, Any]:
    """What a kind has besides its exits."""
    match kind:
        case "announcement":
            counts = draw(st.sampled_from(["nothing", "served", "turned_away"]))
            return {
                "prompt": draw(_words),
                "times": draw(st.integers(1, 3)),
                "notice": draw(st.booleans()),
                "counts_as": counts,
            }
        case "menu":
            branches = [
                {"id": f"k{n}", "keys": key,
                 **({"hear_again": True} if draw(st.integers(0, 5)) == 0 else {"to": draw(_targets)}),
                 "language": draw(st.sampled_from([None, "es"])), "source": draw(st.sampled_from([None, "adverts"]))}
                for n, key in enumerate(draw(_keys))
            ]  # fmt: skip
            return {
                "prompt": draw(_words),
                "branches": branches,
                "tries": draw(st.integers(1, 3)),
                "retry_wrong": draw(_maybe_words),
                **draw(_extensions),
            }
        case "keypad_entry":
            shortest = draw(st.integers(1, 3))
            return {
                "prompt": draw(_words),
                "shortest": shortest,
                "longest": draw(st.integers(shortest, 5)),
                "tries": draw(st.integers(1, 2)),
                "store_as": draw(st.sampled_from(["entry", "postal_code"])),
            }
        case "continue_in":
            ways = draw(st.lists(st.sampled_from(["booked", "Not Booked", "other"]), unique=True, max_size=2))
            return {
                "flow": draw(st.sampled_from(["", "fa", "fb"])),
                "returns": [{"id": f"w{n}", "name": way, "to": draw(_targets)} for n, way in enumerate(ways)],
            }
        case "come_back":
            return {"way": draw(st.sampled_from(["", "Booked", "not booked"]))}
        case "junction":
            count = draw(st.integers(0, 3))
            return {
                "branches": [{"id": f"b{n}", "when": draw(_conditions), "to": draw(_targets)} for n in range(count)]
            }
        case "ring":
            return {
                "to": _destinations(draw), "strategy": draw(st.sampled_from(["in_order", "all_at_once", "round_robin"])),
                "rounds": draw(st.integers(1, 2)), "accept": draw(_accept), "limit": draw(st.sampled_from([None, 30])),
                "hears": draw(st.sampled_from([{}, {"words": "From {said name}."}])), "recording": draw(_recording),
                "machine_detection": draw(st.booleans()), "hold_sound": draw(_maybe_words),
            }  # fmt: skip
        case "hold_line":
            return {
                "team": "crew", "leave_key": draw(st.sampled_from([None, "1", "*"])), "accept": draw(_accept),
                "announce_every": draw(st.sampled_from([None, 15])), "longest_wait": draw(st.sampled_from([10, 60])),
                "recording": draw(_recording), "music": draw(_maybe_words),
            }  # fmt: skip
        case "look_up":
            return {"url": "https://orders.example.com", "store_as": draw(st.sampled_from(["entry", "answer"]))}
        case "voicemail":
            return {"greeting": draw(_words)}
        case "label":
            return {"labels": ["lead"], "lead_status": draw(st.sampled_from([None, "qualified"]))}
        case "hang_up":
            return {"prompt": draw(_words), "refusal": draw(st.booleans())}
    return {}


@st.composite
def _steps(draw: st.DrawFn, step: str) -> dict[str, Any]:
    kind = draw(st.sampled_from(list(KINDS)))
    exits = {field: draw(_targets) for field, _ in KINDS[kind].ways}
    if kind == "ring" and draw(st.booleans()):
        exits["busy"] = "same"
    return {"id": step, "kind": kind, "name": draw(st.sampled_from(["", "A", "Yard"])), **exits, **_fields(draw, kind)}


@st.composite
def random_documents(draw: st.DrawFn) -> FlowDocument:
    """Flows of up to eight steps, led anywhere, sound or not."""
    count = draw(st.integers(1, len(IDS)))
    known = set(IDS[:count])
    steps = [draw(_steps(step)) for step in IDS[:count]]

    def mend(raw: dict[str, Any]) -> dict[str, Any]:
        """Targets that are not there become none."""
        return {
            name: None if value in IDS and value not in known else value for name, value in raw.items() if name != "id"
        } | {"id": raw["id"]}

    def led(step: dict[str, Any]) -> dict[str, Any]:
        ways = {field: [mend(one) for one in step[field]] for field in ("branches", "returns") if field in step}
        return mend({**step, **ways})

    mended = [led(step) for step in steps]
    rescue = draw(st.one_of(st.none(), st.sampled_from(sorted(known))))
    return document(*mended, rescue=rescue, entry_limit=draw(st.sampled_from([2, 10])))


@st.composite
def random_flows(draw: st.DrawFn) -> Flow:
    """The same made ready to run, with up to two flows that they and these continue in, rings of flows included."""
    inner = {key: draw(random_documents()) for key in ("fa", "fb") if draw(st.booleans())}
    return engine.prepare(draw(random_documents()), inner)


@st.composite
def large_documents(draw: st.DrawFn) -> FlowDocument:
    """Flows of up to 40 steps: several of up to eight, of which each leads on to the next by most of the exits that led nowhere or
    ended the call, from a step of many exits on."""
    parts, chance = (
        draw(st.lists(random_documents(), min_size=3, max_size=5)),
        random.Random(draw(st.integers(0, 2**32))),
    )
    raw = [part.model_dump(mode="json") for part in parts]
    steps = []
    for place, part in enumerate(raw):
        after = [f"p{place + 1}{step['id']}" for step in raw[place + 1]["steps"]] if place + 1 < len(raw) else []
        for step in part["steps"]:
            ways = [name for name, value in step.items() if name != "id" and value in IDS]
            ways += [name for name, _ in KINDS[step["kind"]].ways if step[name] in (None, "end")]
            step |= _moved({name: step[name] for name in ways}, place, after, chance)
            for one in (*step.get("branches", ()), *step.get("returns", ())):
                one |= _moved({"to": one["to"]}, place, after, chance)
            steps.append(step | {"id": f"p{place}{step['id']}"})
    rescue = raw[-1]["rescue"] and f"p{len(raw) - 1}{raw[-1]['rescue']}"
    start = max(parts[0].steps, key=lambda one: len(one.exits)).id
    return document(*steps, start=f"p0{start}", rescue=rescue, entry_limit=parts[0].entry_limit)


def _moved(ways: dict[str, Any], place: int, after: list[str], chance: random.Random) -> dict[str, Any]:
    """Where exits lead within one of several flows that follow each other."""
    return {
        name: f"p{place}{to}" if to in IDS else chance.choice(after) if to in (None, "end") and after and chance.random() < 0.8 else to
        for name, to in ways.items()
    }  # fmt: skip


@st.composite
def large_flows(draw: st.DrawFn) -> Flow:
    """The same made ready to run, with up to two flows that they continue in."""
    inner = {key: draw(random_documents()) for key in ("fa", "fb") if draw(st.booleans())}
    return engine.prepare(draw(large_documents()), inner)


def answered(choose: int) -> AnswerSource:
    """Answers each question by one of its classes."""

    def source(question: Question) -> Answer:
        classes = question.classes(KNOWN)
        return classes[choose % len(classes)][0]

    return source
