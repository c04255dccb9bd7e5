"""A Ring step in full: the caller's name, a whisper, recording only after a notice, and whom the caller knows first."""

from typing import Any

import pytest

from tests.core.holding.test_line import around, team
from tests.flows import DANA, JOEL, Talk, document, hold, menu, phone, ring, say, voicemail
from vokari.core.checks.finding import Surroundings
from vokari.core.checks.flows import findings
from vokari.core.flows.model.steps import Ring
from vokari.core.flows.model.values import Recording
from vokari.core.flows.questions.kinds import RecordThis, everyone_free
from vokari.core.flows.running.commands import Connect, Hold, Play, Record, RingLeg
from vokari.core.flows.running.events import Digit, Finished, Leg, Recorded
from vokari.core.people.line_up import Turns, line_up, rung_now
from vokari.formats.call_control.messages import to_wire


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
        {**rings(hears={"what": "caller_name"}), "no_answer": "q"},
        {**rings(hears={"what": "caller_name"}), "id": "q"},
        voicemail(),
    )
    talk = Talk(flow)
    assert talk.words == ["Please say your name after the tone."]
    recorded = talk(Finished(talk.state.awaiting)).last[0]
    assert isinstance(recorded, Record)
    assert recorded.mailbox is None
    (leg,) = legs(talk(Recorded(recorded.id, 1.2)))
    assert leg.caller_name == recorded.id
    (again,) = legs(talk(Leg(leg.id, "rang_out")))
    assert again.caller_name == recorded.id, "the second step does not ask again"
    assert not talk.state.message


def test_a_caller_who_says_no_name_is_put_through_all_the_same() -> None:
    talk = Talk(document(rings(hears={"what": "caller_name", "words": "Who is it?"}), voicemail()))
    assert talk.words == ["Who is it?"]
    (leg,) = legs(talk(Digit("1"), Recorded(talk.state.awaiting + 1, 0.0)))
    assert leg.caller_name == 0
    assert to_wire(leg).caller_name is None


def test_a_caller_who_hangs_up_while_asked_is_gone() -> None:
    talk = Talk(document(rings(hears={"what": "caller_name"}), voicemail()))
    talk(Finished(talk.state.awaiting))
    assert talk(Recorded(talk.state.awaiting, 0.4, gone=True)).state.ended_by == "caller"


def test_the_whisper_is_the_numbers_own_then_the_steps_with_its_fields_filled_in() -> None:
    talk = Talk(
        document(rings(hears={"what": "whisper", "words": "Call for {client} from {source}, {nothing}."}), voicemail())
    )
    said = to_wire(legs(talk)[0], whisper="Bus panel.", fields={"client": "Brightwater", "source": "the sign"}).whisper
    assert said == "Bus panel. Call for Brightwater from the sign, ."


def test_what_is_heard_while_it_rings() -> None:
    talk = Talk(document(rings(hold_sound={"say": "One moment"}), voicemail()))
    assert [type(one) for one in talk.last] == [Hold, RingLeg]


# recording

NOTICED = ("noticed", "unnoticed")


@pytest.mark.parametrize("mode", ["on", "on_demand"])
@pytest.mark.parametrize("heard", NOTICED)
def test_nothing_is_recorded_before_a_notice_was_heard_to_its_end(mode: str, heard: str) -> None:
    notice = heard == "noticed"
    talk = Talk(
        document(say("a", "This call is recorded", "r", notice=notice), rings(recording={"mode": mode}), voicemail())
    )
    talk(Finished(talk.state.awaiting))
    assert answered(talk).recording == (mode if notice else "off")


@pytest.mark.parametrize("drawn", [True, False])
def test_so_many_in_a_hundred_is_a_question(drawn: bool) -> None:
    asked = []

    def source(question: object) -> object:
        if isinstance(question, RecordThis):
            asked.append(question.in_hundred)
            return drawn
        return everyone_free(question)

    step = rings(recording={"mode": "sample", "in_hundred": 25})
    talk = Talk(document(say("a", "It is recorded", "r", notice=True), step, voicemail()), source)
    talk(Finished(talk.state.awaiting))
    assert answered(talk).recording == ("on" if drawn else "off")
    assert asked == [25]


def test_a_document_of_before_with_the_older_field_is_read() -> None:
    assert Recording.model_validate({"mode": "off", "one_in": 1}) == Recording()


def unheard(*steps: dict[str, Any], **more: Any) -> list[str]:
    found = findings(document(*steps, voicemail(), rescue="vm", **more), Surroundings({"mb": True}, []))
    return [one.step for one in found if one.kind == "unheard_recording"]


def test_a_way_to_a_recording_without_a_notice_is_found() -> None:
    recorded = rings(recording={"mode": "on"})
    notice = say("n", "This call is recorded", "r", notice=True)
    assert unheard(recorded) == ["r"]
    assert unheard(say("a", "It may be recorded", "r"), recorded) == ["r"], "one that can be cut is no notice"
    assert unheard(notice, recorded) == []
    assert unheard(menu("m", {"1": "n", "2": "r"}, nothing="n", wrong="n"), notice, recorded) == ["r"], (
        "one way is enough"
    )
    assert unheard({**hold(), "recording": {"mode": "sample"}}) == ["h"]


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
