"""A text read line by line into a tree of steps: what stands deeper belongs to an exit of what stands above it.

A line is a statement, or the name of an exit and what happens there. Without the name of an exit it goes on from the step before
it at its depth, or from the step above it. What is not understood is kept as an unread line with what is missing, and stops nothing.
"""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Any

from ...hours.typed import read_week
from ..conditions.base import HoursNames
from ..model.steps import KINDS
from ..model.steps.come_back import way_named
from .heads import ELSE, EXIT_WORDS, HOURS_WORD, KEY, KEYS, is_head, opening_times
from .known import Known
from .lines import Line, lines
from .nodes import AGAIN, NEW_HOURS, NEW_PERIOD, OPEN, Goto, Led, Node, Read, Stranger, Unread, Way, Wrong
from .quoting import unquoted
from .sorting import Sorting
from .statements import Statements, is_statement, parts_of

_EVERYONE = re.compile(r"^(?:everyone|everybody|anyone) else\s*:?\s*(.*)$", re.I)

Put = Callable[[Led], None]


@dataclass
class _Place:
    """Where a depth stands: the last step there, or an exit that still waits for one (`put`, with the name it has), whether heads at
    this depth belong to a junction that they made themselves, the first step of the line with what it hangs on, and the junction
    that conditions below the line put before it."""

    depth: int
    node: Node | None = None
    put: Put | None = None
    name: str = ""
    sorts: Node | None = None
    at: int = 0
    hung: tuple[Led, Put] | None = None
    excepts: Node | None = None


def read(text: str, known: Known) -> Read:
    """What a text says. Never raises for what stands in it."""
    return _Reader(known).whole(lines(text))


