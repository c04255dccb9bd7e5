"""Two texts made of one: nobody's line is lost, and what only one changed is as that one has it."""

from hypothesis import given
from hypothesis import strategies as st

from vokari.core.flows.outlined.merging import merged

TEXTS = st.lists(st.sampled_from("abcdef"), max_size=8)


@given(TEXTS, TEXTS, TEXTS)
def test_every_line_of_both_is_there_unless_one_of_them_took_it_out(
    was: list[str], one: list[str], other: list[str]
) -> None:
    both = merged(was, one, other)
    assert set(one) - set(was) <= set(both)
    assert set(other) - set(was) <= set(both)
    assert set(was) & set(one) & set(other) <= set(both)
    assert set(both) <= {*was, *one, *other}


@given(TEXTS, TEXTS)
def test_what_one_alone_changed_is_theirs(was: list[str], one: list[str]) -> None:
    assert merged(was, one, was) == merged(was, was, one) == merged(was, one, one) == one
