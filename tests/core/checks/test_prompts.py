"""What is wrong with what callers hear: prompts, voices, languages, mark-up, fields, promises and notices."""

from datetime import date
from typing import Any
from zoneinfo import ZoneInfo

import pytest

from tests.flows import DANA, document, hold, menu, phone, ring, say, voicemail
from tests.hours import hours
from vokari.core.checks.finding import Surroundings
from vokari.core.checks.flows import findings
from vokari.core.checks.mends import mended
from vokari.core.hours.timetable import Timetable
from vokari.core.prompts.facts import PromptFacts, TakeFacts
from vokari.core.prompts.voices import Voice

YARD = {"h": Timetable(hours(desk="Mon-Fri 8-17"), ZoneInfo("America/New_York"))}


def facts(*takes: TakeFacts, languages: tuple[str, ...] = ("en-US",), **more: Any) -> PromptFacts:
    some = takes or (TakeFacts(1, 1, "Hello there"),)
    return PromptFacts(
        1, "Yard greeting", more.pop("kind", "greeting"), takes=dict(zip(languages, some, strict=True)), **more
    )


def plays(key: str = "pr_x", words: str = "Hello there", **more: Any) -> dict[str, Any]:
    return {**say("a", words, "vm"), "prompt": {"say": words, "prompt": key}, **more}


def kinds(
    *steps: dict[str, Any], prompts: dict[str, PromptFacts] | None = None, told: bool = True, **more: Any
) -> dict[str, str]:
    """The findings of a flow by kind, each with its sentence."""
    around = Surroundings({"mb": told}, (), prompts=prompts or {}, hours=YARD, consent=more.pop("consent", ()))
    flow = document(*steps, *([] if any(one["id"] == "vm" for one in steps) else [voicemail()]), rescue="vm", **more)
    return {one.kind: one.sentence for one in findings(flow, around)}


@pytest.mark.parametrize(
    ("known", "kind", "said"),
    [
        ({}, "prompt_gone", "gone from the library"),
        ({"pr_x": PromptFacts(1, "Yard greeting", "greeting")}, "prompt_empty", "no words and no recording yet"),
        ({"pr_x": facts(TakeFacts(1, 2, "Hello", unheard=True))}, "prompt_unheard", "Nobody has heard take 2"),
        ({"pr_x": facts(TakeFacts(1, 1, "hello", words_are="proposed"))}, "words_unchecked", "read and confirm"),
        ({"pr_x": facts(TakeFacts(1, 1, "", is_recording=True))}, "words_missing", "Nobody has written what"),
        ({"pr_x": facts(TakeFacts(1, 1, "x", warnings=("It is clipped.",)))}, "sound", "It is clipped."),
        (
            {"pr_x": facts(ends="over", until=date(2026, 11, 1))},
            "prompt_over",
            "was true until 2026-11-01: choose another",
        ),
        (
            {"pr_x": facts(ends="soon", until=date(2026, 12, 1))},
            "prompt_ends",
            "nothing is named that is heard after that",
        ),
        (
            {"pr_x": facts(TakeFacts(1, 1, "x", voice=Voice(name="en-us+f3")))},
            "other_voice",
            "another voice than the rest",
        ),
    ],
)
def test_prompts_of_the_library_are_looked_at(known: dict[str, PromptFacts], kind: str, said: str) -> None:
    assert said in kinds(plays(), prompts=known)[kind]


def test_a_good_prompt_has_no_findings_and_its_words_are_compared_with_the_keys() -> None:
    assert set(kinds(plays(), prompts={"pr_x": facts()})) == set()
    ask = {**menu("m", {"1": "vm", "2": "vm"}, nothing="vm", wrong="vm"), "prompt": {"say": "old", "prompt": "pr_x"}}
    spoken = facts(TakeFacts(1, 1, "For boats, press 1. For masts, press 4.", is_recording=True, words_are="confirmed"))
    found = kinds(ask, prompts={"pr_x": spoken})
    assert any("4" in sentence for sentence in found.values()), found


