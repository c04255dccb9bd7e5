"""A text that was read, as the steps of a flow: lines keep the steps that they had, names become targets, and whoever no step has an
answer for goes where everyone else goes."""

from collections.abc import Callable, Iterator, Sequence, Set
from dataclasses import dataclass, field
from typing import Any

from pydantic import TypeAdapter, ValidationError

from ...prompts import moments
from ..drafting.following import following
from ..model.document import FlowDocument, UnreadLine
from ..model.steps import KINDS, AnyStep, Step
from ..model.steps.come_back import way_named
from ..model.values import END
from ..shown.outline import outline
from ..wording.written import in_step
from .heads import EXIT_WORDS
from .known import offered
from .nodes import AGAIN, END_, Goto, Led, Node, Read, Stranger, Unread, Way
from .statements import usual_name

_BRANCHES = {"menu": "branches", "junction": "branches", "continue_in": "returns"}
"""The field in which a kind has exits of its own."""
_STEP: TypeAdapter[AnyStep] = TypeAdapter(Step)


@dataclass(frozen=True, slots=True)
class Built:
    """The flow that a text makes, by line the step that stands there, by step the line that tells of it, what is missing in lines that
    were not understood, and the names in them that nothing here has."""

    document: FlowDocument
    lines: dict[int, str] = field(default_factory=dict)
    stands: dict[str, int] = field(default_factory=dict)
    missing: dict[int, str] = field(default_factory=dict)
    strangers: tuple[Stranger, ...] = ()


def build(read: Read, old: FlowDocument, new_id: Callable[[str], str], mailboxes: Sequence[str] = ()) -> Built:
    """The flow that a text makes of an older one. What the text does not say of a step stays as it was; a new voicemail without a
    mailbox gets the only one of the client's `mailboxes`."""
    return _Builder(read, old, new_id, mailboxes).build()


