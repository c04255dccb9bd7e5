"""Lists of lead sources: what each column is. It is guessed; the person sees the guess and corrects it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from . import lists
from .lists import Table, columns

COLUMNS = ("name", "source", "medium", "campaign", "placement", "online", "term", "content")
"""What a column can be."""

COLUMN_NAMES = {
    "name": "name", "source": "source", "medium": "medium", "campaign": "campaign", "placement": "placement",
    "online": "online or offline", "term": "term", "content": "content",
}  # fmt: skip

HEADINGS = {
    "name": ("name", "lead source", "title", "advert", "ad", "channel"),
    "source": ("source", "utm_source"),
    "medium": ("medium", "utm_medium", "type", "kind"),
    "campaign": ("campaign", "utm_campaign"),
    "placement": ("placement", "where", "place", "location", "page"),
    "online": ("online", "online/offline", "on/off"),
    "term": ("term", "utm_term", "keyword"),
    "content": ("content", "utm_content"),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Line:
    """One lead source as a list has it: its line, its fields, and what is wrong with it in words (empty: nothing)."""

    line: int
    fields: Mapping[str, str]
    problem: str = ""


def read(text: str) -> Table | str:
    """The rows of a list of lead sources; a sentence when it cannot be read."""
    return lists.read(text, HEADINGS, "The list is empty: write a lead source on each line.")


def guess(table: Table) -> tuple[str, ...]:
    """What each column is, as one of COLUMNS or empty; without a heading the first is the name, then medium, campaign
    and placement."""
    if not table.heading:
        usual = ("name", "medium", "campaign", "placement")
        return tuple(usual[index] if index < len(usual) else "" for index in range(table.width))
    found = columns(table, HEADINGS)
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