def test_a_language_that_callers_may_choose_and_one_that_they_cannot() -> None:
    tongue = menu("m", {"1": "a", "2": {"to": "a", "language": "es"}}, nothing="a", wrong="a")
    assert "no take in the language es" in kinds(tongue, plays(), prompts={"pr_x": facts()})["prompt_language"]
    both = facts(TakeFacts(1, 1, "Hello"), TakeFacts(2, 2, "Hola"), languages=("en-US", "es"))
    assert "prompt_language" not in kinds(tongue, plays(), prompts={"pr_x": both})
    french = {**say("a", "Bonjour", "vm"), "prompt": {"say": "Bonjour", "language": "fr"}}
    assert "no branch lets callers choose" in kinds(french)["other_language"]


@pytest.mark.parametrize(
    ("words", "kind", "said"),
    [
        ("Hold <b>on</b>", "markup", "<b> is not understood"), ("Welcome to [your trade].", "blank", "[your trade]"),
        ("Hello {caller}", "spoken_field", "{caller|neighbor}"), ("Your place is {place}", "spoken_field", "only a hold line knows"),
        ("You typed {typed}", "spoken_field", "nothing was typed before"), ("Hello {name}", "spoken_field", "it is no field"),
        ("We are open Monday to Friday from 9 to 5.", "promised_hours", "none of the client’s hours are so"),
    ],
)  # fmt: skip
def test_words_that_cannot_be_said_or_kept(words: str, kind: str, said: str) -> None:
    assert said in kinds(say("a", words, "vm"))[kind]


@pytest.mark.parametrize(
    "words",
    [
        "Hello {caller|neighbor}",
        "This is {client}.",
        "We are open Monday to Friday, 8 a.m. to 5 p.m.",
        "It opens {opens}.",
    ],
)
def test_words_that_are_true_are_left_alone(words: str) -> None:
    assert not {"spoken_field", "promised_hours", "markup"} & set(kinds(say("a", words, "vm")))


def test_what_was_typed_is_known_behind_the_entry_and_the_wait_in_line() -> None:
    code = {
        "kind": "keypad_entry", "id": "code", "prompt": {"say": "Your code"}, "shortest": 2, "longest": 2, "store_as": "boat_code",
        "typed": "a", "nothing": "vm", "wrong": "vm",
    }  # fmt: skip
    assert "spoken_field" not in kinds(code, say("a", "You typed {boat code}, {typed}.", "vm"))
    assert "spoken_field" not in kinds(hold("h", tells={"say": "Place {place}, {wait}."}))


def test_a_call_back_is_promised_where_nobody_is_told() -> None:
    greeting = {"say": "Leave a message, and we will call you back."}
    assert "nobody is told of messages" in kinds(voicemail(greeting=greeting), told=False)["promised_call_back"]
    assert "promised_call_back" not in kinds(voicemail(greeting=greeting))


def test_notices_where_they_must_stand_and_what_they_must_say() -> None:
    """Places: US states usually named as asking for every party's consent, from memory, not legal advice."""
    recorded = ring(
        "r", phone("Dana", DANA), no_answer="vm", busy="vm", unreachable="vm", nobody="vm", recording={"purpose": "all"}
    )
    unheard = kinds(say("a", "Hello", "r"), recorded, consent=("Maryland",))["unheard_recording"]
    assert unheard.endswith("Everybody on the line must agree to it in Maryland.")
    assert "best before" in unheard
    silent = kinds(say("a", "Hello", "r", notice=True), recorded)
    assert "does not say that calls are recorded" in silent["notice_silent"]
    told = kinds(say("a", "We may record this call to learn from it.", "r", notice=True), recorded)
    assert not {"unheard_recording", "notice_silent"} & set(told)
    skipped = document(plays(), voicemail(), rescue="vm")
    around = Surroundings({"mb": True}, (), prompts={"pr_x": facts(kind="notice")})
    (finding,) = [one for one in findings(skipped, around) if one.kind == "notice_skipped"]
    step = skipped.step("a")
    assert step is not None
    assert getattr(mended(skipped, step, finding.mends[0]), "notice", False) is True
