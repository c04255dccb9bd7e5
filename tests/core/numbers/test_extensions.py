"""Extensions far apart: no slip of the finger makes one of another, and what was given stays."""

from hypothesis import given
from hypothesis import strategies as st

from vokari.core.numbers import extensions
from vokari.core.numbers.extensions import APART, LONGEST, Scheme, differ, is_near, propose

codes = st.text("0123456789", min_size=2, max_size=4)


@given(
    st.sampled_from(["", "7???", "??", "9?1?"]),
    st.integers(0, 40),
    st.sets(codes, max_size=4),
    st.sets(st.sampled_from("1234")),
)
def test_no_two_codes_are_nearer_than_two_digits(scheme: str, sources: int, printed: set[str], keys: set[str]) -> None:
    taken, made = set(printed), list[str]()
    for _ in range(30):
        code = propose(Scheme(scheme), sources, taken, keys)
        if code is None:
            break
        assert not any(is_near(code, one) for one in taken)
        assert all(differ(code, one) >= APART for one in taken if len(one) == len(code))
        assert (
            all(place in (digit, "?") for place, digit in zip(scheme, code, strict=True)) if scheme else code.isdigit()
        )
        taken.add(code)
        made.append(code)
    assert len(set(made)) == len(made)


@given(codes, st.data())
def test_one_slip_of_the_finger_makes_a_near_code(code: str, data: st.DataObject) -> None:
    """A wrong digit, two neighbors swapped, a digit left out or typed twice."""
    at = data.draw(st.integers(0, len(code) - 1))
    wrong = code[:at] + data.draw(st.sampled_from("0123456789")) + code[at + 1 :]
    swapped = code[:at] + code[at + 1 : at + 2] + code[at] + code[at + 2 :]
    for slip in (wrong, swapped, code[:at] + code[at + 1 :], code[:at] + code[at] + code[at:]):
        assert slip == code or is_near(code, slip)
        assert is_near(slip, code) == is_near(code, slip)


def test_four_digits_unless_the_client_has_few_sources_or_codes_of_another_length() -> None:
    assert [len(propose(Scheme(), sources, ()) or "") for sources in (3, 12, 13, 80)] == [3, 3, 4, 4]
    assert len(propose(Scheme(), 80, ["123"]) or "") == 3
    assert len(propose(Scheme("8?????"), 3, ["123"]) or "") == 6


def test_a_code_begins_with_no_key_of_a_menu_while_it_can() -> None:
    assert (propose(Scheme(), 3, (), {"1", "2", "3", "4", "5", "6", "7", "9"}) or "")[0] == "8"
    assert propose(Scheme(), 3, (), set("123456789")) is not None


def test_hundreds_fit_and_when_codes_run_out_there_is_none() -> None:
    """Of codes of n digits at most 10**(n-1) differ in two (the Singleton bound: R. Singleton, 1964)."""
    taken = list[str]()
    while code := propose(Scheme("??"), 3, taken):
        taken.append(code)
    assert 1 < len(taken) <= 10
    many = list[str]()
    for _ in range(300):
        many.append(propose(Scheme(), 400, many) or "")
    assert all(len(one) == 4 for one in many)


def test_a_scheme_is_kept_and_one_of_before_goes_on_with_codes_of_its_length() -> None:
    assert extensions.load(extensions.dump(Scheme("7???"))) == Scheme("7???")
    assert extensions.load({}) == Scheme()
    kept = {"topic_digits": 1, "advert_digits": 2, "topics": {"1": "Boats"}, "adverts": {"01": "Van"}}
    assert extensions.load(kept) == Scheme("???")


def test_schemes_that_no_menu_could_listen_for_are_refused() -> None:
    assert [extensions.problem_of(one) for one in ("", "??", "7???", "?" * LONGEST)] == [""] * 4
    for wrong in ("?", "7" * 7, "7a??", "77?"):
        assert extensions.problem_of(wrong)
