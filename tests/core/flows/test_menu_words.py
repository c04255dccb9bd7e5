"""Words and keys of a menu: at least 95 of 100 texts are heard as a person hears them, and what is written is heard alike."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.flows.menu_texts import TEXTS, Heard
from vokari.core.flows.wording.heard import heard
from vokari.core.flows.wording.written import Choice, written

ENOUGH = 0.95
NAMES = st.sampled_from(
    ["boat lifts", "Ada Vale", "tickets and passes", "a quote", "the yard", "2 o’clock tours", "season cards", "work"]
)
KEYS = st.sampled_from(["0", "1", "9", "*", "#", "12", "407"])


def read(text: str, language: str = "en-US") -> tuple[Heard, ...]:
    found = heard(text, language)
    assert found is not None
    return tuple((one.keys, one.name, one.kind) for one in found)


def misses() -> list[tuple[str, tuple[Heard, ...], tuple[Heard, ...]]]:
    return [(text, expected, read(text)) for text, expected in TEXTS if read(text) != expected]


def test_menus_are_heard_as_a_person_hears_them() -> None:
    missed = misses()
    assert len(TEXTS) >= 80
    assert 1 - len(missed) / len(TEXTS) >= ENOUGH, missed


@given(
    st.lists(st.tuples(KEYS, NAMES, st.sampled_from(["", "back", "again"])), max_size=6, unique_by=lambda one: one[0]),
    st.sampled_from(["en-US", "en-GB", "es"]),
)
def test_what_is_written_is_heard_alike(ways: list[tuple[str, str, str]], language: str) -> None:
    choices = [Choice(keys, name, kind == "back", kind == "again") for keys, name, kind in ways]
    found = read(written(choices, language), language)
    assert [(keys, kind) for keys, _, kind in found] == [(keys, kind or "branch") for keys, _, kind in ways]
    assert [name for _, name, kind in found if kind == "branch"] == [
        name.removeprefix("a ").removeprefix("the ") if language != "es" else name for _, name, kind in ways if not kind
    ]


@given(st.text(max_size=200))
def test_any_words_are_heard_without_failing(text: str) -> None:
    for one in heard(text, "en-US") or []:
        assert 0 <= one.start <= one.end <= len(text)


@pytest.mark.parametrize("language", ["fr", "de", "it"])
def test_languages_without_data_are_not_listened_to(language: str) -> None:
    assert heard("For lifts, press 1.", language) is None
