"""Extensions by series: the first digits say what is advertised, the rest in which advert, so that one number and one
recording serve several adverts and each call still tells which. Common practice, no source."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

LONGEST = 6
"""Digits that a menu can listen for; see the keys of `core.flows.values`."""


@dataclass(frozen=True, slots=True)
class Pattern:
    """How many digits stand for what is advertised and how many for the advert, and what each code means."""

    topic_digits: int = 1
    advert_digits: int = 2
    topics: Mapping[str, str] = field(default_factory=dict)
    adverts: Mapping[str, str] = field(default_factory=dict)

    @property
    def length(self) -> int:
        return self.topic_digits + self.advert_digits


@dataclass(frozen=True, slots=True)
class Meaning:
    """What an extension says: the codes and their names."""

    topic: str
    advert: str
    topic_name: str
    advert_name: str


def load(raw: Mapping[str, Any]) -> Pattern:
    """The pattern as a client keeps it; the usual one where none was kept."""
    return Pattern(
        int(raw.get("topic_digits", 1)), int(raw.get("advert_digits", 2)), dict(raw.get("topics", {})),
        dict(raw.get("adverts", {})),
    )  # fmt: skip


def dump(pattern: Pattern) -> dict[str, Any]:
    """The pattern JSON-ready."""
    return {
        "topic_digits": pattern.topic_digits, "advert_digits": pattern.advert_digits, "topics": dict(pattern.topics),
        "adverts": dict(pattern.adverts),
    }  # fmt: skip


def problem_of(topic_digits: int, advert_digits: int) -> str:
    """Why a pattern cannot have these lengths, as a sentence; empty when it can."""
    if topic_digits < 1 or advert_digits < 1:
        return "Each part has at least one digit."
    return f"An extension has at most {LONGEST} digits." if topic_digits + advert_digits > LONGEST else ""


def read(pattern: Pattern, extension: str) -> Meaning | None:
    """What an extension means; None for one of another length or of unknown codes."""
    topic, advert = extension[: pattern.topic_digits], extension[pattern.topic_digits :]
    if len(extension) != pattern.length or topic not in pattern.topics or advert not in pattern.adverts:
        return None
    return Meaning(topic, advert, pattern.topics[topic], pattern.adverts[advert])


def propose(pattern: Pattern, topic: str, advert: str, taken: Collection[str] = ()) -> tuple[Pattern, str] | str:
    """The extension for something advertised in an advert, with the pattern that knows both names from then on.

    A name that is known keeps its code; a new one gets the next free code, counting from 1, that no extension in
    `taken` uses. A sentence says why there is none.
    """
    topics = _coded(pattern.topics, topic, pattern.topic_digits, {one[: pattern.topic_digits] for one in taken})
    adverts = _coded(pattern.adverts, advert, pattern.advert_digits, {one[pattern.topic_digits :] for one in taken})
    if topics is None or adverts is None:
        what = "things to advertise" if topics is None else "adverts"
        return f"All codes for {what} are in use: give them one digit more."
    extension = topics[1] + adverts[1]
    if extension in taken:
        return f"{topic} in {advert} has the extension {extension} already."
    return replace(pattern, topics=topics[0], adverts=adverts[0]), extension


def _coded(
    known: Mapping[str, str], name: str, digits: int, used: Collection[str]
) -> tuple[dict[str, str], str] | None:
    """The codes with one for this name, and that code; None where all are in use."""
    for code, words in known.items():
        if words.lower() == name.lower():
            return dict(known), code
    for number in range(1, 10**digits):
        code = f"{number:0{digits}d}"
        if code not in known and code not in used:
            return {**known, code: name}, code
    return None
