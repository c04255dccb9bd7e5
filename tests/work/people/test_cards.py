"""People as vCards: what is written holds against an independent checker, what others write is read."""

from pathlib import Path

import pytest
import vobject
from vcard.vcard_validator import VcardValidator

from tests.work.people.test_people import PHONES, add
from tests.world import World
from vokari.formats import vcards
from vokari.work.agency.access import NotAllowed
from vokari.work.people import cards, everybody, keeping
from vokari.work.people.cards import Taken

FOUR = (
    "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Mia Holt\r\nN:Holt;Mia;;;\r\nTEL;VALUE=uri;TYPE=\"voice,home\":tel:+1-410-555-0171\r\n"
    "TEL;VALUE=uri;TYPE=cell;PREF=1:tel:+1-410-555-0172;ext=4\r\nIMPP;PREF=5:sip:mia@phones.example.com\r\n"
    "IMPP:xmpp:mia@example.com\r\nEMAIL:mia@example.com\r\nNOTE:Knows engines\\, and\\nboats\r\nEND:VCARD\r\n"
)  # fmt: skip
"""A card of version 4.0, made after RFC 6350 from memory."""


def take(world: World, data: str | bytes, *, abroad: bool = False, role: str = "client_editor") -> Taken | list:
    raw = data.encode() if isinstance(data, str) else data
    return cards.take(world.house, world.actors[role], world.client.id, raw, abroad=abroad)


def phones_of(world: World, name: str) -> list[tuple[str, str]]:
    found = everybody.everybody(world.house, world.actor, world.client.id).people
    return [(one.name, one.to) for line in found if line.row.name == name for one in line.person.phones]


def test_what_is_written_passes_an_independent_checker_and_is_read_by_another_parser(
    world: World, tmp_path: Path
) -> None:
    add(world, "Ada", email="ada@example.com", extension="21", note="Speaks Dutch; and, well, German.\nMornings only.")
    form = {
        "name": "Ben van der Vlies",
        "phones": [{"to": PHONES["Ben"], "name": "mobile"}, {"to": "sip:ben@phones.example.com"}],
    }
    keeping.keep_person(world.house, world.actor, world.client.id, None, form)
    written = cards.export(world.house, world.actor, world.client.id)
    file = tmp_path / "people.vcf"
    older = [line for line in written.splitlines(keepends=True) if not line.startswith("IMPP")]
    file.write_bytes("".join(older).encode())  # the checker knows RFC 2426 alone; IMPP came with RFC 4770
    assert VcardValidator(str(file), verbose=False).result == ""
    ada, ben = vobject.readComponents(written)
    assert (ada.fn.value, ada.tel.value, ada.tel.params["TYPE"]) == ("Ada", PHONES["Ada"], ["WORK", "VOICE", "PREF"])
    assert ada.note.value == "Speaks Dutch; and, well, German.\nMornings only."
    assert (ben.n.value.given, ben.n.value.family) == ("Ben van der", "Vlies")
    assert ben.impp.value == "sip:ben@phones.example.com"


def test_what_was_written_adds_nothing_to_the_client_it_came_from_and_all_to_another(world: World) -> None:
    add(world, "Ada", extension="21", note="Mornings")
    written = cards.export(world.house, world.actor, world.client.id)
    assert take(world, written) == Taken()
    keeping.remove(world.house, world.actor, world.client.id, "person", 1)
    assert take(world, written) == Taken(added=["Ada"])
    (ada,) = everybody.everybody(world.house, world.actor, world.client.id).people
    assert (ada.person.extension, ada.person.note, ada.person.phones[0].name) == ("21", "Mornings", "desk")


def test_a_card_of_version_4_is_read_with_the_preferred_phone_first(world: World) -> None:
    assert take(world, FOUR) == Taken(added=["Mia Holt"])
    assert phones_of(world, "Mia Holt") == [
        ("mobile", "+14105550172;ext=4"), ("home", "+14105550171"), ("", "sip:mia@phones.example.com")
    ]  # fmt: skip
    (mia,) = everybody.everybody(world.house, world.actor, world.client.id).people
    assert (mia.person.email, mia.person.note) == ("mia@example.com", "Knows engines, and\nboats")


def card(name: str, *numbers: str) -> str:
    lines = "".join(f"TEL:{number}\r\n" for number in numbers)
    return f"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:{name}\r\nN:;{name};;;\r\n{lines}END:VCARD\r\n"


def test_somebody_known_gets_new_phones_and_keeps_the_rest(world: World) -> None:
    add(world, "Ada", note="Kept")
    assert take(world, card("ADA", PHONES["Ada"], "410 555 0177")) == Taken(changed=["Ada"])
    assert phones_of(world, "Ada") == [("desk", PHONES["Ada"]), ("", "+14105550177")]


def test_phones_that_cannot_be_rung_are_left_out_with_the_reason(world: World) -> None:
    taken = take(world, card("Eve", "911", "410 555 01", "+44 20 7946 0011", "410 555 0178"))
    assert isinstance(taken, Taken)
    assert taken.added == ["Eve"]
    assert [one.partition(": ")[0] for one in taken.left_out] == [
        "Eve, 911",
        "Eve, 410 555 01",
        "Eve, +44 20 7946 0011",
    ]
    assert "emergency" in taken.left_out[0]
    assert phones_of(world, "Eve") == [("", "+14105550178")]
    assert take(world, card("Eve", "+44 20 7946 0011"), abroad=True) == Taken(changed=["Eve"])


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        (b"hello\nworld", "The file is no vCard"), (b"\xff\xfe\x00", "The file is not text in UTF-8."),
        (b"", "There is no card in the file."), (b"BEGIN:VCARD\nFN:x\n", "The file is no vCard"),
        (b"x" * (vcards.LARGEST + 1), "larger than one megabyte"), (card("A").encode() * 501, "501 cards"),
    ],
)  # fmt: skip
def test_what_is_no_file_of_cards_is_said(world: World, data: bytes, sentence: str) -> None:
    (problem,) = take(world, data)
    assert sentence in problem.sentence


def test_only_those_who_edit_people_add_them(world: World) -> None:
    with pytest.raises(NotAllowed):
        take(world, FOUR, role="client_viewer")