class _Reader:
    def __init__(self, known: Known) -> None:
        self.known = known
        self.found = Read()
        self.says = Statements(known, self.found)
        self.sorts = Sorting(known, self.found)
        self.places: list[_Place] = []

    def whole(self, text: list[Line]) -> Read:
        self.found.lines = {line.at: line for line in text}
        if not self.known.hours:
            self.found.hours = next((new for line in text if (new := opening_times(line.words, line.at))), None)
            if self.found.hours is not None:
                names = {NEW_HOURS: HoursNames("Opening times", {NEW_PERIOD: "Open"})}
                self.known = self.says.known = self.sorts.known = replace(self.known, hours=names)
        for line in text:
            self.says.tells(line.words)
        for line in text:
            try:
                self.line(line)
            except Wrong as wrong:
                self.found.unread.append(Unread(line.at, line.depth, line.words, str(wrong), wrong.stranger))
                self.found.strangers += self.strangers(line.words)
        return self.found

    def strangers(self, words: str) -> Iterator[Stranger]:
        """All names in a line that was not understood which nothing here has; the steps that it may lead to are among them."""
        key = KEY.match(words)
        name, said = self._branch_name(key[2]) if key else ("", words)
        if not key and is_head(words) and ":" in words:
            said = words.partition(":")[2].strip()
        for _, text in parts_of(said) if said else ():
            try:
                led = Statements(self.known, Read()).statement(text, 0)
            except Wrong as wrong:
                if wrong.stranger is not None:
                    yield wrong.stranger
                continue
            if isinstance(led, Goto) and led.name and not led.which and led.name != name:
                yield Stranger("person", led.name[:60])

    def line(self, line: Line) -> None:
        while self.places and self.places[-1].depth > line.depth:
            self.places.pop()
        before = self.places.pop() if self.places and self.places[-1].depth == line.depth else None
        owner = self.places[-1] if self.places else None
        try:
            place = self.placed(line, before, owner)
        except Wrong:
            for one in (owner, before):
                for node in (one.node, one.sorts, one.excepts) if one else ():
                    if node is not None:
                        node.branches = [way for way in node.branches if way.at != line.at]
            if owner is not None and owner.excepts is not None and not owner.excepts.branches:
                self._unexcept(owner)
            if before is not None:
                self.places.append(before)
            raise
        self.places.append(place)

    def placed(self, line: Line, before: _Place | None, owner: _Place | None) -> _Place:
        """Puts a line where it belongs, and gives what stands at its depth from then on."""
        words, at = line.words, line.at
        if line.depth == 0 and (match := HOURS_WORD.match(words)) and not isinstance(read_week(match[1]), str):
            self.sorts.same_hours(match[1])
            return before or _Place(line.depth, put=self._start)
        if match := _EVERYONE.match(words):
            if self.found.everyone_else != OPEN:
                raise Wrong("Where everyone else goes stands above already.")
            return self.chain(match[1], line, self._everyone)
        if owner is not None and (head := self.head(words, owner, at)):
            put, rest, name, leaf = head
            return self.chain(rest, line, put, name, leaf=leaf)
        if before is not None and before.sorts is not None and (way := self.condition(words, before.sorts, at)):
            place = self.chain(way[1], line, way[0], way[2])
            place.sorts = before.sorts
            return place
        if line.depth == 0 and before is not None and self._section(words) and self.sorts.read(words) is None:
            return self.section(line)
        follows = self.onward(line, before, owner)
        if follows is None:
            return self.section(line)
        if sorts := self.sorting(words, at):
            node, (inner, rest, name) = sorts
            self._keep(node, follows)
            place = self.chain(rest, line, inner, name)
            place.sorts = node
            return place
        key = KEY.match(words)
        if key and key[2] and key[1] not in ("*", "#") and is_statement(key[2], self.known):
            words = key[2]
        return self.chain(words, line, follows)

    # where a line belongs

    def head(self, words: str, owner: _Place, at: int) -> tuple[Put, str, str, bool] | None:
        """The exit of the step above that a line names: what fills it, what stands behind, its name, and whether quoted words there
        are an answer. A key below an exit that waits makes the menu."""
        node = owner.node
        if node is None and owner.put is not None and KEY.match(words):
            node = Node(owner.at, "menu", {"prompt": {"say": ""}, "tries": 2, "wait": None}, owner.name or None)
            self._keep(node, owner.put)
            owner.node, owner.put = node, None
        if node is None:
            return None
        if node.kind == "menu" and (match := KEY.match(words)):
            return self.branch(node, KEYS.get(match[1].casefold(), match[1]), match[2], at)
        if node.kind == "junction" and (
            way := self.condition(words, node, at) or self.condition(f"{words}:", node, at)
        ):
            return (*way, False)
        if node.kind == "continue_in" and (way_back := self.way_back(words, node, at)):
            return way_back
        if way := self.exception(words, owner, at):
            return (*way, False)
        for name, field in EXIT_WORDS.get(node.kind, {}).items():
            if match := re.match(rf"{name}\b\s*:?\s*(.*)$", words, re.I):
                return self._exit(node, (field,)), match[1], "", False
        if match := re.match(r"(?:else|otherwise)\b\s*:?\s*(.*)$", words, re.I):
            return self._exit(node, ELSE.get(node.kind, ())), match[1], "", False
        return None

    def way_back(self, words: str, node: Node, at: int) -> tuple[Put, str, str, bool] | None:
        """A way by which an inner flow comes back, before a colon, and what happens then."""
        quoted = unquoted(words) if words[:1] == '"' else None
        match = (
            re.match(r":(?:\s+(.*))?$", quoted[1], re.S)
            if quoted
            else re.match(r'([^:"“„«]{1,60}):(?:\s+(.*))?$', words, re.S)
        )
        if match is None:
            return None
        name, rest = (quoted[0], match[1]) if quoted else (match[1].strip(), match[2])
        if not name.strip():
            return None
        if any(way_named(one.fill["name"]) == way_named(name) for one in node.branches):
            raise Wrong(f"The way back “{name}” stands above already.")
        way = Way(at, {"name": " ".join(name.split())[:60]})
        node.branches.append(way)

        def put(led: Led) -> None:
            way.led = led

        return put, rest or "", "", False

    def exception(self, words: str, owner: _Place, at: int) -> tuple[Put, str, str] | None:
        """A condition below a step: callers for whom it holds go elsewhere, all others to that step as before."""
        if owner.excepts is not None:
            return self.condition(words, owner.excepts, at)
        if owner.hung is None or owner.node is None or owner.node.kind in ("menu", "junction"):
            return None
        sorts = self.sorting(words, at)
        if sorts is None:
            return None
        led, put = owner.hung
        owner.excepts, way = sorts
        put(owner.excepts)
        self.found.nodes.append(owner.excepts)
        owner.excepts.ways["otherwise"] = led
        return way

    def _unexcept(self, owner: _Place) -> None:
        """Takes back the junction before a line, of which no condition is left."""
        assert owner.hung is not None
        assert owner.excepts is not None
        led, put = owner.hung
        put(led)
        self.found.nodes.remove(owner.excepts)
        owner.excepts = None

    def branch(self, menu: Node, key: str, rest: str, at: int) -> tuple[Put, str, str, bool]:
        if any(one.fill["keys"] == key for one in menu.branches):
            raise Wrong(f"Key {key} stands above already.")
        name, statement = self._branch_name(rest)
        fill, name = self._branch_settings(name)
        way = Way(at, {**fill, "keys": key, "name": name[:60]})
        menu.branches.append(way)

        def put(led: Led) -> None:
            way.led = led

        return put, statement, name, True

    def _branch_name(self, rest: str) -> tuple[str, str]:
        """The name of a branch and what happens there. With a colon it is plain; without one a known name, or a phone behind a name
        with a capital, is who is rung."""
        head = re.match(r'^([^:"“„«]*):\s*(.*)$', rest)
        if head:
            return head[1].strip(), head[2]
        if not rest or is_statement(rest, self.known):
            return "", rest
        for start in re.finditer(r"(?<=\s)\S", rest):
            tail = rest[start.start() :]
            if tail[0] in '"“„«' or re.match(r"back\b(?:\s+to\b|$)|again$", tail, re.I):
                return rest[: start.start()].strip(" ,"), tail
            found = self.known.begins(tail, "team", "person", "mailbox")
            if found is not None or (tail[0].isupper() and re.match(r"(?:[A-Z][\w’'.-]*\s+)+[+(\d]", tail)):
                return rest[: start.start()].strip(" ,"), tail
        return rest, ""

    def _branch_settings(self, name: str) -> tuple[dict[str, Any], str]:
        match = re.search(r"\s*\(([^()]*)\)\s*$", name)
        fill: dict[str, Any] = {"elsewhere": False, "source": None}
        if match is None:
            return fill, name
        for one in (part.strip() for part in match[1].split(",")):
            if one.casefold() in ("not spoken", "advertised elsewhere"):
                fill["elsewhere"] = True
            elif credited := re.fullmatch(r"credits (.+)", one, re.I):
                keys = [key for key, known in self.known.sources.items() if known.casefold() == credited[1].casefold()]
                if not keys:
                    raise Wrong(f"This client has no lead source “{credited[1]}”.", Stranger("source", credited[1]))
                fill["source"] = keys[0]
            else:
                return fill, name
        return fill, name[: match.start()]

    def condition(self, words: str, junction: Node, at: int) -> tuple[Put, str, str] | None:
        """A condition before a colon, and what happens where it holds."""
        found = self.sorts.read(words)
        if found is None:
            return None
        when, name, rest = found
        if isinstance(when, str):
            return self._exit(junction, ("otherwise",)), rest, ""
        head = words[: len(words) - len(rest)].rstrip(": ")
        way = Way(at, {"when": when.model_dump(mode="json"), "name": name}, said=head)
        junction.branches.append(way)

        def put(led: Led) -> None:
            way.led = led

        return put, rest, ""

    def sorting(self, words: str, at: int) -> tuple[Node, tuple[Put, str, str]] | None:
        """A line that begins with a condition sorts callers by it, without a junction above it."""
        found = self.sorts.read(words)
        if found is None or found[0] == "otherwise":
            return None
        node = Node(at, "junction", {})
        way = self.condition(words, node, at)
        assert way is not None
        return node, way

    def onward(self, line: Line, before: _Place | None, owner: _Place | None) -> Put | None:
        """What a line without the name of an exit goes on from."""
        if before is not None:
            if before.put is not None:
                return before.put
            if before.node is not None:
                return self._onward(before.node)
        if owner is not None:
            if owner.put is not None:
                put, owner.put = owner.put, None
                return put
            if owner.node is not None and owner.node.kind == "menu":
                raise Wrong("Begin with the key, as in “4 boat lifts: Yard office”; or with silent, wrong or else.")
            if (
                owner.node is not None
                and owner.node.kind == "junction"
                and (named := re.match(r'([^:"]{1,60}):(?:\s|$)', line.words))
            ):
                sentence = f"“{named[1]}” is no period of this client’s hours, nor closed, exception, a time or a date."
                raise Wrong(sentence, Stranger("period", named[1].strip()))
            if owner.node is not None:
                return self._onward(owner.node)
            raise Wrong("The line above leads on already: indent this one less.")
        if self.found.start == OPEN and not self.found.sections:
            return self._start
        return None

    def _onward(self, node: Node) -> Put:
        kind = KINDS[node.kind]
        field = kind.onward
        if field and field not in node.ways:
            return self._exit(node, (field,))
        raise Wrong("Nothing leads here: begin with the exit it follows, or indent it.")

    def _exit(self, node: Node, fields: tuple[str, ...]) -> Put:
        if not fields:
            raise Wrong("This step has no such exit.")
        if any(field in node.ways for field in fields):
            raise Wrong("This exit stands above already.")

        def put(led: Led) -> None:
            if led == AGAIN:
                raise Wrong("Only a key can let callers hear a menu again.")
            for field in fields:
                node.ways[field] = led

        return put

    def _start(self, led: Led) -> None:
        self.found.start = led

    def _everyone(self, led: Led) -> None:
        self.found.everyone_else = led

    # sections: steps that stand by themselves and are led to by name

    def _section(self, words: str) -> re.Match[str] | None:
        match = re.match(r'^("(?:[^"\\]|\\.){1,120}"|[^:"“]{1,60}):\s*(\S.*)$', words)
        return match if match and is_statement(match[2], self.known) else None

    def section(self, line: Line) -> _Place:
        match = self._section(line.words)
        if match is None:
            raise Wrong(
                "Nothing leads here: indent it under an exit, or give it a name, as in “Yard box: voicemail Yard”."
            )

        hung: list[Node] = []

        def put(led: Led) -> None:
            if not isinstance(led, Node):
                raise Wrong("A name stands before what happens, as in “Yard box: voicemail Yard”.")
            for before in hung:
                before.label = ""
                self.found.sections.remove(before)
            quoted = unquoted(match[1])
            led.label = " ".join((quoted[0] if quoted else match[1]).split())
            self.found.sections.append(led)
            hung[:] = [led]

        return self.chain(match[2], line, put)

    # chains

    def chain(self, words: str, line: Line, put: Put, name: str = "", *, leaf: bool = False) -> _Place:
        """The statements of a line, one after the other; "else" is for the first that callers may leave otherwise."""
        if not words:
            put(OPEN)
            return _Place(line.depth, put=put, name=name, at=line.at)
        said = [(word, self.says.statement(text, line.at, leaf=leaf and not word)) for word, text in parts_of(words)]
        if isinstance(said[0][1], Node):
            said[0][1].branch = name[:60]
        tail: Node | None = None
        asks: Node | None = None
        for word, led in said:
            owner = asks or tail
            if word == "else" and owner is not None:
                self._keep(led, self._exit(owner, ELSE.get(owner.kind, ())))
                continue
            self._keep(led, put if tail is None else self._onward(tail))
            if not isinstance(led, Node):
                return _Place(line.depth, node=asks, hung=(said[0][1], put))
            tail, asks = led, led if led.kind in ELSE and not KINDS[led.kind].linear else asks
        return _Place(line.depth, node=asks or tail, hung=(said[0][1], put))

    def _keep(self, led: Led, put: Put) -> None:
        put(led)
        if isinstance(led, Node):
            self.found.nodes.append(led)
