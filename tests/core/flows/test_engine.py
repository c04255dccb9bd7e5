"""The rules of the steps, each by what a caller meets."""

import pytest

from tests.flows import DANA, JOEL, Talk, document, menu, phone, ring, say, voicemail
from vokari.core.calls.fates import ending
from vokari.core.flows.model.steps import Menu
from vokari.core.flows.running import engine
from vokari.core.flows.running.commands import Connect, Drop, HangUpCall, Listen, Play, Record, RingLeg, Timer
from vokari.core.flows.running.events import Arrived, Digit, Finished, Gone, Leg, Recorded, Silence, TimerFired
from vokari.core.flows.running.state import State
from vokari.core.flows.running.turn import STEP_LIMIT


def finished(talk: Talk) -> Finished:
    return Finished(talk.state.awaiting)


def silence(talk: Talk) -> Silence:
    return Silence(talk.state.awaiting)


def test_an_announcement_plays_its_times_and_goes_on() -> None:
    talk = Talk(document(say("a", times=2, next_="b"), say("b", "Next")))
    assert talk.words == ["Hello there"]
    assert talk(finished(talk)).words == ["Hello there"]
    assert talk(finished(talk)).words == ["Next"]


def test_a_key_cuts_an_announcement_and_is_used_by_the_next_menu() -> None:
    talk = Talk(document(say("a", next_="m"), menu("m", {"1": "x"}), say("x", "Chosen")))
    assert talk(Digit("1")).words == ["Chosen"]


def test_a_notice_is_heard_to_the_end_and_keeps_keys() -> None:
    talk = Talk(document(say("a", next_="m", notice=True), menu("m", {"1": "x"}), say("x", "Chosen")))
    assert talk(Digit("1")).last == ()
    assert talk(Finished(1)).words == ["Chosen"]


def test_kept_keys_that_a_menu_does_not_use_stay_for_the_next() -> None:
    flow = document(say("a", next_="m", notice=True), menu("m", {"1": "n"}), menu("n", {"2": "x"}), say("x", "Both"))
    talk = Talk(flow)(Digit("1"), Digit("2"), Finished(1))
    assert talk.words == ["Both"]


def test_ring_and_voicemail_drop_kept_keys() -> None:
    flow = document(say("a", next_="vm", notice=True), voicemail("vm", no_message="m"), menu("m", {"1": "x"}), say("x"))
    talk = Talk(flow)(Digit("1"), Finished(1))
    assert talk.state.kept == ""


@pytest.mark.parametrize(
    ("counts_as", "half", "fate"),
    [("served", True, "served"), ("served", False, "lost"), ("turned_away", False, "turned_away")],
)
def test_what_an_announcement_counts_as(counts_as: str, half: bool, fate: str) -> None:
    talk = Talk(document(say("a", counts_as=counts_as)))(Gone(heard_half=half))
    assert ending(talk.state, 20).fate == fate


def test_a_complete_key_acts_at_once_and_a_beginning_waits() -> None:
    talk = Talk(document(menu("m", {"1": "x", "12": "y"}, inter_digit=3), say("x", "One"), say("y", "Twelve")))
    assert talk(Digit("1")).last == (Listen(2, 3),)
    assert talk(Digit("2")).words == ["Twelve"]
    again = Talk(document(menu("m", {"1": "x", "12": "y"}), say("x", "One"), say("y", "Twelve")))(Digit("1"))
    assert again(silence(again)).words == ["One"]
    hashed = Talk(document(menu("m", {"1": "x", "12": "y"}), say("x", "One"), say("y", "Twelve")))(
        Digit("1"), Digit("#")
    )
    assert hashed.words == ["One"]


def test_digits_that_begin_no_branch_are_one_wrong_key() -> None:
    talk = Talk(document(menu("m", {"12": "x", "3": "y"}, tries=1, wrong="w"), say("x"), say("y"), say("w", "Wrong")))
    assert talk(Digit("1"), Digit("3")).words == ["Wrong"]


def test_hash_with_nothing_pending_is_wrong_unless_it_is_a_branch() -> None:
    assert Talk(document(menu("m", {"1": None}, tries=1, wrong="w"), say("w", "Wrong")))(Digit("#")).words == ["Wrong"]
    assert Talk(document(menu("m", {"#": "h"}), say("h", "Hash")))(Digit("#")).words == ["Hash"]


def test_an_entry_left_incomplete_is_a_wrong_key() -> None:
    talk = Talk(
        document(menu("m", {"12": None}, tries=1, nothing="n", wrong="w"), say("n", "Nothing"), say("w", "Wrong"))
    )(Digit("1"))
    assert talk(silence(talk)).words == ["Wrong"]


