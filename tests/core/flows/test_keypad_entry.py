"""Keypad entries, and the duty line that is made of one."""

from typing import Any

import pytest

from tests.flows import Talk, document, say
from vokari.core.flows.ready.duty_line import duty_flow
from vokari.core.flows.running.canonical import canonical
from vokari.core.flows.running.commands import HangUpCall, Listen
from vokari.core.flows.running.events import Digit, Event, Finished, Silence


def entry(**more: Any) -> dict[str, Any]:
    exits = {"typed": "t", "nothing": "n", "wrong": "w"}
    return {
        "kind": "keypad_entry",
        "id": "e",
        "prompt": {"say": "Your code"},
        "shortest": 2,
        "longest": 4,
        **exits,
        **more,
    }


def talk(**more: Any) -> Talk:
    return Talk(document(entry(**more), say("t", "Typed"), say("n", "Nothing"), say("w", "Wrong")))


def keys(pressed: str) -> list[Event]:
    return [Digit(one) for one in pressed]


@pytest.mark.parametrize(("pressed", "kept"), [("1234", "1234"), ("12#", "12"), ("0077", "0077"), ("123#", "123")])
def test_an_entry_ends_at_the_longest_or_at_the_hash_and_is_kept(pressed: str, kept: str) -> None:
    done = talk()(*keys(pressed))
    assert done.words == ["Typed"]
    assert done.state.values == (("entry", kept),)


def test_the_inter_digit_time_ends_an_entry() -> None:
    going = talk()(*keys("12"))
    assert [type(one) for one in going.last] == [Listen]
    assert going.last[0].seconds == 3
    assert going(Silence(going.state.awaiting)).words == ["Typed"]


@pytest.mark.parametrize("pressed", ["1#", "*", "12*"])
def test_a_short_entry_and_a_star_are_wrong(pressed: str) -> None:
    assert talk(tries=1)(*keys(pressed)).words == ["Wrong"]


def test_silence_is_nothing_typed_and_each_failed_try_asks_again() -> None:
    going = talk(tries=2, retry_silent={"say": "Once more"}, retry_wrong={"say": "Try again"})
    going(Finished(going.state.awaiting))
    assert going(Silence(going.state.awaiting)).words == ["Once more"]
    going(Finished(going.state.awaiting))
    assert going(Silence(going.state.awaiting)).words == ["Nothing"]
    assert talk(retry_wrong={"say": "Try again"})(*keys("*")).words == ["Try again"]


def test_keys_pressed_during_an_announcement_before_it_count() -> None:
    flow = document(say("a", "Welcome", "e"), entry(), say("t", "Typed"), say("n"), say("w"))
    early = Talk(flow)
    assert early(Digit("1")).last != ()
    assert early(*keys("23#")).words == ["Typed"]
    assert dict(early.state.values)["entry"] == "123"


def test_the_duty_line_asks_for_the_pin_three_times_and_no_more() -> None:
    going = Talk(duty_flow("Ada", "482913", off=False, language="en-US"))
    assert going.words == ["Hello Ada. Please key in your PIN."]
    for left in (2, 1, 0):
        assert going(*keys("111111")).words == ["That is not your PIN."]
        going(Finished(going.state.awaiting))
        assert going.words == [
            "Hello Ada. Please key in your PIN." if left else "Please ask for your PIN, and call again. Goodbye."
        ]
    assert isinstance(going(Finished(going.state.awaiting)).last[0], HangUpCall)


@pytest.mark.parametrize("off", [True, False])
def test_the_right_pin_and_a_key_switch(off: bool) -> None:
    going = Talk(duty_flow("Ada", "482913", off=off, language="en-US"))(*keys("482913"))
    assert ("switched off" in going.words[0]) == off
    assert going(Digit("1")).state.at == ("switch_on" if off else "switch_off")


def test_digits_that_no_later_step_asks_for_are_told_apart_by_their_count_only() -> None:
    going = talk(longest=3)
    states = [canonical(going.flow, talk(longest=3)(*keys(pressed)).state) for pressed in ("0", "1", "07", "12")]
    assert states[0] == states[1] != states[2] == states[3]
