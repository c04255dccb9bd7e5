"""A Ring step in full: the caller's name, a whisper, recording only after a notice, and whom the caller knows first."""

from typing import Any

import pytest

from tests.core.holding.test_line import around, team
from tests.flows import DANA, JOEL, Talk, document, hold, menu, phone, ring, say, voicemail
from vokari.core.calls.fates import Ending, ending
from vokari.core.checks.finding import Surroundings
from vokari.core.checks.flows import findings
from vokari.core.flows.model.steps import Ring
from vokari.core.flows.model.values import Accept
from vokari.core.flows.questions.kinds import RecordThis, everyone_free
from vokari.core.flows.running.commands import Connect, Hold, Play, Record, RingLeg
from vokari.core.flows.running.events import Digit, Finished, Leg, Recorded
from vokari.core.people.line_up import Turns, line_up, rung_now
from vokari.formats.call_control.sending import to_wire


def rings(**more: Any) -> dict[str, Any]:
    return ring("r", phone("Dana", DANA), no_answer="vm", **more)


def legs(talk: Talk) -> list[RingLeg]:
    return [one for one in talk.last if isinstance(one, RingLeg)]


def answered(talk: Talk) -> Connect:
    talk(Leg(talk.state.ring.legs[0].command, "answered"))
    return next(one for one in talk.last if isinstance(one, Connect))


# what the person hears first


def test_the_caller_says_a_name_once_and_whoever_is_rung_hears_it() -> None:
    flow = document(
        {**rings(hears={"words": "Call from {said name}, for {client}."}), "no_answer": "q"},
        {**rings(hears={"words": "Call from {said name}, for {client}."}), "id": "q"},
        voicemail(),
    )
    talk = Talk(flow)
    assert talk.words == ["Please say your name after the tone."]
    recorded = talk(Finished(talk.state.awaiting)).last[0]
    assert isinstance(recorded, Record)
    assert recorded.mailbox is None
    (leg,) = legs(talk(Recorded(recorded.id, 1.2)))
    assert leg.caller_name == recorded.id
    said = to_wire(leg, fields={"client": "Brightwater"})
    assert (said.whisper, said.caller_name, said.whisper_after) == ("Call from", recorded.id, ", for Brightwater.")
    (again,) = legs(talk(Leg(leg.id, "rang_out")))
    assert again.caller_name == recorded.id, "the second step does not ask again"
    assert not talk.state.message


def test_a_caller_who_says_no_name_is_put_through_all_the_same() -> None:
    talk = Talk(document(rings(hears={"words": "It is {said name}.", "asks": "Who is it?"}), voicemail()))
    assert talk.words == ["Who is it?"]
    (leg,) = legs(talk(Digit("1"), Recorded(talk.state.awaiting + 1, 0.0)))
    assert leg.caller_name == 0
    assert (to_wire(leg).caller_name, to_wire(leg).whisper) == (None, "It is a caller who gave no name.")


def test_a_caller_who_hangs_up_while_asked_is_gone() -> None:
    talk = Talk(document(rings(hears={"words": "Call from {said name}, for {client}."}), voicemail()))
    talk(Finished(talk.state.awaiting))
    assert talk(Recorded(talk.state.awaiting, 0.4, gone=True)).state.ended_by == "caller"


def test_the_whisper_is_the_numbers_own_then_the_steps_with_its_fields_filled_in() -> None:
    talk = Talk(document(rings(hears={"words": "Call for {client} from {source}, {nothing}."}), voicemail()))
    said = to_wire(legs(talk)[0], whisper="Bus panel.", fields={"client": "Brightwater", "source": "the sign"}).whisper
    assert said == "Bus panel. Call for Brightwater from the sign, ."


def test_what_is_heard_while_it_rings() -> None:
    talk = Talk(document(rings(hold_sound={"say": "One moment"}), voicemail()))
    assert [type(one) for one in talk.last] == [Hold, RingLeg]


# recording

NOTICED = ("noticed", "unnoticed")


@pytest.mark.parametrize("heard", NOTICED)
def test_nothing_is_recorded_before_a_notice_was_heard_to_its_end(heard: str) -> None:
    notice = heard == "noticed"
    recording = {"purpose": "all"}
    talk = Talk(
        document(say("a", "This call is recorded", "r", notice=notice), rings(recording=recording), voicemail())
    )
    talk(Finished(talk.state.awaiting))
    assert answered(talk).recording == ("on" if notice else "off")