def test_the_last_try_names_the_exit_and_retries_have_their_own_words() -> None:
    more = {
        "tries": 2,
        "retry_silent": {"say": "Still there?"},
        "retry_wrong": {"say": "Not that one"},
        "nothing": "n",
        "wrong": "w",
    }
    flow = document(menu("m", {"1": None}, **more), say("n", "Nothing"), say("w", "Wrong"))
    talk = Talk(flow)
    talk(finished(talk))
    assert talk(silence(talk)).words == ["Still there?"]
    assert talk(Digit("9")).words == ["Wrong"]
    other = Talk(flow)
    assert other(Digit("9")).words == ["Not that one"]
    other(finished(other))
    assert other(silence(other)).words == ["Nothing"]


def test_hear_again_uses_no_try_but_counts_as_an_entry() -> None:
    flow = document(menu("m", {"*": {"hear_again": True}}, tries=1), voicemail(), rescue="vm", entry_limit=3)
    talk = Talk(flow)
    assert talk(Digit("*"), Digit("*")).words == ["Press *."]
    assert talk(Digit("*")).words == ["Leave a message"]
    assert talk.state.rescued


def test_a_branch_sets_language_and_states_the_lead_source() -> None:
    branch = {"to": "x", "language": "es", "source": "ls_bus"}
    talk = Talk(document(menu("m", {"2": branch}), say("x", "Hola")))(Digit("2"))
    assert [command.language for command in talk.last if isinstance(command, Play)] == ["es"]
    assert talk.state.source == "ls_bus"


def test_ringing_in_order_goes_through_every_phone_and_then_no_answer() -> None:
    talk = Talk(document(ring("r", phone("Dana", DANA), phone("Joel", JOEL, 15), no_answer="vm"), voicemail()))
    assert [command.destination.name for command in talk.last if isinstance(command, RingLeg)] == ["Dana"]
    talk(Leg(1, "rang_out"))
    assert [(command.destination.name, command.seconds) for command in talk.last if isinstance(command, RingLeg)] == [
        ("Joel", 15)
    ]
    assert talk(Leg(2, "declined")).words == ["Leave a message"]
    assert talk.state.rang


def test_all_at_once_the_first_to_answer_wins_and_the_others_are_dropped() -> None:
    talk = Talk(document(ring("r", phone("Dana", DANA), phone("Joel", JOEL), strategy="all_at_once")))
    assert len(talk.last) == 2
    talk(Leg(2, "answered"))
    assert [type(command) for command in talk.last] == [Drop, Connect]
    assert talk.last[0].id == 1
    assert talk.last[0].words
    assert ending(talk.state, 60).fate == "answered"


def test_with_an_accept_key_picking_up_is_not_enough_and_others_ring_on() -> None:
    flow = document(
        ring(
            "r", phone("Dana", DANA), phone("Joel", JOEL), strategy="all_at_once", accept={"key": "1"}, no_answer="vm"
        ),
        voicemail(),
    )
    talk = Talk(flow)(Leg(1, "answered"))
    assert talk.last == ()
    talk(Leg(1, "refused"))
    assert talk.state.phase == "ringing"
    talk(Leg(2, "answered"), Leg(2, "accepted"))
    assert talk.state.answered


@pytest.mark.parametrize(
    ("outcomes", "words"),
    [
        (("busy", "unreachable"), "Busy"),
        (("busy", "rang_out"), "No answer"),
        (("unreachable", "unreachable"), "Unreachable"),
    ],
)
def test_the_exit_of_a_ring_follows_its_outcomes(outcomes: tuple[str, str], words: str) -> None:
    exits = {"busy": "b", "unreachable": "u"}
    flow = document(
        ring("r", phone("Dana", DANA), phone("Joel", JOEL), no_answer="n", **exits),
        say("n", "No answer"),
        say("b", "Busy"),
        say("u", "Unreachable"),
    )
    talk = Talk(flow)(Leg(1, outcomes[0]), Leg(2, outcomes[1]))
    assert talk.words == [words]


def test_people_on_a_call_are_not_rung_and_count_as_busy() -> None:
    flow = document(
        ring("r", phone("Dana", DANA), no_answer="n", busy="b", nobody="o"), say("n"), say("b", "Busy"), say("o", "Off")
    )
    assert Talk(flow, lambda question: ("on_call",)).words == ["Busy"]
    assert not Talk(flow, lambda question: ("on_call",)).state.rang
    assert Talk(flow, lambda question: ("off",)).words == ["Off"]


def test_each_round_asks_afresh_who_is_available() -> None:
    talk = Talk(document(ring("r", phone("Dana", DANA), no_answer="vm", rounds=2), voicemail()))(Leg(1, "rang_out"))
    assert [question.round for question in talk.asked] == [1, 2]
    assert talk(Leg(talk.state.ring.legs[0].command, "rang_out")).words == ["Leave a message"]


