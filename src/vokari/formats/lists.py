"""Lists as people have them: typed lines, or CSV (RFC 4180) from a spreadsheet in any usual form.

Reading guesses the encoding and the separator, and whether the first row names columns; what each column is, is another matter.
"""

import csv
import io
from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

MOST_LINES, MOST_COLUMNS = 5000, 60
MOST_BYTES = 2_000_000
SEPARATORS = (",", ";", "\t", "|")

Headings = Mapping[str, Collection[str]]
"""What columns can be, each with the headings, in small letters, by which it is known."""


@dataclass(frozen=True, slots=True)
class Table:
    """A list as rows of cells, each with its line in the file; `heading` is the first row where it names columns."""

    rows: tuple[tuple[int, tuple[str, ...]], ...]
    heading: tuple[str, ...] = ()
    blank: int = 0

    @property
    def width(self) -> int:
        return max((len(cells) for _, cells in self.rows), default=0)


def decode(content: bytes) -> str | None:
    """The text of a file: UTF-8 or UTF-16 by its mark, UTF-8, else Windows-1252; None for what is no text at all."""
    if content.startswith((b"\xff\xfe", b"\xfe\xff")):
        try:
            return content.decode("utf-16")
        except UnicodeDecodeError:
            return None
    if b"\0" in content:
        return None
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        return content.decode("cp1252", errors="replace")


def read(text: str, headings: Headings, empty: str = "The list is empty.") -> Table | str:
    """The rows of a list; a sentence when it is too long, or empty (`empty`). Blank lines are counted and skipped."""
    if len(text) > MOST_BYTES:
        return f"A list has at most {MOST_BYTES:,} letters."
    text = text.replace("\0", "").replace("\r\n", "\n").replace("\r", "\n")
    separator = _separator(text, headings)
    reader = csv.reader(io.StringIO(text), delimiter=separator, skipinitialspace=True)
    rows: list[tuple[int, tuple[str, ...]]] = []
    blank = 0
    try:
        for cells in reader:
            cleaned = tuple(" ".join(cell.split()) for cell in cells)
            if any(cleaned):
                rows.append((reader.line_num, cleaned))
            else:
                blank += 1
    except csv.Error as error:
        return f"Line {reader.line_num} cannot be read: {error}."
    if len(rows) > MOST_LINES:
        return f"A list has at most {MOST_LINES:,} lines; this one has {len(rows):,}."
    widest = max((len(cells) for _, cells in rows), default=0)
    if widest > MOST_COLUMNS:
        return f"A list has at most {MOST_COLUMNS} columns; this one has {widest:,}."
    if not rows:
        return empty
    if _is_heading(rows[0][1], headings):
        return Table(tuple(rows[1:]), rows[0][1], blank) if rows[1:] else "The list has a heading and no lines."
    return Table(tuple(rows), (), blank)


def columns(table: Table, headings: Headings) -> list[str]:
    """What each column is by its heading; empty for one that is not known."""
    found: list[str] = []
    for cell in (*table.heading, *[""] * (table.width - len(table.heading))):
        found.append(
            next((name for name, words in headings.items() if cell.lower() in words and name not in found), "")
        )
    return found


def _separator(text: str, headings: Headings) -> str:
    """The separator by which the first line is a heading, else the one that most lines have equally often, else a comma."""
    sample = [line for line in text.split("\n")[:200] if line.strip()]
    for separator in SEPARATORS if sample else ():
        if separator in sample[0] and _is_heading([cell.strip(' "') for cell in sample[0].split(separator)], headings):
            return separator
    best, most = ",", 0.0
    for separator in SEPARATORS:
        counts = Counter(line.count(separator) for line in sample)
        often, lines_ = max(((n, times) for n, times in counts.items() if n), key=lambda pair: pair[1], default=(0, 0))
        if often and lines_ * (1 + often / 100) > most:
            best, most = separator, lines_ * (1 + often / 100)
    return best


def _is_heading(cells: Sequence[str], headings: Headings) -> bool:
    """Whether a row names columns: most of its cells are known headings."""
    words = {word for group in headings.values() for word in group}
    filled = [cell for cell in cells if cell]
    known = sum(cell.lower() in words for cell in filled)
    return known >= 2 or (known == 1 and len(filled) == 1)
