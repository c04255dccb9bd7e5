"""A flow as indented plain text, which `reading` reads back alike."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace

from ..drafting import typed_conditions
from ..model.condition import CLOSED, Condition
from ..model.document import FlowDocument, UnreadLine
from ..model.exits import Exit
from ..model.steps import (
    Announcement,
    AnyStep,
    BackTo,
    ContinueIn,
    Junction,
    Label,
    Menu,
    Ring,
    Voicemail,
)
from ..model.values import END, NumberDestination, PersonDestination, TeamDestination
from ..shown.outline import Row, outline
from .heads import EXIT_WORDS, is_head
from .known import Known
from .lines import INDENT
from .quoting import named, quoted
from .saying import Saying
from .statements import is_statement, usual_name


@dataclass(frozen=True, slots=True)
class Written:
    """One line: its words with their indent, the step that stands there (None for an exit that leads elsewhere), what is missing in
    one that was not understood, the exit that leads there with its step, whether it goes on from a line above it at its depth that
    begins with the name of an exit, and all steps that it tells of."""

    text: str
    step: str | None = None
    missing: str = ""
    way: tuple[str, str] = ("", "")
    goes_on: bool = False
    steps: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class _Entry:
    """One line in parts: how deep it stands, the name of the exit, what happens there, the step, all steps that it tells of, and the
    exit by which the step is reached."""

    depth: int
    head: str
    said: str
    step: str | None = None
    steps: list[str] = field(default_factory=list)
    way: tuple[str, str] = ("", "")
    rings: bool = False


def cannot(document: FlowDocument, known: Known) -> list[AnyStep]:
    """The steps that text cannot tell of: those that name what is gone, so that it has no name to be typed by."""

    def typed(step: AnyStep) -> bool:
        conditions = [one.when for one in step.branches] if isinstance(step, Junction) else []
        texts = [typed_conditions.write(one, known.names) for one in conditions]
        read = [typed_conditions.read(text, known.names) for text in texts]
        ended = isinstance(step, BackTo) and step.to == END
        gone = isinstance(step, ContinueIn) and bool(step.flow) and step.flow not in known.flows
        unnamed = (isinstance(step, Label) and not (step.labels or step.lead_status)) or (
            isinstance(step, ContinueIn) and any(not one.named for one in step.returns)
        )
        return read == conditions and not ended and not gone and not unnamed

    return [step for step in document.steps if not typed(step)]


def write(document: FlowDocument, known: Known) -> list[Written]:
    """The lines of a flow. Exits that lead where is usual are left out."""
    writer = _Writer(document, known)
    return list(writer.lines())


class _Writer:
    def __init__(self, document: FlowDocument, known: Known) -> None:
        self.document, self.known = document, known
        self.says = Saying(document, known)
        self.silent: set[str] = set()
        self.untold: list[str] = []
        self.unnamed = {target for target in self._led_to() if not document.by_id[target].name}

    def _led_to(self) -> Iterator[str]:
        """The steps that a line leads to by name."""
        for row in outline(self.document):
            if (
                row.step is None
                and row.leads_to is not None
                and row.parent
                and row.exit
                and self._is_said(row.parent, row.exit)
            ):
                yield row.leads_to.id
            if (
                isinstance(row.step, BackTo)
                and row.step.to in self.document.by_id
                and row.step.to != self.document.start
            ):
                yield str(row.step.to)

    def lines(self) -> Iterator[Written]:
        unread: dict[str | None, list[UnreadLine]] = {}
        for one in self.document.unread:
            unread.setdefault(one.after if one.after in self.document.by_id else None, []).append(one)
        waiting, past, depth = unread.pop(None, []), 0, 0
        named: dict[int, bool] = {}
        for entry in _with_else(list(self._entries())):
            due = len(waiting) if entry.steps else sum(one.past <= past for one in waiting)
            yield from _unread(waiting[:due], depth, first=not named)
            waiting, past, depth = waiting[due:], past + 1, entry.depth
            text = f"{INDENT * entry.depth}{entry.head}{entry.said}".rstrip(" :" if not entry.said else " ")
            goes_on = not entry.head and named.get(entry.depth, False)
            named = {depth: one for depth, one in named.items() if depth < entry.depth}
            named[entry.depth] = bool(entry.head) or goes_on
            yield Written(text, entry.step, way=entry.way, goes_on=goes_on, steps=tuple(entry.steps))
            if entry.steps:
                waiting, past = [one for step in entry.steps for one in unread.pop(step, ())], 0
        waiting += [one for step in self.untold for one in unread.pop(step, ())]
        yield from _unread(waiting, depth, first=not named)

    def _entries(self) -> Iterator["_Entry"]:
        """The lines; the first below a junction without one tells of the junction too."""
        for entry in self._told():
            if entry.said or entry.steps:
                entry = replace(entry, steps=[*self.untold, *entry.steps])
                self.untold.clear()
            yield entry

    def _told(self) -> Iterator["_Entry"]:
        """The rows as lines. The branches of a junction without a name stand in its place, and what hangs below them moves out with
        them."""
        moved: list[tuple[int, int]] = []
        first = True
        for row in outline(self.document):
            while moved and row.depth <= moved[-1][0]:
                moved.pop()
            depth = row.depth - sum(by for _, by in moved)
            inner = isinstance(row.parent, Junction) and row.parent.id in self.silent
            if inner and (row.step is None or not row.step.linear):
                moved.append((row.depth, 1))
            depth -= 1 if inner else 0
            if row.step is not None:
                section = row.depth == 0 and row.parent is None and not first
                first = False
                everyone = section and row.step.id == self.document.everyone_else
                head = self._head(row, section=section, everyone=everyone)
                if self._sorts_silently(row, section=section):
                    self.silent.add(row.step.id)
                    self.untold.append(row.step.id)
                    if head:
                        yield _Entry(depth, head, "", row.step.id, [], _way(row))
                        self.silent.discard(row.step.id)
                    continue
                said = (
                    ""
                    if self._is_plain(row)
                    else self._statement(row, section=section and not everyone, headed=bool(head))
                )
                yield _Entry(
                    depth,
                    head,
                    said,
                    row.step.id,
                    [row.step.id],
                    _way(row),
                    isinstance(row.step, Ring),
                )
            elif row.parent is not None and row.exit is not None and self._is_said(row.parent, row.exit):
                head, where = self._exit_head(row.parent, row.exit), self._where(row.parent, row.exit)
                yield _Entry(depth, head, where, way=_way(row))

    def _sorts_silently(self, row: Row, *, section: bool) -> bool:
        """Whether a junction needs no line of its own: it has no name, and nothing leads to it by one."""
        step = row.step
        if not isinstance(step, Junction) or section or step.name or step.id in self.unnamed or not step.branches:
            return False
        return not (isinstance(row.parent, Junction) and row.parent.id in self.silent)

    def _head(self, row: Row, *, section: bool, everyone: bool) -> str:
        if everyone and section:
            return "Everyone else: "
        if section:
            return f"{self._section_name(self._label(row.step))}: "
        if row.parent is None or row.exit is None or (row.parent.linear and row.exit.id == row.parent.onward):
            return ""
        return self._exit_head(row.parent, row.exit)

    def _is_plain(self, row: Row) -> bool:
        """Whether a menu is told by the name of its key alone: one below a key of its name, with the words of its branches."""
        step, parent, way = row.step, row.parent, row.exit
        if not isinstance(step, Menu) or not isinstance(parent, Menu) or way is None or not step.branches:
            return False
        branch = next((one for one in parent.branches if one.id == way.id), None)
        named_so = bool(branch and branch.name and branch.name == step.name)
        return named_so and self.says.words_follow(step) and step.tries == 2 and step.wait is None

    def _exit_head(self, parent: AnyStep, way: Exit) -> str:
        if isinstance(parent, Menu) and (branch := next((one for one in parent.branches if one.id == way.id), None)):
            settings = ["not spoken"] if branch.elsewhere else []
            source = self.known.sources.get(branch.source or "")
            settings += [f"credits {source}"] if source else []
            name = " ".join([branch.name, *([f"({', '.join(settings)})"] if settings else [])]).strip()
            return f"{branch.keys} {name}: " if name else f"{branch.keys} "
        if isinstance(parent, Junction) and (
            sorting := next((one for one in parent.branches if one.id == way.id), None)
        ):
            text = "open" if self._is_open(sorting.when) else typed_conditions.write(sorting.when, self.known.names)
            own = sorting.name and sorting.name.casefold() != text.casefold()
            return f"{text}{f' as {sorting.name}' if own else ''}: "
        if isinstance(parent, ContinueIn):
            return f"{named(way.name) if not is_head(way.name) else quoted(way.name)}: "
        words = next((words for words, field in EXIT_WORDS.get(parent.kind, {}).items() if field == way.id), way.name)
        return "" if parent.linear else f"{words}: "

    def _is_open(self, when: Condition) -> bool:
        """Whether a condition is “open”: not closed, by the client's first set of hours."""
        if when.test != "not" or len(when.parts) != 1 or not self.known.hours:
            return False
        return when.parts[0] == Condition(test="period", of=next(iter(self.known.hours)), any_of=(CLOSED,))

    def _section_name(self, name: str) -> str:
        """The name of a step that stands by itself; in quotes where it would be read as something else."""
        plain = re.fullmatch(r"[^\W\d_][\w ’'-]*", name) and not is_statement(name, self.known) and not is_head(name)
        sorts = not isinstance(typed_conditions.read(name, self.known.names), str)
        return named(name) if plain and not sorts else quoted(name)

    def _is_said(self, parent: AnyStep, way: Exit) -> bool:
        """Whether an exit that leads to no step of its own has to be told."""
        if isinstance(parent, BackTo) or self.document.follows(parent, way):
            return False
        if isinstance(parent, Announcement) and way.target == END:
            return False
        field = type(parent).model_fields.get(way.id)
        usual = END if isinstance(parent, Voicemail) else field.default if field else None
        return field is None or way.target != usual

    def _where(self, parent: AnyStep, way: Exit) -> str:
        if way.hear_again:
            return "again"
        if way.target is None:
            return "nowhere yet"
        if way.target == END:
            return "end"
        return f"to {self.says.called(way.target)}"

    def _label(self, step: AnyStep | None) -> str:
        return self.says.names[step.id][0] if step is not None else ""

    # statements

    def _statement(self, row: Row, *, section: bool, headed: bool) -> str:
        step = row.step
        assert step is not None
        words = "" if self.says.words_follow(step) else getattr(getattr(step, "prompt", None), "say", "")
        fill = {"prompt": {"say": words}, "labels": list(getattr(step, "labels", ()))}
        usual = usual_name(step.kind, fill, self._branch(row), self._called_after(step))[:60]
        answer = self._answer(row)
        said = answer or self.says.said(step, headed=headed)
        ends = ", then end" if isinstance(step, Announcement) and step.next == END and not answer else ""
        if (not step.name or step.name == usual) and step.id not in self.unnamed:
            return said + ends
        name = step.name or self._label(step)
        if section and name == self._label(step):
            return said + ends
        return f"{said}{',' if said == 'ask' else ''} as {named(name)}{ends}"

    def _branch(self, row: Row) -> str:
        """The name of the key that leads to a row."""
        branches = row.parent.branches if isinstance(row.parent, Menu) and row.exit else ()
        return next((one.name for one in branches if row.exit and one.id == row.exit.id), "")

    def _called_after(self, step: AnyStep) -> str:
        """Whom a step rings if it is one, or where it keeps words."""
        if isinstance(step, Voicemail):
            return self.known.mailboxes.get(step.mailbox or "", "")
        if not isinstance(step, Ring) or len(step.to) != 1:
            return ""
        match step.to[0]:
            case TeamDestination() as team:
                return self.known.teams.get(team.team, "")
            case PersonDestination() as person:
                return self.known.people.get(person.person, "")
            case NumberDestination() as phone:
                return phone.name
        return ""

    def _answer(self, row: Row) -> str:
        """The words of an announcement behind a key that answers what the caller rang for; empty for any other step."""
        step, way = row.step, row.exit
        keyed = isinstance(row.parent, Menu) and way is not None and bool(way.keys)
        plain = isinstance(step, Announcement) and (step.times, step.notice, step.counts_as, step.next) == (
            1,
            False,
            "served",
            END,
        )
        return quoted(step.prompt.say) if keyed and plain and isinstance(step, Announcement) else ""