def test_the_limit_on_the_whole_ends_the_ringing() -> None:
    talk = Talk(document(ring("r", phone("Dana", DANA), no_answer="vm", limit=12), voicemail()))
    assert isinstance(talk.last[0], Timer)
    assert talk(TimerFired(1)).words == ["Leave a message"]


def test_what_needs_no_caller_runs_on_after_an_answered_call() -> None:
    flow = document(
        ring("r", phone("Dana", DANA), after="l"),
        {"kind": "label", "id": "l", "labels": ["sale"], "next": "x"},
        say("x"),
    )
    talk = Talk(flow)(Leg(1, "answered"), Gone())
    assert talk.state.labels == ("sale",)
    assert talk.state.ended
    assert talk.last == ()


@pytest.mark.parametrize(("voice", "fate"), [(1.9, "lost"), (2.0, "message_left")])
def test_a_message_is_one_from_two_seconds_of_voice(voice: float, fate: str) -> None:
    talk = Talk(document(voicemail()))
    talk(finished(talk))
    assert isinstance(talk.last[0], Record)
    talk(Recorded(talk.state.awaiting, voice))
    assert isinstance(talk.last[0], HangUpCall)
    assert ending(talk.state, 30).fate == fate


def test_a_way_round_ends_at_the_rescue_and_past_that_with_words() -> None:
    back = {"kind": "back_to", "id": "b", "to": "a"}
    talk = Talk(
        document(say("a", next_="b"), back, voicemail(no_message="a", message_left="a"), rescue="vm", entry_limit=4)
    )
    for _ in range(4):
        talk(finished(talk))
    assert talk.words == ["Leave a message"]
    talk(finished(talk))
    talk(Recorded(talk.state.awaiting, 0.0))
    assert talk.words == [engine.FAREWELL.say]
    talk(finished(talk))
    assert talk.state.ended


def test_an_exit_that_leads_nowhere_goes_to_the_rescue() -> None:
    talk = Talk(document(say("a"), voicemail(), rescue="vm"))
    assert talk(finished(talk)).words == ["Leave a message"]


def test_a_call_of_steps_that_need_no_event_ends() -> None:
    steps = [{"kind": "label", "id": f"l{n}", "labels": ["x"], "next": f"l{(n + 1) % 200}"} for n in range(200)]
    talk = Talk(document(*steps, entry_limit=50))
    assert talk.words == [engine.FAREWELL.say]
    assert talk.state.steps == STEP_LIMIT


def test_an_event_for_a_finished_command_changes_nothing() -> None:
    talk = Talk(document(say("a", next_="b"), say("b")))
    talk(finished(talk))
    before = talk.state
    assert talk(Finished(1)).last == ()
    assert talk.state == before


def test_nothing_happens_before_the_call_arrives() -> None:
    flow = engine.prepare(document(say("a")))
    assert engine.step(flow, State(), Digit("1"), {}) == engine.Next(State(), ())
    assert isinstance(engine.step(flow, State(), Arrived(), {}), engine.Next)


@pytest.mark.parametrize(
    ("events", "seconds", "reason"),
    [
        ((Gone(),), 3, "quick"),
        ((Gone(),), 30, "menu"),
        ((Digit("1"), Gone()), 30, "ringing"),
        ((Digit("2"), Gone()), 30, "voicemail"),
    ],
)
def test_why_a_call_was_lost(events: tuple[object, ...], seconds: float, reason: str) -> None:
    flow = document(menu("m", {"1": "r", "2": "vm"}), ring("r", phone("Dana", DANA), no_answer="vm"), voicemail())
    talk = Talk(flow)(*events)
    assert (ending(talk.state, seconds).fate, ending(talk.state, seconds).reason) == ("lost", reason)


def test_a_menus_wait_follows_from_its_spoken_choices_unless_it_is_set() -> None:
    """product.md: 4 s and 0.7 s for each choice; what is printed elsewhere is no choice that is listened for."""
    keys = {str(key): "vm" for key in range(1, 4)}
    plain = menu("m", keys, nothing="vm", wrong="vm")
    plain.pop("wait", None)
    talk = Talk(document(plain, voicemail()))
    listening = talk(Finished(talk.state.awaiting)).last[0]
    assert listening.seconds == 6.1
    hidden = {**plain, "branches": [{**one, "elsewhere": one["keys"] != "1"} for one in plain["branches"]]}
    assert Menu.model_validate(hidden).waits == 4.7
    assert Menu.model_validate({**plain, "wait": 9}).waits == 9
