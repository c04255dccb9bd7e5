"""Takes that are asked for: by telephone through the carrier stand-in, event by event, and through a link that ends."""

import time

import pytest
from sqlalchemy import text

from tests.prompts import prompt, sound, speech, work
from tests.wire import Wire
from tests.world import World
from vokari.standins.carrier.app import Carrier
from vokari.work.agency.access import NotFound
from vokari.work.prompts import by_link, by_telephone, opened, takes
from vokari.work.prompts.takes import Coming

SPEAKER = "+14105550177"


def asked(world: World, at: int) -> opened.Asked:
    return opened.opened(world.house, world.actor, world.client.id, at).asked[0]


def ref_of(world: World) -> str:
    with world.house.begin() as session:
        return str(session.scalar(text("SELECT ref FROM asked_takes ORDER BY id DESC LIMIT 1")))


def rings(world: World, at: int, to: str = "410-555-0177") -> Wire:
    assert by_telephone.ask(world.house, world.actor, world.client.id, at, "en-US", to, "Joel") == []
    return Wire(world.house, "speaker")


def test_a_speaker_is_led_through_and_what_they_keep_becomes_a_take(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    at = prompt(world, "Winter storage", "Winter storage is full.")
    wire = rings(world, at)
    (play,) = wire("call_arrived", caller=SPEAKER, rung=ref_of(world))
    assert "Please say: Winter storage is full." in play["words"]
    assert asked(world, at).state == "speaking"
    (record,) = wire("prompt_finished", 9.0, command=play["id"])
    assert (record["type"], record["beep"], record["stop_key"]) == ("record", True, "#")
    (review,) = wire(
        "recording_finished", 14.0, command=record["id"], seconds=4.0, voice_seconds=3.4, recording="speaker-2"
    )
    assert [one.get("recorded") for one in review["parts"]] == [None, record["id"], None]
    (again,) = wire("digit", 20.0, key="3")
    (second,) = wire("prompt_finished", 29.0, command=again["id"])
    wire("recording_finished", 33.0, command=second["id"], seconds=3.0, voice_seconds=2.8, recording="speaker-4")
    bye = wire("digit", 40.0, key="1")
    assert "It is kept" in bye[0]["words"]
    wire("prompt_finished", 44.0, command=bye[0]["id"])
    assert asked(world, at).state == "done"
    fetched: list[str] = []

    def recording(name: str) -> bytes:
        fetched.append(name)
        return speech(world, "Winter storage is full.")

    monkeypatch.setattr(world.house.carrier._port, "recording", recording)  # type: ignore[attr-defined]
    work(world)
    assert fetched == ["speaker-4"]
    found = opened.opened(world.house, world.actor, world.client.id, at)
    assert [(one.how, one.spoken_by, one.state, one.words_are) for one in found.takes[:1]] == [
        ("telephone", "Joel", "ready", "proposed")
    ]
    with world.house.begin() as session:
        assert session.scalar(text("SELECT count(*) FROM calls")) == 0, "it is nobody's call"
        assert session.scalar(text("SELECT count(*) FROM voice_messages")) == 0
        assert session.scalar(text("SELECT count(*) FROM live_calls")) == 0


def test_hanging_up_after_speaking_keeps_what_was_said_and_before_it_nothing(world: World) -> None:
    at = prompt(world, "Winter storage")
    wire = rings(world, at)
    (play,) = wire("call_arrived", caller=SPEAKER, rung=ref_of(world))
    wire("caller_gone", 3.0)
    assert (asked(world, at).state, asked(world, at).words) == (
        "not_answered",
        "They hung up before they had said anything.",
    )
    wire = Wire(world.house, "second")
    assert by_telephone.ask(world.house, world.actor, world.client.id, at, "en-US", "410-555-0177") == []
    (play,) = wire("call_arrived", caller=SPEAKER, rung=ref_of(world))
    (record,) = wire("prompt_finished", 9.0, command=play["id"])
    wire(
        "recording_finished",
        14.0,
        command=record["id"],
        seconds=4.0,
        voice_seconds=3.0,
        recording="second-2",
        caller_gone=True,
    )
    assert asked(world, at).state == "done"
    assert world.jobs("fetch_take")[0]["recording"] == "second-2"


def test_a_phone_that_never_answers_and_one_that_is_none_are_told(world: World, carrier: Carrier) -> None:
    at = prompt(world, "Winter storage")
    (wrong,) = by_telephone.ask(world.house, world.actor, world.client.id, at, "en-US", "12")
    assert wrong.field == "to"
    carrier.ringing.seconds = 0.0
    rings(world, at, "410-555-0113")
    time.sleep(0.01)
    assert by_telephone.follow_up(world.house) == 0
    assert (asked(world, at).state, asked(world, at).words) == ("not_answered", "Nobody picked up.")
    refused = Wire(world.house, "stranger")
    body = refused.body(1, 0, {"type": "call_arrived", "caller": SPEAKER, "rung": "nobody-asked"})
    assert refused.post(body).status_code == 404


def test_the_carrier_stand_in_rings_speaks_and_keeps_real_sound(world: World, carrier: Carrier) -> None:
    """The number's last digits say what becomes of it; what is said comes from a file."""
    at = prompt(world, "Winter storage")
    rings(world, at)
    script = carrier.ringing.script("r", SPEAKER)
    assert (script.rung, script.sound, script.answers) == ("r", True, ["1"])
    assert carrier.ringing.becomes("+14105550114") == "busy"


def test_a_link_is_for_one_prompt_alone_and_ends(world: World) -> None:
    at = prompt(world, "Winter storage", "Winter storage is full.")
    made = by_link.ask(world.house, world.actor, world.client.id, at, "en-US", "Ines", 7)
    assert isinstance(made, int)
    token = by_link.token(world.house, made)
    page = by_link.opened(world.house, token)
    assert page is not None
    assert (page.words, page.state, page.client) == ("Winter storage is full.", "waiting", "Brightwater Boatyard")
    assert by_link.opened(world.house, token[:-1] + ("0" if token[-1] != "0" else "1")) is None
    (wrong,) = by_link.bring(world.house, token, Coming(b"<html>", "a.wav")) or []
    assert "no sound" in wrong.sentence
    assert by_link.bring(world.house, token, Coming(sound(1), "a.wav")) == []
    work(world)
    assert [one.sentence for one in by_link.bring(world.house, token, Coming(sound(1))) or []] == [
        "This link is over. Ask for another one."
    ]
    found = opened.opened(world.house, world.actor, world.client.id, at)
    assert (found.takes[0].how, found.takes[0].spoken_by, found.takes[0].words) == (
        "link",
        "Ines",
        "Winter storage is full.",
    )
    late = by_link.ask(world.house, world.actor, world.client.id, at, "en-US", "", 1)
    assert isinstance(late, int)
    world.house.clock.move(days=2)  # type: ignore[attr-defined]
    page = by_link.opened(world.house, by_link.token(world.house, late))
    assert page is not None
    assert page.state == "ended"
    assert isinstance(by_link.ask(world.house, world.actor, world.client.id, at, "en-US", "", 99), list)
    with pytest.raises(NotFound):
        by_link.end(world.house, world.actor, world.client.id, prompt(world, "Another"), late)
    assert takes.LARGEST == 20_000_000
