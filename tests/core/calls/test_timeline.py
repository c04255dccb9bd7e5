"""What a caller heard, from a call's log: each piece ends where the next begins, or where a key stops it."""

from typing import Any

from vokari.core.calls.timeline import pieces


def entry(at: float, kind: str, *commands: dict[str, Any], **event: Any) -> dict[str, Any]:
    return {"at": f"2026-11-24T14:05:{at:06.3f}+00:00", "event": {"kind": kind, **event}, "commands": list(commands)}


def play(id_: int, seconds: float, *, cut: bool = True, parts: tuple[str, ...] = ()) -> dict[str, Any]:
    some = [{"words": "", "audio": one, "seconds": 1} for one in parts]
    return {
        "type": "play",
        "id": id_,
        "words": f"words {id_}",
        "audio": "" if parts else f"/speech/{id_}.wav",
        "seconds": seconds,
        "cut": cut,
        "parts": some,
    }


LOG = [
    entry(0, "arrived", play(1, 4)),
    entry(4, "finished", play(2, 6), command=1),
    entry(6, "digit", {"type": "ring", "id": 3, "number": "+14105550160"}, key="2"),
    entry(16, "leg", {"type": "connect", "id": 3}, command=3),
    entry(30, "leg", play(4, 3, cut=False, parts=("/speech/a.wav", "/speech/b.wav")), command=3),
    entry(31, "digit", key="9"),
    entry(33, "finished", {"type": "record", "id": 5, "beep": True}, command=4),
    entry(41, "gone"),
]


def test_every_piece_of_a_call_from_its_log() -> None:
    found = [(one.kind, one.begins, round(one.ends, 2), one.sounds or one.words) for one in pieces(LOG, 41)]
    assert found == [
        ("prompt", 0, 4, ("/speech/1.wav",)), ("prompt", 4, 6, ("/speech/2.wav",)), ("key", 6, 6.12, "2"),
        ("ringing", 6, 16, "+14105550160"), ("talk", 16, 30, ""), ("prompt", 30, 33, ("/speech/a.wav", "/speech/b.wav")),
        ("key", 31, 31.12, "9"), ("beep", 33, 33.5, ""), ("message", 33.5, 41, ""),
    ]  # fmt: skip


def test_a_call_in_progress_is_heard_as_far_as_it_has_come() -> None:
    assert [(one.kind, one.ends) for one in pieces(LOG[:3])][-1] == ("key", 6.12)
    assert pieces([]) == []
