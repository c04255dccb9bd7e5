"""Mark-up in spoken words: the part of SSML 1.1 (W3C Recommendation, 7 September 2010) that is understood here.

`<break time="500ms"/>` or `strength`, `<say-as interpret-as="digits | telephone | date | time">` and `<emphasis level="…">`; a
`<speak>` around it all may be there. Everything else is words.
"""

import re
from dataclasses import dataclass
from xml.etree import ElementTree

_TAG = re.compile(r"<\s*[/!?]?\s*[A-Za-z]|<!")
_BARE = re.compile(r"&(?!(?:amp|lt|gt|quot|apos|#[0-9]{1,7}|#x[0-9A-Fa-f]{1,6});)")
_TIME = re.compile(r"([0-9]{1,5}(?:\.[0-9]{1,3})?)(ms|s)")
STRENGTHS = {"none": 0, "x-weak": 100, "weak": 250, "medium": 500, "strong": 800, "x-strong": 1200}
"""Milliseconds of a break by its strength; the standard leaves them to whoever speaks."""
LEVELS = ("strong", "moderate", "none", "reduced")
SAID_AS = ("digits", "telephone", "date", "time")
LONGEST_BREAK = 10_000


@dataclass(frozen=True, slots=True)
class Words:
    """Words as they stand."""

    text: str


@dataclass(frozen=True, slots=True)
class Break:
    """Silence for so many milliseconds."""

    milliseconds: int


@dataclass(frozen=True, slots=True)
class SaidAs:
    """Something that is read in a way of its own: digit by digit, as a phone number, a date (2026-11-24) or a time (14:05)."""

    how: str
    text: str


@dataclass(frozen=True, slots=True)
class Emphasis:
    """Words with a stress."""

    level: str
    inside: tuple["Words | Break | SaidAs", ...]


Piece = Words | Break | SaidAs | Emphasis


def has_marks(words: str) -> bool:
    """Whether words are meant to have mark-up."""
    return bool(_TAG.search(words))


def read(words: str) -> tuple[Piece, ...] | str:
    """The pieces of spoken words in order; or a sentence that says what is no mark-up that is understood."""
    if not has_marks(words):
        return (Words(words),) if words else ()
    if "<!" in words or "<?" in words:
        return "Mark-up holds breaks, emphasis and say-as only, no declarations."
    inner = words.strip()
    whole = inner if inner.startswith("<speak") else f"<speak>{inner}</speak>"
    try:
        root = ElementTree.fromstring(_BARE.sub("&amp;", whole))
    except ElementTree.ParseError as error:
        column = error.position[1] - (0 if inner.startswith("<speak") else len("<speak>"))
        return f'The mark-up cannot be read at “{inner[max(0, column - 10) : column + 10].strip()}”: every tag is closed, as in <break time="500ms"/>.'
    if _local(root) != "speak":
        return f"<{_local(root)}> is not understood: there are break, emphasis and say-as."
    return _inside(root, ("break", "say-as", "emphasis"))


def plain(words: str) -> str:
    """Spoken words without mark-up, as they are compared and shown; words that cannot be read as they are."""
    pieces = read(words)
    if isinstance(pieces, str):
        return words
    return " ".join("".join(_text(one) for one in pieces).split())


def _text(piece: Piece) -> str:
    match piece:
        case Break():
            return " "
        case Emphasis():
            return "".join(_text(one) for one in piece.inside)
    return piece.text


def _inside(element: ElementTree.Element, known: tuple[str, ...]) -> tuple[Piece, ...] | str:
    found: list[Piece] = [Words(element.text)] if element.text else []
    for child in element:
        name = _local(child)
        if name not in known:
            inside = "" if name not in ("break", "say-as", "emphasis") else f" within <{_local(element)}>"
            return f"<{name}>{inside} is not understood: there are break, emphasis and say-as."
        piece = _read_break(child) if name == "break" else _say_as(child) if name == "say-as" else _emphasis(child)
        if isinstance(piece, str):
            return piece
        found.append(piece)
        if child.tail:
            found.append(Words(child.tail))
    return tuple(found)


def _read_break(element: ElementTree.Element) -> Break | str:
    if len(element) or (element.text or "").strip():
        return "A <break/> has nothing in it."
    extra = set(element.attrib) - {"time", "strength"}
    if extra:
        return f"A break has a time or a strength, no {sorted(extra)[0]}."
    if (time := element.get("time")) is not None:
        match = _TIME.fullmatch(time)
        milliseconds = float(match[1]) * (1000 if match[2] == "s" else 1) if match else LONGEST_BREAK + 1
        if milliseconds > LONGEST_BREAK:
            return f"A break lasts up to 10 seconds, written as 500ms or 1.5s; “{time}” does not."
        return Break(round(milliseconds))
    strength = element.get("strength", "medium")
    if strength not in STRENGTHS:
        return f"The strength of a break is one of {', '.join(STRENGTHS)}; “{strength}” is none."
    return Break(STRENGTHS[strength])


def _say_as(element: ElementTree.Element) -> SaidAs | str:
    how = element.get("interpret-as", "")
    if how not in SAID_AS:
        return f"say-as is interpreted as one of {', '.join(SAID_AS)}; “{how}” is none."
    if len(element) or set(element.attrib) - {"interpret-as", "format", "detail"}:
        return "A say-as has words in it and says what they are, nothing else."
    text = (element.text or "").strip()
    if not text:
        return "A say-as has something in it to say."
    return SaidAs(how, text)


def _emphasis(element: ElementTree.Element) -> Emphasis | str:
    level = element.get("level", "moderate")
    if level not in LEVELS or set(element.attrib) - {"level"}:
        return f"The level of an emphasis is one of {', '.join(LEVELS)}."
    inside = _inside(element, ("break", "say-as"))
    if isinstance(inside, str):
        return inside
    return Emphasis(level, tuple(one for one in inside if not isinstance(one, Emphasis)))


def _local(element: ElementTree.Element) -> str:
    return element.tag.rpartition("}")[2]
