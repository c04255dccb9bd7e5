"""People as vCards: written as version 3.0 (RFC 2426), which every address book reads; read as 3.0 and 4.0 (RFC 6350)."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import vobject
from vobject.base import ParseError, VObjectError

from ..core.people.directory import Person

LARGEST = 1_000_000
MOST, MOST_LINES = 500, 50
"""Cards of a file, and phones of a card, that are read."""
EXTENSION = "x-vokari-extension"
_KINDS = {"cell": "mobile", "work": "desk", "home": "home", "pager": "pager"}
_TYPES = {"mobile": "CELL", "cell": "CELL", "home": "HOME"}


@dataclass(frozen=True, slots=True)
class Card:
    """What a card says of somebody: phones in order of preference as (what it is called, number or SIP address as written)."""

    name: str
    phones: list[tuple[str, str]] = field(default_factory=list)
    email: str = ""
    note: str = ""
    extension: str = ""


def write(people: Sequence[tuple[str, Person]], organization: str) -> str:
    """Cards of people, each under an id that stays the same."""
    made = []
    for key, person in people:
        card = vobject.vCard()
        first, _, last = person.name.rpartition(" ")
        card.add("n").value = vobject.vcard.Name(family=last, given=first)
        card.add("fn").value = person.name
        card.add("org").value = [organization]
        card.add("uid").value = f"{key}@people.example"
        for index, phone in enumerate(person.phones):
            line = card.add("impp" if phone.to.startswith("sip") else "tel")
            line.value = phone.to
            if not phone.to.startswith("sip"):
                kind = _TYPES.get(phone.name.lower(), "WORK")
                line.type_param = [kind, "VOICE", "PREF"] if index == 0 else [kind, "VOICE"]
        for name, value in (("email", person.email), ("note", person.note), (EXTENSION, person.extension)):
            if value:
                card.add(name).value = value
        made.append(card.serialize())
    return "".join(made)


def read(data: bytes) -> list[Card] | str:
    """The cards of a file, or a sentence that says why it cannot be read. Cards without a name are called by their phone."""
    if len(data) > LARGEST:
        return "The file is larger than one megabyte."
    try:
        text = data.decode("utf-8-sig")
        found = [_card(one) for one in vobject.readComponents(text) if one.name == "VCARD"]
    except UnicodeDecodeError:
        return "The file is not text in UTF-8."
    except LookupError:
        return "The file names a character set that is not known: save it in UTF-8."
    except (ParseError, VObjectError) as error:
        line = getattr(error, "lineNumber", None)
        return f"The file is no vCard{f': line {line} cannot be read' if line else ''}."
    if not found:
        return "There is no card in the file."
    return found if len(found) <= MOST else f"There are {len(found)} cards in the file; {MOST} can be read at once."


def _card(card: Any) -> Card:
    phones = []
    for line in (card.contents.get("tel", []) + card.contents.get("impp", []))[:MOST_LINES]:
        value = str(line.value).strip()
        if line.name == "IMPP" and not value.lower().startswith("sip"):
            continue
        types = {one.lower() for raw in line.params.get("TYPE", []) for one in raw.split(",")}
        preferred = "pref" in types or line.params.get("PREF", ["9"])[0] == "1"
        called = next((words for kind, words in _KINDS.items() if kind in types), "")
        phones.append((not preferred, called, _dialed(value.removeprefix("tel:"))))
    phones.sort(key=lambda one: one[0])
    name = " ".join(_text(card, "fn").split())
    return Card(
        name[:60] or (phones[0][2] if phones else ""), [(called, to) for _, called, to in phones], _text(card, "email"),
        _text(card, "note")[:500], _text(card, EXTENSION),
    )  # fmt: skip


def _dialed(uri: str) -> str:
    """The number of a `tel:` URI with its extension (RFC 3966); other parameters are left out."""
    number, *parameters = uri.split(";")
    return ";".join([number, *(one for one in parameters if one.startswith(("ext=", "postd=")))])


def _text(card: Any, name: str) -> str:
    lines = card.contents.get(name, [])
    return str(lines[0].value).strip() if lines else ""
