"""Transcripts in words."""

from tests.flows import document, ring
from vokari.web.calls.transcripts import transcript


def test_of_a_person_with_two_phones_it_is_told_which_rings() -> None:
    phones = [("+14105550171", "Joel"), ("+14105550172", "Joel"), ("+14105550173", "Ada")]
    entry = {
        "at": 0.0, "step": "r", "event": {"kind": "arrived"},
        "answers": [{"ask": "line_up", "answer": [[[{"to": to, "name": name} for to, name in phones]]]}],
        "commands": [{"type": "ring", "id": n, "number": to, "seconds": 18} for n, (to, _) in enumerate(phones)],
    }  # fmt: skip
    declined = {
        "at": 4.0, "step": "r", "event": {"kind": "leg", "command": 1, "outcome": "declined"}, "answers": [], "commands": [],
    }  # fmt: skip
    said = [line["words"] for line in transcript(document(ring("r")), [entry, declined])]
    assert said == [
        "The call arrives", "Rings Joel at 410-555-0171, 18 s", "Rings Joel at 410-555-0172, 18 s", "Rings Ada, 18 s",
        "Joel at 410-555-0172 declines",
    ]  # fmt: skip
