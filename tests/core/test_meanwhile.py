"""Laying one change over another: nothing that somebody else changed is lost without a word."""

from hypothesis import given
from hypothesis import strategies as st

from vokari.core.meanwhile import lay

VALUES = st.integers(0, 2)
FORMS = st.fixed_dictionaries({"name": VALUES, "phones": VALUES, "note": VALUES})


@given(was=FORMS, typed=FORMS, now=FORMS)
def test_what_one_alone_changed_stands_and_what_both_changed_is_told(
    was: dict[str, int], typed: dict[str, int], now: dict[str, int]
) -> None:
    laid = lay(typed, was, now)
    for field in was:
        mine, theirs = typed[field] != was[field], now[field] != was[field]
        if mine and theirs and typed[field] != now[field]:
            assert field in laid.clashes
        else:
            assert field not in laid.clashes
            assert laid.fields[field] == (typed[field] if mine else now[field])


@given(typed=FORMS, now=FORMS)
def test_a_form_that_says_nothing_of_its_past_is_taken_as_it_is(typed: dict[str, int], now: dict[str, int]) -> None:
    assert lay(typed, None, now).fields == typed
    assert not lay(typed, None, now).clashes
