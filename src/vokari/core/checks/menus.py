"""Where the words of menus and their branches disagree: a key that is said and not there, there and not said, named for another
destination or said twice, a way back or a wait that does not exist; and announcements that tell of keys no menu listens for.

A finding stops where the reader is sure of the words, and asks elsewhere.
"""

from collections.abc import Iterator, Sequence
from itertools import combinations

from rapidfuzz.fuzz import token_set_ratio

from ..flows.model.document import FlowDocument
from ..flows.model.steps import Announcement, BackTo, Branch, HoldLine, Menu, Ring, Voicemail
from ..flows.model.values import END
from ..flows.wording.heard import LISTENED, Heard, heard
from ..flows.wording.written import words_of
from ..value import once
from .finding import Finding, Weight
from .spoken import only_farewell

ALIKE, UNLIKE = 88, 60
"""How like names must be to be taken for one, and how unlike to be taken for two, of 100 (RapidFuzz’s token set ratio)."""


def findings(document: FlowDocument) -> Iterator[Finding]:
    """What is wrong with the words of all menus and announcements."""
    for step in document.steps:
        if isinstance(step, Menu):
            yield from _Menu(document, step).findings()
        if isinstance(step, Announcement):
            yield from _announced(document, step)


def said_of(document: FlowDocument, step: Menu | Announcement) -> list[Heard]:
    """The choices in the words of a step, in its language; those with a key also in others, since a menu may offer languages each in its
    own words."""
    language = step.prompt.language or document.language
    found = heard(step.prompt.say, language) or []
    own = {one.keys for one in found}
    others = (
        one for other in LISTENED for one in heard(step.prompt.say, other) or [] if other != language.split("-")[0]
    )
    return [*found, *(one for one in others if one.keys and one.keys not in own)]


def offered(document: FlowDocument, menu: Menu) -> list[Heard]:
    """The choices with a key that a menu’s words offer and that it has no branch for, each key once."""
    own = {one.keys for one in menu.branches}
    found = {one.keys: one for one in reversed(said_of(document, menu)) if one.keys and one.keys not in own}
    return list(reversed(found.values()))


