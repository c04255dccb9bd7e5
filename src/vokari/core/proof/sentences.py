"""What changes for callers, in sentences: when, for whom, by which keys, what is done now and what was before. Changes that are alike but for one of these
are told in one."""

from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass
from functools import reduce
from operator import or_
from typing import NamedTuple

from ..calls.fates import FATE_NAMES, FATES, Fate
from ..flows.questions.facts import Touch
from ..numbers.numbering import shown
from . import when
from .changes import NOBODY, Change, Changes, Met
from .times import bits

MOST_KEYS = 4
"""Keys and numbers that are named before the rest is counted."""
SHORT = 2
"""Times that are named where several stand in one sentence."""

Fact = Callable[[Hashable, Hashable], str]
"""Words for something that is known of a caller, by the question and its answer; empty for what is not told."""


@dataclass(frozen=True, slots=True)
class Sentence:
    """A sentence, the step at which it is (of the newer version), and whether calls go another way by what it tells."""

    text: str
    step: str
    parts: bool


class _Head(NamedTuple):
    """For whom something changes, by which keys, and after what."""

    who: tuple[str, ...]
    keys: str
    after: str


def nothing_told(_question: Hashable, _answer: Hashable) -> str:
    """Says nothing of callers."""
    return ""


def sentences(found: Changes, fact: Fact = nothing_told) -> list[Sentence]:
    """All changes in sentences, the largest first."""
    heads = {id(one): _head(found, one, fact) for one in found.all}
    done: set[int] = set()
    told: list[Sentence] = []
    for one in found.all:
        if id(one) in done:
            continue
        others = [
            other
            for other in found.all
            if id(other) not in done and heads[id(other)] == heads[id(one)] and other.unlike.parts
        ]
        same_before = [other for other in others if other.unlike.before.words == one.unlike.before.words]
        same_after = [other for other in others if other.unlike.after.words == one.unlike.after.words]
        alike = max((same_before, same_after), key=len) if one.unlike.parts else [one]
        done |= {id(other) for other in alike}
        told.append(Sentence(_text(found, heads[id(one)], alike), one.unlike.after.step, one.unlike.parts))
    if found.limits:
        was, now = found.limits
        told.append(
            Sentence(f"A call that goes round may enter one step {now} times now; before, {was} times.", "", False)
        )
    return told


def _head(found: Changes, change: Change, fact: Fact) -> _Head:
    facts = frozenset.intersection(*(one.told for one in change.met))
    cases = [words for asked, answer in sorted(facts, key=str) if (words := fact(asked, answer))]
    who = [f"for callers {' and '.join(cases)}"] if cases else []
    number = reduce(or_, (one.number for one in change.met), 0)
    cells = found.abreast.before.numbers
    if cells.each and number and number != cells.all:
        called = [shown(one.number) for place in bits(number) if isinstance(one := cells.each[place], Touch)]
        who.append(f"on {_some(called)}")
    return _Head(tuple(who), *_by_keys(change.met))


def _text(found: Changes, head: _Head, alike: Sequence[Change]) -> str:
    time = reduce(or_, (one.time for one in alike))
    now = _each(found, [(one.unlike.after.words, one) for one in alike])
    was = _each(found, [(one.unlike.before.words, one) for one in alike])
    often = _when(found, time)
    subject = head.keys or "the flow"
    if head.after:
        subject = f"{subject.removesuffix(': the call')}, when {head.after},"
    text = ", ".join([*([often] if often else []), *head.who, subject])
    text = f"{text} now {now}{f'; before, it {was}' if was else ''}"
    stop = "" if text.endswith((".”", "?”", "!”")) else "."
    return f"{text[0].upper()}{text[1:]}{stop}{_ends(alike)}"


def _each(found: Changes, does: Sequence[tuple[str, Change]]) -> str:
    """What is done, once for each, with its time where that is not the same for all."""
    by_words: dict[str, int] = {}
    for words, change in does:
        by_words[words] = by_words.get(words, 0) | change.time
    often = {words: _when(found, time, SHORT) or "at any time" for words, time in by_words.items()}
    if len(set(often.values())) == 1:
        return _or(list(often))
    return _or([f"{words} ({time})" for words, time in often.items()])


def _when(found: Changes, time: int, most: int = when.MOST) -> str:
    """The time in words; empty for any."""
    times = found.abreast.before.times
    often = when.in_words(times.during(time), times.zone, times.since, times.until, most)
    return "" if often == when.ALWAYS else often


def _ends(alike: Sequence[Change]) -> str:
    """What calls can come to after they have gone apart, where that is not the same."""
    now, before = _fates(one.fates_after for one in alike), _fates(one.fates_before for one in alike)
    if now == before or not now or not before:
        return ""
    return f" Such a call comes to {_or(now)}; before, to {_or(before)}."


def _fates(each: Iterable[tuple[Fate, ...]]) -> list[str]:
    found = {fate for fates in each for fate in fates}
    return [FATE_NAMES[one] for one in FATES if one in found]


def _or(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} or {words[-1]}"


def _some(words: Sequence[str]) -> str:
    return (
        _or(words) if len(words) <= MOST_KEYS else f"{', '.join(words[:MOST_KEYS])} or {len(words) - MOST_KEYS} others"
    )


def _by_keys(met: Sequence[Met]) -> tuple[str, str]:
    """By which keys, and after what, of the easiest ways: “key 1 or 2” and “nobody answers”."""
    least = min(len(one.keys) for one in met)
    easiest = sorted((one for one in met if len(one.keys) == least), key=lambda one: one.effort)
    afters = dict.fromkeys(one.after for one in easiest)
    after = "" if "" in afters else NOBODY if NOBODY in afters else _or([*afters][:3])
    if not least:
        return "", after
    some = _some(sorted({" ".join(one.keys) for one in easiest}))
    return (f"key {some}" if least == 1 else f"keys {some}: the call"), after
