"""Words as they are read: mark-up, fields, phone numbers, names, and the words that ship."""

import re
from datetime import date, time
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vokari.core.flows.drafting.edits import AddStep
from vokari.core.prompts import fields, markup, moments, naming, reading, transcripts
from vokari.core.prompts.markup import Break, Emphasis, SaidAs, Words
from vokari.core.prompts.voices import Voice, for_language, speaks

NAMESPACE = "{http://www.w3.org/2001/10/synthesis}"
LANGUAGES = ("en-US", "en-GB", "es", "fr", "de")


def test_mark_up_that_is_understood_is_read_into_pieces() -> None:
    words = 'Hold <break time="1.5s"/> the <emphasis level="strong">blue</emphasis> key <say-as interpret-as="digits">47</say-as>.'
    assert markup.read(words) == (
        Words("Hold "), Break(1500), Words(" the "), Emphasis("strong", (Words("blue"),)), Words(" key "), SaidAs("digits", "47"), Words("."),
    )  # fmt: skip
    assert markup.plain(words) == "Hold the blue key 47."


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ("<b>no</b>", "<b> is not understood"),
        ("<break", "every tag is closed"),
        ('<break time="11s"/>', "up to 10 seconds"),
        ('<break size="2"/>', "no size"),
        ('<say-as interpret-as="spell">x</say-as>', "one of digits"),
        ("<emphasis><emphasis>x</emphasis></emphasis>", "within <emphasis>"),
        ("<!DOCTYPE x [<!ENTITY a 'b'>]><speak>&a;</speak>", "no declarations"),
        ('<?xml version="1.0"?><speak>x</speak>', "no declarations"),
    ],
)
def test_mark_up_that_is_none_is_said_in_words(words: str, said: str) -> None:
    read = markup.read(words)
    assert isinstance(read, str)
    assert said in read


def test_words_with_signs_that_are_no_tags_are_words() -> None:
    assert markup.read("Smith & Sons, 5 < 6") == (Words("Smith & Sons, 5 < 6"),)
    assert markup.plain("<speak>Smith &amp; Sons & Co</speak>") == "Smith & Sons & Co"