class _Menu:
    """One menu, what its words say, and what an announcement right before it says."""

    def __init__(self, document: FlowDocument, menu: Menu) -> None:
        self.document, self.menu = document, menu
        self.said = said_of(document, menu)
        self.keyed = [one for one in self.said if one.keys]
        self.branches = {one.keys: one for one in menu.branches}

    def findings(self) -> Iterator[Finding]:
        yield from self._forgotten()
        if self.menu.prompt.is_empty() or not self.menu.prompt.say.strip():
            return
        if self.keyed and not self.branches:
            yield self._offers_all()
            return
        yield from self._twice()
        yield from self._not_there()
        yield from self._not_said()
        yield from self._others()
        yield from self._ways()

    def _finding(self, kind: str, words: str, sure: bool, mends: Sequence[str], way: str = "") -> Finding:
        weight: Weight = "stops" if sure else "asks"
        return Finding(kind, f"{self.menu.begins} {words}", self.menu.id, way, weight, tuple(mends))

    def _forgotten(self) -> Iterator[Finding]:
        """Digits left out between others, and a single choice, where nobody's own words say that it is meant so. Common practice, no
        source: keys are given from 1 without a gap; 9 and 0 are kept for ways back and for somebody to talk to."""
        menu = self.menu
        spoken = [one for one in menu.branches if not one.elsewhere]
        if not spoken or (menu.prompt.say.strip() and menu.prompt.say != words_of(menu, self.document)):
            return
        digits = [int(one.keys) for one in spoken if one.keys in tuple("12345678")]
        left = [str(n) for n in range(1, max(digits, default=0)) if n not in digits]
        if left:
            words = f"has no key {' and '.join(left)}, and one behind {'it' if len(left) == 1 else 'them'}: was one forgotten?"
            yield self._finding("key_gap", words, False, [])
        elif len(spoken) == 1:
            words = (
                f"gives callers only one choice, {spoken[0].keys} {spoken[0].name}".rstrip() + ": was one forgotten?"
            )
            yield self._finding("one_choice", words, False, [])

    def _offers_all(self) -> Finding:
        keys = ", ".join(f"{one.keys} {one.name}".strip() for one in self.keyed)
        return self._finding("offers", f"offers {keys} and has no branch yet.", False, ["branches"])

    def _twice(self) -> Iterator[Finding]:
        seen: dict[str, Heard] = {}
        for one in self.keyed:
            first = seen.setdefault(one.keys, one)
            if first is not one and first.name.casefold() != one.name.casefold():
                words = f"says {one.keys} twice: for {_what(first)}, and for {_what(one)}."
                yield self._finding("said_twice", words, first.sure and one.sure, ["say_keys"])
        for first, one in combinations(self.keyed, 2):
            apart = first.start != one.start and first.keys != one.keys and self._leads(first) != self._leads(one)
            if (
                apart
                and first.kind == one.kind == "branch"
                and first.name
                and first.name.casefold() == one.name.casefold()
            ):
                words = (
                    f"says {_what(first)} twice, for {first.keys} and for {one.keys}, which lead to different places."
                )
                yield self._finding("said_twice", words, first.sure and one.sure, ["say_keys"])

    def _leads(self, one: Heard) -> str | None:
        branch = self.branches.get(one.keys)
        return branch.to if branch else None

    def _not_there(self) -> Iterator[Finding]:
        """A key that is said and not listened for. Where the branch of that name has another key, one of the two is a slip."""
        unsaid = [one for one in self.branches.values() if one.keys not in {said.keys for said in self.keyed}]
        for one in offered(self.document, self.menu):
            other = next((way for way in unsaid if one.name and _alike(one.name, self._names(way))), None)
            if other is not None:
                words = f"says {one.keys} for {_what(one)}, and listens for {other.keys}."
                yield self._finding(
                    "other_key",
                    words,
                    one.sure,
                    [f"listen_as:{other.keys}:{one.keys}", f"say_as:{one.keys}:{other.keys}"],
                    other.id,
                )
            else:
                words = f"says {one.keys} for {_what(one)}, and there is no such key."
                yield self._finding("said_key", words, one.sure, [f"listen:{one.keys}", f"unsay:{one.keys}"])

    def _not_said(self) -> Iterator[Finding]:
        before = {one.keys for step in _right_before(self.document, self.menu) for one in said_of(self.document, step)}
        said = {one.keys for one in self.keyed} | before
        if heard("", self.menu.prompt.language or self.document.language) is None:
            return
        dialed = any(one.kind == "extension" for one in self.said)
        sure = bool(self.keyed) and all(one.sure for one in self.keyed)
        other = [one.name for one in offered(self.document, self.menu) if one.name]
        for way in self.menu.branches:
            if way.keys in said or way.elsewhere or (dialed and len(way.keys) > 1):
                continue
            if any(_alike(name, self._names(way)) for name in other):
                continue
            words = f"does not say {way.keys}{f' {way.name}' if way.name else ''}: callers cannot know of it."
            mends = (
                [f"say:{way.keys}", f"elsewhere:{way.keys}"]
                if way.name or way.hear_again
                else [f"elsewhere:{way.keys}"]
            )
            yield self._finding("unsaid_key", words, sure, mends, way.id)

    def _others(self) -> Iterator[Finding]:
        """Words beside a key that name where another key leads."""
        for one in self.keyed:
            own = self.branches.get(one.keys)
            if own is None or one.kind != "branch" or not one.name or own.hear_again:
                continue
            names = self._names(own)
            if not names or _alike(one.name, names):
                continue
            near = max(token_set_ratio(one.name.lower(), name.lower()) for name in names) > UNLIKE
            other = next(
                (
                    way
                    for way in self.menu.branches
                    if way is not own
                    and way.to != own.to
                    and (_is_one(one.name, self._names(way)) if near else _alike(one.name, self._names(way)))
                ),
                None,
            )
            if other is not None:
                words = f"says {one.keys} for {_what(one)}, which is {other.keys}; {one.keys} is {names[0]}."
                yield self._finding(
                    "other_words", words, one.sure, [f"swap:{one.keys}:{other.keys}", "say_keys"], own.id
                )

    def _ways(self) -> Iterator[Finding]:
        for one in self.said:
            way = self.branches.get(one.keys)
            if one.kind == "back" and way is not None and not self._is_way_back(way):
                words = f"says that {one.keys} goes back, and it leads to {self._where(way.to)}."
                yield self._finding("said_back", words, one.sure, [f"unsay:{one.keys}"], way.id)
            if one.kind == "again" and way is not None and not way.hear_again and not self._is_way_back(way):
                words = f"says that {one.keys} is to hear it again, and it leads to {self._where(way.to)}."
                yield self._finding("said_again", words, one.sure, [f"again:{one.keys}", f"unsay:{one.keys}"], way.id)
            if one.kind == "stay" and (
                self.menu.nothing in (None, END) or only_farewell(self.document, self.menu.nothing)
            ):
                words = f"asks callers to stay on the line, and who does is not put through: silence leads to {self._where(self.menu.nothing)}."
                yield self._finding("said_stay", words, one.sure, ["unsay_stay"], "nothing")
            listens = self.menu.dial_extensions or any(len(branch.keys) > 1 for branch in self.menu.branches)
            if one.kind == "extension" and not listens:
                words = "asks callers to dial an extension, and listens for none."
                yield self._finding("said_extension", words, one.sure, ["unsay_extension"])

    def _is_way_back(self, way: Branch) -> bool:
        target = self.document.step(way.to or "")
        return way.hear_again or target is None or not isinstance(target, Ring | HoldLine | Voicemail)

    def _where(self, target: str | None) -> str:
        if target is None:
            return "nowhere yet"
        step = self.document.step(target)
        return step.quoted if step is not None else "the end of the call"

    def _names(self, way: Branch) -> list[str]:
        """What a branch may be called: its own name, the step it leads to, and who is rung there."""
        step = self.document.step(way.to or "")
        names = [way.name, step.name if step is not None and not isinstance(step, BackTo) else ""]
        names += [one.name for one in step.to] if isinstance(step, Ring) else []
        return [name for name in names if name]


