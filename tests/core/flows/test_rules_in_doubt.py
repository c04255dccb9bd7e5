"""Rules that calls have tripped over: who is looked at when, what is told, and events that come at the wrong moment."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.holding.test_line import DANA_RUNG, WAITS, Line, held, timer
from tests.flows import DANA, JOEL, Talk, document, menu, phone, ring, say, voicemail
from tests.random_flows import random_documents
from vokari.core.calls.fates import Ending, ending
from vokari.core.flows.questions.kinds import AnybodyFree, CanBeRung, LineUp, LookedUp, WhoIsFree, everyone_free
from vokari.core.flows.running import engine, state
from vokari.core.flows.running.commands import Hold, Play, RingLeg
from vokari.core.flows.running.events import Arrived, Digit, Finished, Gone, Leg, Poked, Recorded, TimerFired
from vokari.core.flows.running.state import Rung


class Phones:
    """A world in which each phone is what `now` says, and free otherwise."""

    def __init__(self, **now: str) -> None:
        self.now = now
        self.asked: list[Any] = []

    def __call__(self, question: Any) -> Any:
        self.asked.append(question)
        if isinstance(question, WhoIsFree):
            return tuple(self.now.get(one, "free") for one in question.destinations)
        if isinstance(question, CanBeRung):
            return tuple(self.now.get(one.who, "free") for one in question.phones)
        if isinstance(question, LineUp):
            return (((Rung("ada", "Ada", DANA, 20),), (Rung("ben", "Ben", JOEL, 20),)), (), question.round < 3)
        if isinstance(question, AnybodyFree):
            return "free" in self.now.values()
        return everyone_free(question)


def rung(talk: Talk) -> list[str]:
    return [one.destination.dialed for one in talk.last if isinstance(one, RingLeg)]


def leg(talk: Talk) -> int:
    assert talk.state.ring is not None
    return talk.state.ring.legs[0].command


TWO = ring(
    "r", phone("Dana", DANA), phone("Joel", JOEL), no_answer="vm", busy="b", nobody="n", unreachable="u", rounds=3
)
AROUND = (voicemail(), say("b", "Busy"), say("n", "Nobody"), say("u", "Unreachable"))
TEAM = {**TWO, "to": [{"kind": "team", "id": "t", "team": "yard"}], "strategy": "in_order"}


@pytest.mark.parametrize("step", [TWO, TEAM])
def test_who_is_free_is_looked_at_just_before_each_phone_is_rung(step: dict[str, Any]) -> None:
    """product.md, Ring: who is available is looked at just before each phone (or wave of phones) is rung."""
    world = Phones()
    talk = Talk(document(step, *AROUND), world)
    assert rung(talk) == [DANA]
    world.now = {"d161": "on_call", "ben": "on_call"}
    assert rung(talk(Leg(leg(talk), "unreachable"))) == [DANA], (
        "Joel went on a call meanwhile, so the second round begins"
    )
    world.now = {}
    assert rung(talk(Leg(leg(talk), "unreachable"))) == [JOEL]
    world.now = {"d160": "on_call", "d161": "on_call", "ada": "on_call", "ben": "on_call"}
    assert talk(Leg(leg(talk), "unreachable")).words == ["Busy"]


def test_whose_turn_it_is_is_asked_once_a_round() -> None:
    world = Phones()
    talk = Talk(document(TEAM, *AROUND), world)
    talk(Leg(leg(talk), "rang_out"))
    assert [one.round for one in world.asked if isinstance(one, LineUp)] == [1]
    talk(Leg(leg(talk), "rang_out"))
    assert [one.round for one in world.asked if isinstance(one, LineUp)] == [1, 2]


@pytest.mark.parametrize("strategy", ["in_order", "all_at_once"])
def test_a_number_that_is_not_filled_in_is_off_duty(strategy: str) -> None:
    empty = {**phone("Nobody yet", ""), "id": "e"}
    alone = Talk(document({**TWO, "to": [empty], "strategy": strategy}, *AROUND), Phones())
    assert alone.words == ["Nobody"]
    beside = Talk(document({**TWO, "to": [empty, phone("Dana", DANA)], "strategy": strategy}, *AROUND), Phones())
    assert rung(beside) == [DANA]


@pytest.mark.parametrize("step", [TWO, TEAM])
def test_a_name_is_asked_for_only_when_somebody_can_be_rung(step: dict[str, Any]) -> None:
    wants = document({**step, "hears": {"words": "{said name}"}}, *AROUND)
    nobody = {"d160": "off", "d161": "off", "ada": "off", "ben": "off"}
    assert Talk(wants, Phones(**nobody)).words == ["Nobody"]
    world = Phones(**{**nobody, "d161": "free", "ben": "free"})
    talk = Talk(wants, world)
    assert talk.words == ["Please say your name after the tone."]
    world.now = nobody
    talk(Finished(talk.state.awaiting))
    assert talk(Recorded(talk.state.awaiting, 1.0)).words == ["Nobody"], (
        "looked at again before the first phone is rung"
    )


def test_place_and_wait_are_told_to_a_caller_whose_first_offer_was_not_taken() -> None:
    """product.md, Hold line: place and wait are told also to a caller whose first offer was not taken."""
    line = Line(("ring", 1, 0, DANA_RUNG))
    talk = held(line, announce_every=60)
    line.said = WAITS
    assert talk(Leg(leg(talk), "rang_out")).words[:1] == ["You are number 2 in line. The wait is about 3 minutes."]
    talk(Finished(talk.state.awaiting))
    assert talk(Poked()).last == (), "told once; from then on by the timer"
    assert any(isinstance(one, Play) for one in talk(timer(talk, "tell")).last)


def test_hear_again_sets_its_language_and_lead_source() -> None:
    spanish = {"hear_again": True, "language": "es", "source": "panel"}
    talk = Talk(document(menu("m", {"9": spanish, "1": "vm"}), voicemail()))
    talk(Digit("9"))
    assert (talk.state.language, talk.state.source, talk.state.tries) == ("es", "panel", 0)
    assert [one.language for one in talk.last if isinstance(one, Play)] == ["es"]


def test_a_rings_limit_does_nothing_during_the_farewell() -> None:
    again = {**ring("r", phone("Dana", DANA), no_answer="r", limit=30), "rounds": 1}
    talk = Talk(document(again, entry_limit=2))
    talk(Leg(leg(talk), "rang_out"))
    timer_id = talk.last[0].id
    talk(Leg(leg(talk), "rang_out"))
    assert talk.words == [engine.FAREWELL.say]
    before = talk.state
    assert talk(TimerFired(timer_id)).state == before
    assert talk.last == ()


def test_after_the_caller_has_gone_no_step_is_on_the_way_that_was_not_met() -> None:
    flow = document(
        ring("r", phone("Dana", DANA), after="l", no_answer="vm"),
        {"kind": "label", "id": "l", "labels": ["sale"], "next": "x"}, say("x"), voicemail(),
    )  # fmt: skip
    prepared = engine.prepare(flow)
    now = Talk(flow)(Leg(1, "answered")).state
    following = engine.step(prepared, now, Gone(), {})
    assert isinstance(following, engine.Next)
    assert following.way == (("after", "l"),)
    assert following.state.ended


@pytest.mark.parametrize("refusal", [False, True])
def test_who_hangs_up_during_the_last_words_was_ended_by_the_flow(refusal: bool) -> None:
    """product.md, Fate: who hangs up during a Hang up's words was ended by the flow."""
    bye = {"kind": "hang_up", "id": "h", "prompt": {"say": "Goodbye"}, "refusal": refusal}
    talk = Talk(document(bye))(Gone())
    assert talk.state.ended_by == "flow"
    assert ending(talk.state, 30) == (Ending("turned_away") if refusal else Ending("lost", "flow"))


