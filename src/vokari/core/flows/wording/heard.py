"""What a caller hears in the words of a menu: which key is for what, which leads back, and what may be done without one.

Words are read as people write them: what a choice is for stands before the key ("for lifts, press 1") or behind it ("press 1 for
lifts"), and once a key was named further ones may stand alone ("2 for hire"). Words that cannot be read give no choice, never a wrong one.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise
from typing import Literal

from .languages import BY_LANGUAGE, Speech, is_known, speech_of

Kind = Literal["branch", "back", "again", "stay", "extension"]
MOST_RANGE = 9


@dataclass(frozen=True, slots=True)
class Heard:
    """One choice: its key ("" for those without one), what it is for, whether the reader is sure, and the part of the words that says
    it."""

    keys: str
    name: str
    kind: Kind = "branch"
    sure: bool = True
    start: int = 0
    end: int = 0


@dataclass(frozen=True, slots=True)
class _Named:
    """Keys that are named in the words: where, and whether a verb stands before them, or before those that they follow in a list."""

    keys: tuple[str, ...]
    start: int
    end: int
    pressed: bool


LISTENED = tuple(name for name, speech in BY_LANGUAGE.items() if speech.is_heard)
"""The languages that are listened to."""


def heard(text: str, language: str) -> list[Heard] | None:
    """The choices in the order in which they are said; None where this language is not listened to."""
    if not is_known(language) or not speech_of(language).is_heard:
        return None
    return list(_choices(text, language.split("-")[0]))


@lru_cache(maxsize=4000)
def _choices(text: str, language: str) -> tuple[Heard, ...]:
    return tuple(_reader(language).choices(text))


@lru_cache(maxsize=8)
def _reader(language: str) -> "_Reader":
    return _Reader(speech_of(language))


class _Reader:
    def __init__(self, speech: Speech) -> None:
        self.speech = speech
        words = "|".join(sorted(speech.keys, key=len, reverse=True))
        key = rf"(?:(?:{words})(?:-(?:{words}))*|\d{{1,6}}|[*#])(?![\w-])(?!\s+(?:{speech.more})\b)"
        joins = rf"(?:\s*,\s*(?:(?:{speech.joins})\s+)?|\s+(?:{speech.joins})\s+)"
        several = rf"{key}(?:\s+(?:{speech.ranges})\s+{key}|(?:{joins}{key}(?!\s+(?:{speech.for_})\b))+)?"
        self.key = re.compile(key, re.I)
        self.between = re.compile(rf"[\s,]*(?:{speech.joins})?\s*", re.I)
        self.range = re.compile(rf"\s(?:{speech.ranges})\s", re.I)
        self.pressed = re.compile(
            rf"\b(?:(?:{speech.press})(?:\s+(?:{speech.before_key}))*\s+|option\s+)(?P<keys>{several})(?:\s+(?:{speech.after_key}))*",
            re.I,
        )
        self.alone = re.compile(
            rf"(?:(?<=[,;.])\s*(?:(?:{speech.joins})\s+)?|\s(?:{speech.joins})\s+)(?P<keys>{key})(?=\s+(?:{speech.for_})\b)"
            rf"|(?<=,)\s*(?P<last>{key})(?=\s*(?:[;.,]|$))", re.I
        )  # fmt: skip
        self.listed = re.compile(rf"\b(?:{speech.for_})\s[^,;.]+,\s*(?P<last>{key})(?=\s*(?:[;.,]|$))", re.I)
        self.for_ = re.compile(
            rf"(?:^|,\s*|\b(?:{speech.joins})\s+)(?:(?:{speech.lead})\s+)*(?P<for>(?:{speech.for_})\b)", re.I
        )
        self.behind = re.compile(rf"\s+(?:is\s+)?(?:{speech.for_})\b", re.I)
        self.lead = re.compile(rf"^(?:(?:{speech.lead})\b[\s,]*|[\s,]+)+", re.I)
        self.tail = re.compile(rf"(?:[\s,]+(?:{speech.lead}))+\s*$", re.I)
        self.openings = [re.compile(rf"(?:{one})\b\s*", re.I) for one in speech.openings]
        self.articles = re.compile(rf"(?:{speech.articles})\s+", re.I)
        self.again = re.compile(speech.again_said, re.I)
        self.back = re.compile(speech.back_said, re.I)
        self.stay = re.compile(speech.stay_said, re.I)
        self.extension = re.compile(speech.extension_said, re.I)

    def choices(self, text: str) -> Iterator[Heard]:
        found = [*self._keyed(text), *self._without_key(text)]
        yield from sorted(found, key=lambda one: (one.start, one.end))

    # keys

    def _named(self, text: str) -> list[_Named]:
        found = [_Named(self._keys(match["keys"]), *match.span(), True) for match in self.pressed.finditer(text)]
        if found:
            taken = [(one.start, one.end) for one in found]
            for match in self.alone.finditer(text):
                keys = match["keys"] or match["last"]
                start = match.start("keys") if match["keys"] else match.start("last")
                if start > found[0].start and not any(begin <= start < end for begin, end in taken):
                    found.append(_Named(self._keys(keys), start, start + len(keys), bool(match["keys"])))
        else:
            listed = [*self.listed.finditer(text)]
            found = (
                [_Named(self._keys(one["last"]), *one.span("last"), False) for one in listed] if len(listed) > 1 else []
            )
        joined: list[_Named] = []
        for one in sorted((one for one in found if one.keys), key=lambda one: one.start):
            if joined and self.between.fullmatch(text, joined[-1].end, one.start):
                joined[-1] = replace(joined[-1], keys=(*joined[-1].keys, *one.keys), end=one.end)
            else:
                joined.append(one)
        return joined

    def _keys(self, said: str) -> tuple[str, ...]:
        keys = [
            "".join(self.speech.keys.get(part, part) for part in one.lower().split("-"))
            for one in self.key.findall(said)
        ]
        if self.range.search(said) and len(keys) == 2:
            first, last = keys
            if not (first.isdigit() and last.isdigit() and 0 < int(last) - int(first) <= MOST_RANGE):
                return ()
            return tuple(str(n).zfill(len(first)) for n in range(int(first), int(last) + 1))
        return tuple(dict.fromkeys(keys))

    def _keyed(self, text: str) -> Iterator[Heard]:
        named = self._named(text)
        behind = 0
        for one, after in pairwise([*named, None]):
            assert one is not None
            before, start = self._before(text, behind, one.start)
            match = self.for_.search(before)
            if match is not None:
                name, start, behind = before[match.start("for") :], start + match.start("for"), one.end
            elif self.behind.match(text, one.end):
                behind = self._end_of_name(text, one.end, after.start if after else len(text))
                name, start = text[one.end : behind], one.start
            else:
                name, start, behind = before, start + len(before) - len(before.lstrip()), one.end
            for keys in one.keys:
                yield self._heard(keys, name, one, start, _past_stop(text, behind))

    def _before(self, text: str, behind: int, start: int) -> tuple[str, int]:
        """What stands before a key in its sentence, and where that begins; a question right before it belongs to it."""
        cut = behind
        stops = list(re.finditer(r"[.!?;:]\s+|\n", text[behind:start]))
        for match in stops:
            last = not self._clean(text[behind + match.end() : start])
            if last and match[0].lstrip().startswith(("?", ":")):
                break
            cut = behind + match.end()
        words = text[cut:start]
        for stays in self.stay.finditer(words):
            purpose = self.for_.search(words[: stays.start()])
            if purpose is not None and self._clean(words[stays.end() :]) == "":
                return words[purpose.start("for") : stays.start()], cut + purpose.start("for")
        lead = self.lead.match(words)
        if lead is not None:
            cut += lead.end()
            words = words[lead.end() :]
        return self.tail.sub("", words), cut

    def _end_of_name(self, text: str, start: int, end: int) -> int:
        part = text[start:end]
        stop = re.search(r"[.;!?]|\n", part)
        found = start + (stop.start() if stop else len(part))
        joined = self.tail.search(text[start:found])
        stays = self.stay.search(part)
        if joined is not None and found == end:
            found = start + joined.start()
        if stays is not None and start + stays.start() < found:
            cut = re.search(r"[,\s]+(?:\w+\s+){0,2}$", part[: stays.start()])
            found = start + (cut.start() if cut else stays.start())
        return start + len(text[start:found].rstrip(" ,"))

    # choices without a key

    def _without_key(self, text: str) -> Iterator[Heard]:
        for match in self.stay.finditer(text):
            before, start = self._before(text, 0, match.start())
            purpose = [one for one in self.for_.finditer(before) if not self.pressed.search(before[one.start() :])]
            name = before[purpose[-1].start("for") :] if purpose else ""
            begin = start + purpose[-1].start("for") if purpose else match.start()
            yield Heard("", self._name(name), "stay", start=begin, end=_past_stop(text, match.end()))
        for match in self.extension.finditer(text):
            sentence = re.split(r"[.!?;]\s", text[: match.start()])[-1]
            if match[0].lower().endswith(" it") and "extension" not in sentence.lower():
                continue
            yield Heard(
                "", "", "extension", start=match.start() - len(sentence.lstrip()), end=_past_stop(text, match.end())
            )

    def _heard(self, keys: str, said: str, one: _Named, start: int, end: int) -> Heard:
        kind: Kind = "again" if self.again.search(said) else "back" if self.back.search(said) else "branch"
        name = self._name(said) if kind == "branch" else ""
        return Heard(keys, name, kind, one.pressed and (kind != "branch" or bool(name)), start, end)

    def _name(self, said: str) -> str:
        name = self._clean(said)
        for opening in self.openings:
            if match := opening.match(name):
                name = name[match.end() :]
                break
        return self._clean(self.articles.sub("", name, count=1) if self.articles.match(name) else name)

    def _clean(self, said: str) -> str:
        said = self.lead.sub("", said.strip(" \t\n,.:;!?"))
        return self.tail.sub("", said).strip(" \t\n,.:;!?")


def _past_stop(text: str, end: int) -> int:
    """Past the sign that ends a choice, and the space behind it."""
    match = re.compile(r"\s*[.,;!?]?\s*").match(text, end)
    return match.end() if match else end