def _what(one: Heard) -> str:
    return {"back": "going back", "again": "hearing it again"}.get(one.kind) or (
        f"“{one.name}”" if one.name else "something"
    )


def _is_one(words: str, names: Sequence[str]) -> bool:
    """Whether words are one of some names."""
    return words.lower() in {name.lower() for name in names}


def _alike(name: str, names: Sequence[str]) -> bool:
    return any(token_set_ratio(name.lower(), other.lower()) >= ALIKE for other in names)


def _right_before(document: FlowDocument, menu: Menu) -> Iterator[Announcement]:
    """The announcements that lead straight to a menu, as their onward exits go."""
    leading = _leading(document)
    todo, seen = [menu.id], set[str]()
    while todo:
        for step in leading.get(todo.pop(), ()):
            if step.id not in seen:
                seen.add(step.id)
                todo.append(step.id)
                yield step


@once
def _leading(document: FlowDocument) -> dict[str, list[Announcement]]:
    """By the id of a step the announcements that lead to it."""
    found: dict[str, list[Announcement]] = {}
    for one in document.steps:
        if isinstance(one, Announcement) and one.next:
            found.setdefault(one.next, []).append(one)
    return found


def _announced(document: FlowDocument, step: Announcement) -> Iterator[Finding]:
    """Keys that an announcement tells of, where no menu that follows at once listens for them."""
    told = [one for one in said_of(document, step) if one.keys]
    if not told:
        return
    behind = document.step(step.next or "")
    seen = {step.id}
    while behind is not None and behind.linear and behind.id not in seen:
        seen.add(behind.id)
        behind = document.step(getattr(behind, behind.onward, None) or "")
    if isinstance(behind, BackTo):
        behind = document.step(behind.to or "")
    listened = {one.keys for one in behind.branches} if isinstance(behind, Menu) else set()
    if behind is not None and behind.kind == "keypad_entry":
        return
    for one in told:
        if one.keys not in listened:
            words = (
                f"{step.begins} tells callers to press {one.keys} for {_what(one)}, and nothing listens for it there."
            )
            yield Finding(
                "announced_key", words, step.id, weight="stops" if one.sure else "asks", mends=(f"unsay:{one.keys}",)
            )