@pytest.mark.parametrize(
    ("more", "outcome", "reason"),
    [
        ({}, "answered", "unconfirmed"),
        ({"machine_detection": True}, "answered", ""),
        ({"accept": {"key": "1"}}, "accepted", ""),
    ],
)
def test_an_answer_that_nothing_confirmed_is_told_apart(more: dict[str, Any], outcome: Any, reason: str) -> None:
    """product.md, Ring: an answer with neither accept-by-key nor machine detection is answered, unconfirmed."""
    talk = Talk(document(ring("r", phone("Dana", DANA), no_answer="vm", **more), voicemail()))
    assert ending(talk(Leg(1, outcome)).state, 30) == Ending("answered", reason)


def test_one_confirmed_answer_is_enough() -> None:
    sure = {**ring("q", phone("Joel", JOEL), no_answer="vm", machine_detection=True)}
    talk = Talk(document(ring("r", phone("Dana", DANA), no_answer="vm", after="q"), sure, voicemail()))
    talk(Leg(1, "answered"), Leg(1, "ended"))
    assert ending(talk(Leg(talk.state.serial, "answered")).state, 90) == Ending("answered")


# answers that do not fit


@given(random_documents(), st.sampled_from([None, "yes", (), ("free",) * 9, ("ring", 1, 0, ()), 7, ("found",)]))
def test_an_answer_that_fits_no_question_never_holds_a_call_up(flow: Any, answer: Any) -> None:
    prepared = engine.prepare(flow)
    following, used = engine.run(prepared, state.State(), Arrived(), lambda _: answer)
    assert all(question.fits(given) for question, given in used.items())
    if following.defect is not None:
        assert following.defect not in used
        assert following.state.rescued or following.state.phase == "parting"


