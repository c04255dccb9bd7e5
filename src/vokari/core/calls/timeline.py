"""What a caller heard, on one time line: prompts, tones, music, talks and messages, each from a second to another."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

PieceKind = Literal["prompt", "music", "ringing", "beep", "key", "talk", "message"]
CALLED: dict[PieceKind, str] = {
    "prompt": "words", "music": "music", "ringing": "ringing", "beep": "tone", "key": "a key", "talk": "talk", "message": "the caller speaks",
}  # fmt: skip
"""What each kind is called."""
KEY_SECONDS, BEEP_SECONDS = 0.12, 0.5
_STOPS = ("play", "hold", "record", "connect", "hang_up")
"""Commands with which whatever was heard before ends."""


@dataclass(frozen=True, slots=True)
class Piece:
    """Something that was heard: its kind, from which second to which, in words, the paths of its sounds in order, and which recording of
    the call it is (talks and messages are counted from 0)."""

    kind: PieceKind
    begins: float
    ends: float
    words: str = ""
    sounds: tuple[str, ...] = ()
    which: int = 0

    @property
    def seconds(self) -> float:
        return self.ends - self.begins


def pieces(entries: Sequence[Mapping[str, Any]], seconds: float | None = None) -> list[Piece]:
    """The pieces of a call, from its log, in the order in which they began. `seconds` is how long it lasted; without it the call is in
    progress, and lasts as long as its log tells."""
    if not entries:
        return []
    began = datetime.fromisoformat(entries[0]["at"])
    moments = [(datetime.fromisoformat(one["at"]) - began).total_seconds() for one in entries]
    last = max(moments[-1], seconds or 0.0)
    found: list[Piece] = []
    talks = messages = 0
    for at, entry in enumerate(entries):
        event = entry["event"]
        if event["kind"] == "digit":
            found.append(Piece("key", moments[at], moments[at] + KEY_SECONDS, event["key"]))
        for command in entry["commands"]:
            ends = _end(entries, moments, at, command, last)
            begins = moments[at]
            match command["type"]:
                case "play":
                    paths = tuple(one["audio"] for one in command.get("parts") or () if one["audio"]) or tuple(
                        filter(None, [command["audio"]])
                    )
                    stops = min(ends, begins + command["seconds"]) if ends == last and seconds is None else ends
                    found.append(Piece("prompt", begins, stops, command["words"], paths))
                case "hold":
                    found.append(
                        Piece("music", begins, ends, command["words"], tuple(filter(None, [command["audio"]])))
                    )
                case "ring" if not any(one.kind in ("ringing", "music") and one.ends > begins for one in found):
                    found.append(Piece("ringing", begins, ends, command["number"]))
                case "record":
                    tone = BEEP_SECONDS if command["beep"] else 0.0
                    if tone:
                        found.append(Piece("beep", begins, begins + tone))
                    found.append(Piece("message", begins + tone, max(ends, begins + tone), which=messages))
                    messages += 1
                case "connect":
                    found.append(Piece("talk", begins, ends, which=talks))
                    talks += 1
    return [one for one in found if one.ends > one.begins]


def _end(
    entries: Sequence[Mapping[str, Any]], moments: Sequence[float], at: int, command: Mapping[str, Any], last: float
) -> float:
    """When what a command began is heard no more."""
    for later in range(at + 1, len(entries)):
        event, commands = entries[later]["event"], entries[later]["commands"]
        if event["kind"] in ("finished", "recorded") and event["command"] == command["id"]:
            return moments[later]
        if event["kind"] == "digit" and command["type"] == "play" and command["cut"]:
            return moments[later]
        if command["type"] == "connect" and event["kind"] == "leg" and event["command"] == command["id"]:
            return moments[later]
        if event["kind"] == "gone" or any(one["type"] in _STOPS for one in commands):
            return moments[later]
    return last
