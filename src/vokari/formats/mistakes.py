"""What is wrong with a JSON file that somebody wrote: each mistake with its place in the file, and in words."""

import json
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Mistake:
    """What is wrong with a file: the path of the field, the line if it is known (0 if not), and a sentence."""

    path: str
    line: int
    sentence: str

    def __str__(self) -> str:
        where = f"line {self.line}, " if self.line else ""
        return f"{where}{self.path}: {self.sentence}" if self.path else f"{where}{self.sentence}"


def read_object(text: str, what: str) -> dict[str, Any] | list[Mistake]:
    """The JSON object of a text, or why there is none; `what` names the kind of file. Never raises for what a text holds."""
    try:
        raw = json.loads(text)
    except json.JSONDecodeError as error:
        return [Mistake("", error.lineno, f"this is not JSON: {error.msg}, column {error.colno}")]
    except RecursionError:
        return [Mistake("", 0, "the file is nested too deeply")]
    except ValueError:
        return [Mistake("", 0, "a number in the file has too many digits")]
    return raw if isinstance(raw, dict) else [Mistake("", 1, f"{what} is a JSON object")]


def of_error(text: str, error: dict[str, Any]) -> Mistake:
    """One error of pydantic as a mistake of the file that holds `text`."""
    place = tuple(part for part in error["loc"] if not _is_tag(part, error["loc"]))
    sentence = error["msg"].removeprefix("Value error, ")
    match error["type"]:
        case "extra_forbidden":
            sentence = "there is no such field here"
        case "missing":
            sentence = "this field is missing"
        case "union_tag_invalid":
            sentence = f"“{error['ctx'].get('tag')}” is no kind that is known here"
        case "union_tag_not_found":
            sentence = "the field kind is missing"
    return Mistake(".".join(str(part) for part in place), line_of(text, place), sentence[0].lower() + sentence[1:])


def _is_tag(part: object, place: tuple[object, ...]) -> bool:
    """Pydantic puts the chosen kind after a list index; it is no part of the file's path."""
    index = place.index(part)
    return index > 0 and isinstance(place[index - 1], int) and isinstance(part, str) and part in _KINDS


_KINDS = {
    "announcement", "menu", "keypad_entry", "look_up", "junction", "ring", "hold_line", "voicemail", "label",
    "notify", "continue_in", "back_to", "hang_up", "come_back", "days", "season", "holidays", "number", "sip", "person", "team",
}  # fmt: skip


def line_of(text: str, place: tuple[object, ...]) -> int:
    """The line at which the value at a path starts, found by walking the text with the standard decoder."""
    decoder = json.JSONDecoder()
    position = 0

    def skip(at: int) -> int:
        while at < len(text) and text[at] in " \t\r\n,:":
            at += 1
        return at

    for part in place:
        position = skip(position)
        opener = text[position : position + 1]
        inner = skip(position + 1)
        if opener == "{" and isinstance(part, str):
            while text[inner : inner + 1] == '"':
                key, after = decoder.raw_decode(text, inner)
                value = skip(after)
                if key == part:
                    position = value
                    break
                inner = skip(decoder.raw_decode(text, value)[1])
            else:
                break
        elif opener == "[" and isinstance(part, int):
            for _ in range(part):
                inner = skip(decoder.raw_decode(text, inner)[1])
            position = inner
        elif part != "flow":
            break
    return text.count("\n", 0, skip(position)) + 1
