"""Extensions by series: every code means one thing, and what was given stays."""

from hypothesis import given
from hypothesis import strategies as st

from vokari.core.numbers import extensions
from vokari.core.numbers.extensions import LONGEST, Pattern

names = st.sampled_from(["Boats", "Trailers", "Sails", "Bay Skipper", "Van", "Radio", "boats"])
shapes = st.tuples(st.integers(1, 3), st.integers(1, 3))


@given(shapes, st.lists(st.tuples(names, names), max_size=25))
def test_what_is_proposed_is_free_reads_back_and_keeps_what_was_given(
    shape: tuple[int, int], wanted: list[tuple[str, str]]
) -> None:
    pattern, given_before = Pattern(*shape), dict[str, tuple[str, str]]()
    for topic, advert in wanted:
        proposed = extensions.propose(pattern, topic, advert, given_before)
        if isinstance(proposed, str):
            assert any((t.lower(), a.lower()) == (topic.lower(), advert.lower()) for t, a in given_before.values())
            continue
        pattern, extension = proposed
        assert extension not in given_before
        assert len(extension) == sum(shape) <= LONGEST
        assert extension.isdigit()
        meaning = extensions.read(pattern, extension)
        assert meaning is not None
        assert (meaning.topic_name.lower(), meaning.advert_name.lower()) == (topic.lower(), advert.lower())
        given_before[extension] = (topic, advert)
    for extension, (topic, advert) in given_before.items():
        meaning = extensions.read(pattern, extension)
        assert meaning is not None
        assert (meaning.topic_name.lower(), meaning.advert_name.lower()) == (topic.lower(), advert.lower())
    series = {extension[: shape[0]]: topic.lower() for extension, (topic, _) in given_before.items()}
    assert len(set(series.values())) == len(series), "a series stands for one thing"


def test_when_the_codes_run_out_a_sentence_says_so() -> None:
    pattern = Pattern(1, 1)
    for number in range(9):
        made = extensions.propose(pattern, f"Topic {number}", "Van")
        assert not isinstance(made, str)
        pattern = made[0]
    assert extensions.propose(pattern, "One more", "Van") == (
        "All codes for things to advertise are in use: give them one digit more."
    )


def test_a_code_that_an_old_extension_uses_is_not_given_again() -> None:
    made = extensions.propose(Pattern(1, 2), "Boats", "Van", {"101", "202"})
    assert not isinstance(made, str)
    assert made[1] == "303"


@given(st.dictionaries(st.sampled_from(["1", "2", "3"]), names), st.dictionaries(st.sampled_from(["01", "02"]), names))
def test_a_pattern_is_kept_as_it_is(topics: dict[str, str], adverts: dict[str, str]) -> None:
    pattern = Pattern(1, 2, topics, adverts)
    assert extensions.load(extensions.dump(pattern)) == pattern
    assert extensions.load({}) == Pattern()
    assert extensions.read(pattern, "9") is None


def test_lengths_that_no_menu_can_listen_for_are_refused() -> None:
    assert extensions.problem_of(1, 2) == ""
    assert extensions.problem_of(3, 3) == ""
    assert "at most 6" in extensions.problem_of(4, 3)
    assert "at least one digit" in extensions.problem_of(0, 2)
