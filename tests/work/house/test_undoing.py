"""What undo and redo would take back, read from the end of a log, against the whole log read from its beginning."""

from collections.abc import Iterator

from hypothesis import given
from hypothesis import strategies as st

from vokari.work.house.undoing import REDO, UNDO, Entry, standing


def from_the_beginning(entries: list[Entry]) -> tuple[Entry | None, Entry | None]:
    """Two piles: what stands and what was taken back."""
    done: list[Entry] = []
    undone: list[Entry] = []
    for entry in entries:
        match entry.kind:
            case "undo":
                done.pop()
                undone.append(entry)
            case "redo":
                undone.pop()
                done.append(entry)
            case _:
                done.append(entry)
                undone.clear()
    return (done[-1] if done else None, undone[-1] if undone else None)


@given(st.lists(st.sampled_from(["edit", UNDO, UNDO, REDO]), max_size=60))
def test_the_end_of_a_log_says_what_the_whole_of_it_says(kinds: list[str]) -> None:
    entries: list[Entry] = []
    for kind in kinds:
        undoable, redoable = from_the_beginning(entries)
        if kind == "edit" or (kind == UNDO and undoable) or (kind == REDO and redoable):
            entries.append(Entry(len(entries) + 1, kind, f"step {len(entries)}"))
    assert standing(reversed(entries)) == from_the_beginning(entries)


def test_a_long_log_is_read_only_as_far_as_it_has_to_be() -> None:
    read = 0

    def log() -> Iterator[Entry]:
        nonlocal read
        for seq in range(10_000, 0, -1):
            read += 1
            yield Entry(seq, UNDO if seq > 9997 else "edit", "")

    undoable, redoable = standing(log())
    assert undoable is not None
    assert (undoable.seq, redoable) == (9994, Entry(10_000, UNDO, ""))
    assert read == 7