class _Builder:
    def __init__(self, read: Read, old: FlowDocument, new_id: Callable[[str], str], mailboxes: Sequence[str]) -> None:
        self.read, self.old, self.new_id, self.mailboxes = read, old, new_id, mailboxes
        self.nodes = list(self._all())
        self.unread = list(read.unread)

    def build(self) -> Built:
        self._match()
        self._name()
        by_name = self._by_name()
        self.at_lines = {node.at: node.id for node in self.nodes}
        steps = [self._step(node, by_name) for node in self.nodes]
        start = self._root(self.read.start, by_name)
        everyone = self._root(self.read.everyone_else, by_name)
        if everyone in (None, END):
            everyone = None
        else:
            own = {node.id for node in self._below(self.read.everyone_else)}
            steps = [one if one.id in own else following(one, str(everyone)) for one in steps]
        ids = {one.id for one in steps}
        rescue = everyone or (self.old.rescue if self.old.rescue in ids else None)
        fresh = (one.id for one in steps if one.kind == "voicemail" and self.old.step(one.id) is None)
        rescue = rescue or next(fresh, None)
        document = self.old.model_copy(
            update={
                "steps": tuple(steps), "start": start if start in ids else None, "rescue": rescue, "everyone_else": everyone,
                "unread": tuple(self._unread_lines()),
            }
        )  # fmt: skip
        document.check()
        document = in_step(self.old, document)
        missing = {one.at: one.sentence for one in self.unread}
        strangers = self._strangers(by_name)
        lines, stands = {node.at: node.id for node in reversed(self.nodes)}, {node.id: node.at for node in self.nodes}
        return Built(document, lines, stands, missing, strangers)

    def _strangers(self, by_name: dict[str, list[str]]) -> tuple[Stranger, ...]:
        """The names that nothing here has, in the order of the text."""
        named = (*self.read.strangers, *(one.stranger for one in self.unread if one.stranger))
        found = dict.fromkeys(one for one in named if one.kind != "person" or one.name.casefold() not in by_name)
        places = {one: next((at for at, line in self.read.lines.items() if one.name in line.words), 0) for one in found}
        return tuple(sorted(found, key=lambda one: places[one]))

    # the nodes in the order of the text

    def _all(self) -> Iterator[Node]:
        seen: set[int] = set()
        roots: list[Led] = [self.read.start, *self.read.sections, self.read.everyone_else]
        for root in roots:
            for node in self._below(root):
                if id(node) not in seen:
                    seen.add(id(node))
                    yield node

    def _below(self, led: Led) -> Iterator[Node]:
        """A step and all that hang below it, each before what follows it, without recursion."""
        todo: list[tuple[Led, Node | None]] = [(led, None)]
        while todo:
            one, above = todo.pop()
            if isinstance(one, Node):
                one.above = above
                yield one
                todo += [(way, one) for way in reversed([*(way.led for way in one.branches), *one.ways.values()])]

    # which steps they were

    def _match(self) -> None:
        """First those that the same exit of the same step leads to, then those of one name, those alike in what they do, and those
        without a name of one kind."""
        rows = outline(self.old)
        free = {row.step.id: row.step for row in rows if row.step is not None}
        alone = {row.step.id: row.step for row in rows if row.step is not None and row.parent is None}

        def take(node: Node, step: AnyStep | None) -> None:
            if step is not None and not node.id and step.id in free and step.kind == node.kind:
                node.id = step.id
                del free[step.id]

        for root, was_ in ((self.read.start, self.old.start), (self.read.everyone_else, self.old.everyone_else)):
            if isinstance(root, Node):
                take(root, self.old.step(was_ or ""))
        for node in self.nodes:
            if node.label:
                named = (one for one in (alone | free).values() if one.name.casefold() == node.label.casefold())
                take(node, next((one for one in named if one.id in free and one.kind == node.kind), None))
            was = self.old.step(node.id)
            if was is not None:
                for field_, led in node.ways.items():
                    if isinstance(led, Node):
                        take(led, self.old.step(str(getattr(was, field_, ""))))
                for way in node.branches:
                    branch = _branch_of(was, way)
                    if branch is not None and isinstance(way.led, Node):
                        take(way.led, self.old.step(str(branch.to)))
        for test in (_same_name, _same_fill):
            for node in self.nodes:
                if not node.id:
                    take(node, next((one for one in free.values() if one.kind == node.kind and test(node, one)), None))
        for node in self.nodes:
            if not node.id:
                take(node, next((one for one in free.values() if one.kind == node.kind and not one.name), None))
        for node in self.nodes:
            node.id = node.id or self.new_id("s")

    def _name(self) -> None:
        """Steps without a name in the text get the first of their words; those that had none keep it so."""
        for node in self.nodes:
            node.usual = usual_name(node.kind, node.fill, node.branch, node.usual)[:60]
            was = self.old.step(node.id)
            if node.name is None:
                node.name = node.label or ("" if was is not None and not was.name else node.usual)

    # names of steps

    def _by_name(self) -> dict[str, list[str]]:
        found: dict[str, list[str]] = {}
        for node in self.nodes:
            for name in dict.fromkeys(one.casefold() for one in (node.label, node.name or "", node.usual) if one):
                found.setdefault(name, []).append(node.id)
        return found

    def _root(self, led: Led, by_name: dict[str, list[str]]) -> str | None:
        """The step that a flow begins with, or that takes everyone else."""
        if isinstance(led, Goto) and (sentence := self._missing(led, by_name)):
            line = self.read.lines[led.at]
            self.unread.append(Unread(led.at, line.depth, line.words, sentence, _stranger(led)))
        return self._target(led, by_name)

    def _target(self, led: Led, by_name: dict[str, list[str]], node: Node | None = None) -> str | None:
        if isinstance(led, Node):
            return led.id
        if isinstance(led, Goto):
            return self._goto(led, by_name, node)
        return END if led == END_ else None

    def _goto(self, led: Goto, by_name: dict[str, list[str]], node: Node | None) -> str | None:
        start = self.read.start.id if isinstance(self.read.start, Node) else None
        if not led.name:
            return start if led.which == 0 else self._menu_above(node) or start
        found = by_name.get(led.name.casefold(), [])
        return found[max(0, led.which - 1)] if found and led.which <= len(found) else None

    def _missing(self, led: Goto, by_name: dict[str, list[str]]) -> str:
        """What is missing where a line leads to a name; empty where nothing is."""
        found = by_name.get(led.name.casefold(), [])
        if not led.name or (found and led.which <= len(found)):
            return ""
        return f"Nobody and no step here is called “{led.name[:60]}”.{offered(led.name, [name for one in self.nodes for name in (one.label, one.name) if name])}"

    def _waits(self, led: Led, by_name: dict[str, list[str]], node: Node, field_: str) -> bool:
        """Whether an exit leads to a name that is not there: this stays as a line of that exit."""
        if not isinstance(led, Goto) or not (sentence := self._missing(led, by_name)):
            return False
        line = self.read.lines[led.at]
        words = next((words for words, one in EXIT_WORDS.get(node.kind, {}).items() if one == field_), "")
        own = led.at != node.at
        text = line.words if own else f"{words}: {led.name}" if words else f"to {led.name}"
        depth = line.depth if own or not words else line.depth + 1
        unread = Unread(led.at, depth, text, sentence, _stranger(led))
        if unread not in self.unread:
            self.unread.append(unread)
        return True

    def _menu_above(self, node: Node | None) -> str | None:
        """The menu above the one that a way back stands in."""
        menus = []
        while node is not None:
            node = node.above
            if node is not None and node.kind == "menu":
                menus.append(node.id)
        return menus[1] if len(menus) > 1 else None

    # steps

    def _step(self, node: Node, by_name: dict[str, list[str]]) -> AnyStep:
        was = self.old.step(node.id)
        raw: dict[str, Any] = was.model_dump(mode="json") if was is not None else {}
        for name, value in node.fill.items():
            if name in ("prompt", "greeting") and isinstance(raw.get(name), dict):
                value = _spoken(raw[name], value)
            raw[name] = value
        if node.kind == "ring" and was is not None:
            raw["to"] = _kept_destinations(raw["to"], was)
        if node.kind == "voicemail" and was is None and "mailbox" not in raw and len(self.mailboxes) == 1:
            raw["mailbox"] = self.mailboxes[0]
        raw |= {"kind": node.kind, "id": node.id, "name": (node.name or "")[:60]}
        for field_ in (*(name for name, _ in KINDS[node.kind].ways), *(["extension"] if node.kind == "menu" else [])):
            raw[field_] = self._usual(node, field_, was)
        for field_, led in node.ways.items():
            # What waits to be understood leads where is usual meanwhile, so that no line is written for it beside its own.
            if not self._waits(led, by_name, node, field_):
                raw[field_] = self._target(led, by_name, node)
        if node.kind in _BRANCHES:
            taken: set[str] = set()
            led_to = (self._branch(way, was, by_name, node, taken) for way in node.branches)
            raw[_BRANCHES[node.kind]] = [branch for branch in led_to if branch is not None]
        if node.kind == "voicemail" and was is None and "greeting" not in raw:
            raw |= moments.fill("voicemail", self.old.language)
        if node.leaf and "next" not in node.ways:
            raw |= {"next": END, "counts_as": "served"}
        try:
            return _STEP.validate_python(raw)
        except ValidationError as error:
            place = ".".join(str(part) for part in error.errors(include_url=False)[0]["loc"][1:])
            words = f"This cannot be used here: {place}."
            self.unread.append(Unread(node.at, 0, "", words))
            return _STEP.validate_python({"kind": node.kind, "id": node.id})

    def _usual(self, node: Node, field_: str, was: AnyStep | None) -> Any:
        """Where an exit leads that the text does not name: where it led, if texts do not tell of such an exit, else where is usual."""
        way = was.exit(field_) if was is not None else None
        if was is not None and way is not None and was.is_told(way):
            return way.target
        return END if node.kind == "voicemail" else KINDS[node.kind].model_fields[field_].default

    def _branch(
        self, way: Way, was: AnyStep | None, by_name: dict[str, list[str]], node: Node, taken: set[str]
    ) -> dict[str, Any] | None:
        """A branch, in none of the `taken` places; None where its line leads to somebody who is not there, so that the whole line waits
        to be understood."""
        if isinstance(way.led, Goto) and (sentence := self._missing(way.led, by_name)):
            line = self.read.lines[way.at]
            self.unread.append(Unread(way.at, line.depth, line.words, sentence, _stranger(way.led)))
            return None
        old = _branch_of(was, way, taken) if was is not None else None
        raw = old.model_dump(mode="json") if old is not None else {"id": self.new_id("b")}
        taken.add(raw["id"])
        fill = way.fill
        if "when" in fill and not fill["name"] and old is not None and old.name.casefold() == way.said.casefold():
            fill = {**fill, "name": old.name}
        raw |= {**fill, "to": self._target(way.led, by_name, node)}
        if node.kind == "menu":
            raw["hear_again"] = way.led == AGAIN
        return raw

    def _unread_lines(self) -> Iterator[UnreadLine]:
        """The lines that were not understood, each behind the step and the lines of its exits that it stood behind."""
        unread: dict[int, list[Unread]] = {}
        for one in self.unread:
            unread.setdefault(one.at, []).append(one)
        after, past, depth = None, 0, 0
        for at, line in sorted(self.read.lines.items()):
            if at in self.at_lines:
                after, past, depth = self.at_lines[at], 0, line.depth
            elif at not in unread:
                past, depth = past + 1, line.depth
            for one in unread.get(at, ()):
                text, sentence = one.words[:500], one.sentence[:300]
                yield UnreadLine(text=text, deeper=one.depth - depth, after=after, past=past, sentence=sentence)