@pytest.mark.parametrize(
    ("recording", "drawn", "expected"),
    [
        ({"purpose": "learn"}, True, ("on", "*", "#")),
        ({"purpose": "learn"}, False, ("if_kept", "*", "#")),
        ({"purpose": "learn", "keep_key": None}, False, ("off", None, None)),
        ({"purpose": "all", "sources": ["sign"]}, True, ("on", None, "#")),
        ({"purpose": "all", "sources": ["sign"]}, False, ("off", None, None)),
        ({"purpose": "all", "pause_key": None}, False, ("on", None, None)),
    ],
)
def test_what_is_recorded_follows_from_the_purpose(
    recording: dict[str, Any], drawn: bool, expected: tuple[str, str | None, str | None]
) -> None:
    """product.md: none, all (of some lead sources), or so many a week; a key keeps this call, one pauses."""
    asked = []

    def source(question: object) -> object:
        if isinstance(question, RecordThis):
            asked.append(question)
            return drawn
        return everyone_free(question)

    talk = Talk(document(say("a", "It is recorded", "r", notice=True), rings(recording=recording), voicemail()), source)
    talk(Finished(talk.state.awaiting))
    made = answered(talk)
    assert (made.recording, made.keep_key, made.pause_key) == expected
    whole = recording["purpose"] == "all" and "sources" not in recording
    assert asked == ([] if whole else [RecordThis("r", "d160", "")])


def test_what_counts_as_answered_is_said_of_each_phone() -> None:
    """product.md: at a phone system it is said what counts as answered; a service's calls are open."""
    system = {**phone("Desk", "+14105550160"), "number": "+14105550160;ext=24", "answered": "key"}
    service = {**phone("Service", "+14105550161"), "answered": "service"}
    talk = Talk(document({**rings(), "to": [system, service]}, voicemail()))
    (leg,) = legs(talk)
    assert (leg.accept, to_wire(leg).number, to_wire(leg).post_dial) == (Accept(), "+14105550160", "24")
    assert talk(Leg(leg.id, "answered")).state.phase == "ringing", "picking up is no answer there"
    (second,) = legs(talk(Leg(leg.id, "refused")))
    assert talk(Leg(second.id, "answered")).state.phase == "talking"
    assert ending(talk.state, 30) == Ending("answered", "service")
    dialed = {**phone("Desk", "+14105550160"), "number": "+14105550160;ext=24", "answered": "dialed"}
    assert to_wire(legs(Talk(document({**rings(), "to": [dialed]}, voicemail())))[0]).answered == "dialed"


def unheard(*steps: dict[str, Any], **more: Any) -> list[str]:
    found = findings(document(*steps, voicemail(), rescue="vm", **more), Surroundings({"mb": True}, []))
    return [one.step for one in found if one.kind == "unheard_recording"]


def test_a_way_to_a_recording_without_a_notice_is_found() -> None:
    recorded = rings(recording={"purpose": "all"})
    notice = say("n", "This call is recorded", "r", notice=True)
    assert unheard(recorded) == ["r"]
    assert unheard(say("a", "It may be recorded", "r"), recorded) == ["r"], "one that can be cut is no notice"
    assert unheard(notice, recorded) == []
    assert unheard(menu("m", {"1": "n", "2": "r"}, nothing="n", wrong="n"), notice, recorded) == ["r"], (
        "one way is enough"
    )
    assert unheard({**hold(), "recording": {"purpose": "learn"}}) == ["h"]


# whom they spoke with last

TEAMS = {"crew": team("dana", "joel", "mia", strategy="round_robin")}


def lined(number: str, turns: dict[str, Turns], **more: Any) -> list[list[str]]:
    step = Ring.model_validate(
        {"id": "r", "to": [{"kind": "team", "id": "t", "team": "crew"}], "last_spoke": {"days": 30}}
    )
    where = around(TEAMS, **more)
    where.spoke_with = lambda days: number if days == 30 else ""
    where.take, where.turns = turns.__setitem__, lambda key: turns.get(key, Turns())
    return [[rung.who for rung in wave] for wave in rung_now(step, "x", 1, where)[0]]


def test_whom_the_caller_spoke_with_last_is_rung_first_and_takes_no_turn() -> None:
    turns: dict[str, Turns] = {}
    assert lined("+14105550162", turns) == [["mia"], ["dana"], ["joel"]]
    assert turns == {}
    assert lined("", turns) == [["dana"], ["joel"], ["mia"]]
    assert turns["crew"].last == "dana"


def test_somebody_who_is_not_among_those_rung_or_not_free_comes_first_for_nobody() -> None:
    from vokari.core.people.line_up import Duty

    assert lined(JOEL.replace("61", "99"), {}) == [["dana"], ["joel"], ["mia"]]
    assert lined("+14105550162", {}, mia=Duty(on_call=True)) == [["dana"], ["joel"]]


def test_a_phone_of_the_step_itself_can_be_the_one() -> None:
    step = Ring.model_validate(
        {
            "id": "r",
            "to": [phone("Dana", DANA), phone("Joel", JOEL)],
            "strategy": "all_at_once",
            "last_spoke": {"days": 9},
        }
    )
    where = around({})
    where.spoke_with = lambda days: JOEL
    assert [[one.name for one in wave] for wave in line_up(step, "x", 1, where)[0]] == [["Joel"], ["Dana"]]
    assert [one for one in Talk(document(step.model_dump(), voicemail())).last if isinstance(one, Play)], "nobody known"