def _unread(lines: list[UnreadLine], depth: int, *, first: bool) -> Iterator[Written]:
    """Lines that were not understood, behind a line of some depth; each at most one deeper than the one above it."""
    most = 0 if first else depth + 1
    for one in lines:
        at = min(most, max(0, depth + one.deeper))
        yield Written(f"{INDENT * at}{one.text}", missing=one.sentence)
        most = at + 1


def _way(row: Row) -> tuple[str, str]:
    return (row.parent.id, row.exit.id) if row.parent is not None and row.exit is not None else ("", "")


def _with_else(entries: list["_Entry"]) -> Iterator["_Entry"]:
    """Lines where a ring whose only line below says where callers go whom nobody answers tells of it itself."""
    at = 0
    while at < len(entries):
        one, two, three = (entries[n] if n < len(entries) else None for n in (at, at + 1, at + 2))
        assert one is not None
        at += 1
        below = (
            two is not None
            and two.depth == one.depth + 1
            and two.way[1] == "no_answer"
            and two.head
            and _can_follow(two.said)
        )
        if two is not None and below and one.rings and (three is None or three.depth <= one.depth):
            one = replace(one, said=f"{one.said}, else {two.said}", steps=[*one.steps, *two.steps])
            at += 1
        yield one


def _can_follow(said: str) -> bool:
    """Whether a statement can stand behind "else": it is short, and ends with no name of its own."""
    return bool(re.match(r"voicemail [^\",]+$", said)) and not re.search(r"\b(?:as|then|else|otherwise)\b", said, re.I)
