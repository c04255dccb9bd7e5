"""Lists of lead sources as people have them: typed lines, or CSV (RFC 4180) from a spreadsheet in any usual form.

Reading guesses the encoding, the separator and what each column is; the person sees the guess and corrects it.
"""

import csv
import io
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

COLUMNS = ("name", "source", "medium", "campaign", "placement", "online", "term", "content")
"""What a column can be."""

COLUMN_NAMES = {
    "name": "name", "source": "source", "medium": "medium", "campaign": "campaign", "placement": "placement",
    "online": "online or offline", "term": "term", "content": "content",
}  # fmt: skip

_HEADINGS = {
    "name": ("name", "lead source", "title", "advert", "ad", "channel"),
    "source": ("source", "utm_source"),
    "medium": ("medium", "utm_medium", "type", "kind"),
    "campaign": ("campaign", "utm_campaign"),
    "placement": ("placement", "where", "place", "location", "page"),
    "online": ("online", "online/offline", "on/off"),
    "term": ("term", "utm_term", "keyword"),
    "content": ("content", "utm_content"),
}  # fmt: skip
MOST_LINES, MOST_COLUMNS = 5000, 60
MOST_BYTES = 2_000_000
SEPARATORS = (",", ";", "\t", "|")


@dataclass(frozen=True, slots=True)
class Table:
    """A list as rows of cells, each with its line in the file; `heading` is the first row where it names columns."""

    rows: tuple[tuple[int, tuple[str, ...]], ...]
    heading: tuple[str, ...] = ()
    blank: int = 0

    @property
    def width(self) -> int:
        return max((len(cells) for _, cells in self.rows), default=0)


@dataclass(frozen=True, slots=True)
class Line:
    """One lead source as a list has it: its line, its fields, and what is wrong with it in words (empty: nothing)."""

    line: int
    fields: Mapping[str, str]
    problem: str = ""


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


def read(text: str) -> Table | str:
    """The rows of a list; a sentence when it is too long or empty. Blank lines are counted and passed over."""
    if len(text) > MOST_BYTES:
        return f"A list has at most {MOST_BYTES:,} letters."
    text = text.replace("\0", "").replace("\r\n", "\n").replace("\r", "\n")
    separator = _separator(text)
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
        return "The list is empty: write a lead source on each line."
    if _is_heading(rows[0][1]):
        return Table(tuple(rows[1:]), rows[0][1], blank) if rows[1:] else "The list has a heading and no lines."
    return Table(tuple(rows), (), blank)


def guess(table: Table) -> tuple[str, ...]:
    """What each column is, as one of COLUMNS or empty; without a heading the first is the name, then medium, campaign
    and placement."""
    if not table.heading:
        usual = ("name", "medium", "campaign", "placement")
        return tuple(usual[index] if index < len(usual) else "" for index in range(table.width))
    found: list[str] = []
    for cell in (*table.heading, *[""] * (table.width - len(table.heading))):
        wanted = next((name for name, words in _HEADINGS.items() if cell.lower() in words and name not in found), "")
        found.append(wanted)
    if "name" not in found and "source" in found:
        found[found.index("source")] = "name"
    return tuple(found)


def lines(table: Table, mapping: Sequence[str], known: Mapping[str, str] | None = None) -> list[Line]:
    """The lead sources of a list, each with its own error. `known` are names, in small letters, that are taken already,
    with why."""
    seen: dict[str, int] = {}
    found = []
    for number, cells in table.rows:
        fields = {name: cells[index] for index, name in enumerate(mapping) if name and index < len(cells)}
        name = fields.get("name", "")
        problem = _problem(name, fields, seen, known or {})
        seen.setdefault(name.lower(), number)
        found.append(Line(number, fields, problem))
    return found


def is_online(fields: Mapping[str, str]) -> bool:
    """Whether a source is online: as its column says, else by its medium after the open web-analytics convention."""
    said = fields.get("online", "").lower()
    if said:
        return said in ("online", "on", "yes", "y", "1", "true", "x", "web")
    return fields.get("medium", "").lower() in ONLINE_MEDIA


ONLINE_MEDIA = ("cpc", "ppc", "organic", "social", "email", "referral", "display", "affiliate", "video", "web")


def _problem(name: str, fields: Mapping[str, str], seen: Mapping[str, int], known: Mapping[str, str]) -> str:
    if not name:
        return "this line has no name"
    if len(name) > 80:
        return "the name has more than 80 letters"
    long = next((field for field, value in fields.items() if len(value) > 120), "")
    if long:
        return f"the {COLUMN_NAMES[long]} has more than 120 letters"
    if "\ufffd" in "".join(fields.values()):
        return "some letters cannot be read: save the file as UTF-8"
    if name.lower() in seen:
        return f"the same name stands on line {seen[name.lower()]}"
    return known.get(name.lower(), "")


def _separator(text: str) -> str:
    """The separator by which the first line is a heading, else the one that most lines have equally often, else a comma."""
    sample = [line for line in text.split("\n")[:200] if line.strip()]
    for separator in SEPARATORS if sample else ():
        if separator in sample[0] and _is_heading([cell.strip(' "') for cell in sample[0].split(separator)]):
            return separator
    best, most = ",", 0.0
    for separator in SEPARATORS:
        counts = Counter(line.count(separator) for line in sample)
        often, lines_ = max(((n, times) for n, times in counts.items() if n), key=lambda pair: pair[1], default=(0, 0))
        if often and lines_ * (1 + often / 100) > most:
            best, most = separator, lines_ * (1 + often / 100)
    return best


def _is_heading(cells: Sequence[str]) -> bool:
    """Whether a row names columns: most of its cells are known headings."""
    words = {word for group in _HEADINGS.values() for word in group}
    filled = [cell for cell in cells if cell]
    known = sum(cell.lower() in words for cell in filled)
    return known >= 2 or (known == 1 and len(filled) == 1)