@given(st.text(alphabet=st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"]), max_size=80))
def test_any_words_make_a_document_of_the_standard_and_say_themselves(words: str) -> None:
    root = ElementTree.fromstring(reading.ssml(words, "en-US"))
    assert root.tag == f"{NAMESPACE}speak"
    assert root.get("version") == "1.1"
    assert not isinstance(markup.plain(words), list)


def _grammar(element: ElementTree.Element, inside: tuple[str, ...] = ()) -> None:
    """The part of the grammar of SSML 1.1 (W3C Recommendation, appendix C) that is written: from memory."""
    name = element.tag.removeprefix(NAMESPACE)
    allowed = {"speak": {"break", "emphasis"}, "emphasis": {"break"}, "break": set()}[name]
    attributes = {
        "speak": {"version", "{http://www.w3.org/XML/1998/namespace}lang"},
        "emphasis": {"level"},
        "break": {"time"},
    }[name]
    assert set(element.attrib) <= attributes
    if name == "break":
        assert not len(element)
        assert not element.text
        assert re.fullmatch(r"[0-9]+(\.[0-9]+)?(s|ms)", element.attrib["time"])
    if name == "emphasis":
        assert element.attrib["level"] in ("strong", "moderate", "none", "reduced")
    for child in element:
        assert child.tag.removeprefix(NAMESPACE) in allowed
        _grammar(child, (*inside, name))


def test_documents_keep_to_the_grammar_of_the_subset() -> None:
    words = (
        'Ring 410-555-0142, now. <emphasis>Then <break strength="weak"/> wait</emphasis> until <say-as interpret-as="date">2026-12-24</say-as>'
        ' at <say-as interpret-as="time">08:30</say-as>.'
    )
    document = reading.ssml(words, "en-US", pause=0.4)
    _grammar(ElementTree.fromstring(document))
    assert "December 24" in document
    assert "8:30 AM" in document


@pytest.mark.parametrize(
    ("language", "words", "digits"),
    [
        ("en-US", "Call 410-555-0142.", "4 1 0"),
        ("en-US", "Call (410) 555-0142", "0 1 4 2"),
        ("en-GB", "Ring 01632 960123", "9 6 0 1 2 3"),
        ("en-GB", "Ring 07700 900123 today", "0 7 7 0 0"),
        ("en-US", "From abroad +44 20 7946 0123", "7 9 4 6"),
    ],
)
def test_phone_numbers_are_read_digit_by_digit(language: str, words: str, digits: str) -> None:
    assert digits in reading.ssml(words, language)


@pytest.mark.parametrize("words", ["on 2026-11-24", "of 10 000 000 people", "room 12, floor 3", "since 1987"])
def test_other_numbers_are_not(words: str) -> None:
    assert words in reading.ssml(words, "en-US")


def test_days_and_times_are_said_as_each_place_says_them() -> None:
    """Against the Unicode Common Locale Data Repository, which Babel carries."""
    christmas = date(2026, 12, 24)
    said = {one: reading.day_said(christmas, one) for one in LANGUAGES}
    assert said == {
        "en-US": "December 24", "en-GB": "24 December", "es": "24 de diciembre", "fr": "24 décembre", "de": "24. Dezember",
    }  # fmt: skip
    assert (reading.time_said(time(14, 0), "en-US"), reading.time_said(time(14, 5), "en-GB")) == ("2 PM", "14:05")


def test_fields_are_filled_in_in_parts_of_which_the_fixed_ones_are_made_beforehand() -> None:
    words = "Hello {caller|neighbor}, {client} opens {opens of Workshop}."
    (known, unknown) = (
        fields.filled(words, {"caller|neighbor": "Ada", "client": "The yard", "opens of Workshop": "at 8"}),
        fields.filled(words, {"client": "The yard", "opens of Workshop": "at 8"}),
    )
    assert known == ("Hello", "Ada,", "The yard", "opens", "at 8.")
    assert unknown == ("Hello", "neighbor,", "The yard", "opens", "at 8.")
    assert set(fields.fixed(words)) >= {"Hello", "opens", "neighbor,"}
    assert fields.field_of("opens of Workshop").of == "Workshop"


@given(
    st.lists(
        st.sampled_from(["Hello", "{client}", " ", ", ", "now", "{caller|friend}", ".", "{typed}", "we are open"]),
        max_size=8,
    )
)
def test_no_word_is_lost_or_added_where_fields_are_filled_in(pieces: list[str]) -> None:
    words = "".join(pieces)
    values = {one.written: "VALUE" for one in fields.fields_in(words)}
    said = "".join("".join(fields.filled(words, values)).split())
    expected = "".join("VALUE" if isinstance(one, fields.Field) else one for one in fields.parts(words))
    assert said == "".join(expected.split())
    made = set(fields.fixed(words))
    assert all(part in made or "VALUE" in part for part in fields.filled(words, values) if any(map(str.isalnum, part)))


def test_a_field_within_mark_up_keeps_its_words_together() -> None:
    words = "Press <emphasis>{typed}</emphasis> now"
    assert fields.filled(words, {"typed": "4"}) == ("Press <emphasis>4</emphasis> now",)
    assert fields.fixed(words) == ()


@pytest.mark.parametrize("name", ["recording 3", "Greeting (2)", "new prompt", "IMG_4711.wav", "final final", "a"])
def test_names_that_say_nothing_are_questioned(name: str) -> None:
    assert naming.questions(name, {})


@pytest.mark.parametrize(
    ("one", "other", "alike"),
    [
        ("Boat lift greeting", "Boat lifts greeting", True), ("Winter greeting", "winter greeting 2", True),
        ("Boat lifts", "Winter storage", False), ("Mill Road voicemail", "Harbor Street voicemail", False),
    ],
)  # fmt: skip
def test_names_that_can_be_taken_for_each_other(one: str, other: str, alike: bool) -> None:
    assert naming.too_alike(one, other) is alike
    assert bool(naming.questions(one, {"k": other})) is alike


def test_a_better_name_comes_from_the_words_and_tells_it_from_others() -> None:
    words = "Thank you for calling. The slipway is closed for winter storage."
    first = naming.proposed(words, "greeting")
    assert first == "Greeting: slipway closed winter storage"
    assert not naming.questions(first, {})
    assert naming.proposed(words, "greeting", [first]) != ""
    assert naming.proposed("", "greeting") == ""


def test_good_words_ship_for_every_moment_in_four_languages_with_blanks_and_are_told() -> None:
    assert {one.moment for one in moments.WORDS} == set(moments.MOMENTS)
    for one in moments.WORDS:
        assert {"en", "es", "fr", "de"} <= set(one.said)
        for said in one.said.values():
            assert moments.is_shipped(said)
            assert not isinstance(markup.read(said), str)
    opening = moments.for_language("fr")[0][1]
    assert moments.blanks(opening) == ("[ce que l’on demande le plus]",)
    assert not moments.is_shipped(opening + " Bonjour.")
    assert AddStep(id="x", kind="voicemail").fill == {}
    assert "greeting" in moments.fill("voicemail", "de")


def test_the_word_error_rate_counts_words_to_replace_take_out_and_put_in() -> None:
    """Worked by hand: one of four wrong, one missing of four, one too many of four."""
    said = "press one for lifts"
    for understood in ("press two for lifts", "press one lifts", "please press one for lifts"):
        assert transcripts.error_rate(said, understood) == pytest.approx(0.25)
    assert transcripts.error_rate("", "") == 0
    assert transcripts.error_rate("Hello, there", "hello there") == 0


def test_a_voice_reads_another_language_with_the_same_timbre() -> None:
    voice = Voice(name="en-us+f3", rate=170, pause=0.2)
    assert for_language(voice, "en-GB") == voice
    assert speaks("en-us+f3", "en-GB")
    assert not speaks("en-us", "es")
    assert for_language(voice, "es") == Voice(name="es+f3", rate=170, pause=0.2)
    assert for_language(Voice(name="en-us"), "fr").name == ""