def _spoken(before: dict[str, Any], typed: dict[str, Any]) -> dict[str, Any]:
    """A prompt with words as typed: the prompt of the library that it was, unless the words are others than its own."""
    kept = {**before, **typed}
    if before.get("prompt") and " ".join(typed["say"].split()) != " ".join(before["say"].split()):
        kept["prompt"] = None
    return kept if kept.get("prompt") is None else {**kept, "say": before["say"]}


def _branch_of(step: AnyStep, way: Way, taken: Set[str] = frozenset()) -> Any:
    """The branch of a step that a line was, of those not taken: of the same key, or of the same condition."""
    branches = [one for one in getattr(step, _BRANCHES.get(step.kind, ""), ()) if one.id not in taken]
    if set(way.fill) == {"name"}:
        return next((one for one in branches if one.named == way_named(way.fill["name"])), None)
    if "keys" in way.fill:
        return next((one for one in branches if getattr(one, "keys", None) == way.fill["keys"]), None)
    alike = (one for one in branches if hasattr(one, "when") and one.when.model_dump(mode="json") == way.fill["when"])
    return next(alike, None)


def _stranger(led: Goto) -> Stranger | None:
    """Who a line may mean that leads to a name no step has."""
    return Stranger("person", led.name[:60]) if led.name and not led.which else None