def test_a_defect_sends_the_call_to_its_rescue_and_past_it_to_the_farewell() -> None:
    flow = document(TEAM, *AROUND, rescue="vm")
    talk = Talk(flow, lambda _: None)
    assert talk.words == ["Leave a message"]
    hopeless = Talk(document(TEAM, *AROUND, rescue="r"), lambda _: None)
    assert hopeless.words == [engine.FAREWELL.say]
    following, used = engine.run(engine.prepare(flow), state.State(), Arrived(), lambda _: ("neither", "nor"))
    assert following.defect == LineUp("r", 1)
    assert used == {}


# a look-up whose caller has gone


def test_a_look_up_goes_on_by_events_of_the_application_once_the_caller_has_gone() -> None:
    look = {
        "kind": "look_up",
        "id": "q",
        "url": "https://orders.example.com",
        "store_as": "order",
        "found": "l",
        "failed": "end",
    }
    label = {"kind": "label", "id": "l", "labels": ["known"], "next": "end"}
    flow = document(ring("r", phone("Dana", DANA), after="q", no_answer="vm"), look, label, voicemail())

    def world(question: Any) -> Any:
        return said if isinstance(question, LookedUp) else everyone_free(question)

    said: tuple[str, str] = ("pending", "")
    talk = Talk(flow, world)(Leg(1, "answered"), Gone())
    assert (talk.state.phase, talk.state.gone, talk.last) == ("looking", True, ())
    assert not talk.state.ended
    assert talk(Gone(), Digit("1")).state.phase == "looking", "the carrier's events change nothing any more"
    waiting = talk.state.awaiting
    said = ("found", "A-17")
    assert talk(Poked()).state.labels == ("known",)
    assert talk.state.ended
    assert talk.last == ()
    late = Talk(flow, lambda q: ("pending", "") if isinstance(q, LookedUp) else everyone_free(q))
    assert late(Leg(1, "answered"), Gone(), TimerFired(waiting)).state.ended


def test_music_goes_on_when_a_persons_second_phone_cannot_be_rung_any_more() -> None:
    both = ((Rung("dana", "Dana", DANA, 20),), (Rung("dana", "Dana", JOEL, 20),))
    line = Line(("ring", 1, 0, both))
    talk = held(line, says_position=False, says_wait=False)
    talk.source = lambda q: ("on_call",) if isinstance(q, CanBeRung) else WAITS
    talk(Leg(leg(talk), "rang_out"))
    assert rung(talk) == []
    assert talk.state.phase == "holding"
    assert not any(isinstance(one, Hold) for one in talk.last)
