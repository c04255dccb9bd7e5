"""Lines with what hangs below them: nothing is lost wherever they go, and what went up comes down again."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vokari.core.flows.outlined.blocks import Move, Outline, Stuck, moved, pasted, put, without


@st.composite
def _outlines(draw: st.DrawFn) -> list[str]:
    lines: list[str] = []
    depth = -1
    for n in range(draw(st.integers(1, 12))):
        depth = draw(st.integers(0, depth + 1))
        key = draw(st.sampled_from(["", "", f"{n % 10} "]))
        lines.append(f"{'    ' * depth}{key}line {'abcdefghijkl'[n]}")
    return lines


def words(lines: list[str]) -> list[str]:
    """What the lines say, without indents and keys."""
    return sorted(one.strip().lstrip("0123456789 ") for one in lines)


@given(_outlines(), st.integers(0, 11), st.sampled_from(["up", "down", "deeper", "less_deep"]))
def test_no_move_loses_a_line_or_tears_a_block(lines: list[str], at: int, move: Move) -> None:
    outline, at = Outline(lines), at % len(lines)
    block = words(outline.block(at))
    try:
        result = moved(outline, at, move)
    except Stuck:
        return
    assert words(result.lines) == words(lines)
    assert words(Outline(result.lines).block(result.at)) == block


@given(_outlines(), st.integers(0, 11))
def test_what_went_up_comes_down_again(lines: list[str], at: int) -> None:
    outline, at = Outline(lines), at % len(lines)
    try:
        result = moved(outline, at, "up")
    except Stuck:
        return
    back = moved(Outline(result.lines), result.at, "down")
    assert (back.lines, back.at) == (lines, at)


@given(_outlines(), st.integers(0, 11), st.integers(0, 11), st.booleans())
def test_a_block_is_put_anywhere_but_below_itself(lines: list[str], at: int, to: int, below: bool) -> None:
    outline, at, to = Outline(lines), at % len(lines), to % len(lines)
    if at <= to < outline.end(at):
        with pytest.raises(Stuck):
            put(outline, at, to, below=below)
        return
    result = put(outline, at, to, below=below)
    assert words(result.lines) == words(lines)
    assert words(Outline(result.lines).block(result.at)) == words(outline.block(at))
    assert Outline(result.lines).depth(result.at) == outline.depth(to) + below


@given(_outlines(), st.integers(0, 11))
def test_what_is_pasted_and_taken_out_again_leaves_no_trace(lines: list[str], at: int) -> None:
    outline, at = Outline(lines), at % len(lines)
    there = pasted(outline, at, "first\n\tsecond")
    assert without(Outline(there.lines), there.at).lines == lines


def test_keys_under_a_menu_are_free_ones_and_ten_are_all() -> None:
    menu = ["ask", *(f"    {key} thing" for key in "1234567890"), "label x"]
    with pytest.raises(Stuck, match="All ten keys"):
        moved(Outline(menu), 1, "double")
    few = ["ask", "    1 thing: Ada", "    2 other: Ben", "label x"]
    assert moved(Outline(few), 1, "double").lines[2] == "    3 thing: Ada"
    assert moved(Outline(few), 3, "up").lines[0] == "label x"
    assert put(Outline(few), 3, 0, below=True).lines[-1] == "    3 label x"
    assert put(Outline(few), 2, 3, below=False).lines[-1] == "Ben as other"