def _same_name(node: Node, step: AnyStep) -> bool:
    name = (
        node.name if node.name is not None else node.label or usual_name(node.kind, node.fill, node.branch, node.usual)
    )
    return bool(name) and step.name.casefold() == name.casefold()


def _same_fill(node: Node, step: AnyStep) -> bool:
    for name, value in node.fill.items():
        own = getattr(step, name, None)
        if name in ("prompt", "greeting"):
            if not value["say"] or getattr(own, "say", None) != value["say"]:
                return False
        elif name == "to":
            if [_who(one) for one in value] != [_who(one.model_dump()) for one in own or ()]:
                return False
        elif name == "labels" and list(own or ()) != value:
            return False
    return bool(node.fill)


def _who(one: dict[str, Any]) -> str:
    return str(one.get("person") or one.get("team") or one.get("number") or one.get("address"))


def _kept_destinations(to: list[dict[str, Any]], was: AnyStep) -> list[dict[str, Any]]:
    """Destinations with the ids and settings that they had; new ones get ids that are free."""
    old = {_who(raw): raw for raw in (one.model_dump(mode="json") for one in getattr(was, "to", ()))}
    taken = {raw["id"] for raw in old.values()}
    found = []
    for one in to:
        known = old.get(_who(one))
        if known is None:
            fresh = next(f"d{n}" for n in range(1, 99) if f"d{n}" not in taken)
            taken.add(fresh)
            found.append({**one, "id": fresh})
        else:
            found.append(
                {
                    **known,
                    **{
                        name: value
                        for name, value in one.items()
                        if name not in ("id", "name") or (value and name == "name")
                    },
                }
            )
    return found
