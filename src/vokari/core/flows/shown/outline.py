"""The outline of a flow, as people plan it on paper: numbered steps, each indented under the exit that leads to it."""

from collections.abc import Iterator, Mapping
from typing import NamedTuple

from ...value import once
from ..model.document import FlowDocument
from ..model.exits import Exit
from ..model.steps import AnyStep, BackTo


class Row(NamedTuple):
    """One row: a step, or an exit that leads on to a step shown elsewhere, to an end, or nowhere.

    `number` is the step's number in the outline (0 for a row that shows no step), `depth` the indent, `exit` the
    way out of `parent` by which this row is reached (None at the trunk), `leads_to` the step an exit row names, `follows` says that
    the exit leads where everyone else goes because it was not given its own.
    """

    depth: int
    number: int = 0
    step: AnyStep | None = None
    parent: AnyStep | None = None
    exit: Exit | None = None
    leads_to: AnyStep | None = None
    unreached: bool = False
    follows: bool = False


@once
def outline(document: FlowDocument) -> tuple[Row, ...]:
    """The rows of the sheet. Each step stands once: under the first exit of the only step that leads to it, or at the
    trunk when several do. Ways back do not count."""
    writer = _Writer(document)
    rows = list(writer.trunk())
    number = 0
    numbered = []
    for row in rows:
        number += row.step is not None
        numbered.append(row if row.step is None else row._replace(number=number))
    return tuple(numbered)


@once
def numbers(document: FlowDocument) -> Mapping[str, int]:
    """Each step's number in the outline."""
    return {row.step.id: row.number for row in outline(document) if row.step}


class _Writer:
    """Walks the flow once; a step that several others lead to waits for the trunk."""

    def __init__(self, document: FlowDocument) -> None:
        self.document = document
        self.steps = document.by_id
        self.led_by = self._led_by()
        self.placed: set[str] = set()
        self.shared: list[str] = []

    def _led_by(self) -> dict[str, str]:
        """For each step the only one that leads to it, and nothing where several do. Ways back do not count."""
        found: dict[str, str] = {}
        for step in self.document.steps:
            if not isinstance(step, BackTo):
                for way in step.exits:
                    if way.target is not None and not way.hear_again:
                        found[way.target] = step.id if found.get(way.target, step.id) == step.id else ""
        return found

    def trunk(self) -> Iterator[Row]:
        if self.document.start:
            yield from self.chain(self.document.start, 0, None, None)
        while self.shared:
            one = self.shared.pop(0)
            if one not in self.placed:
                yield from self.chain(one, 0, None, None)
        if self.document.rescue and self.document.rescue not in self.placed:
            yield from self.chain(self.document.rescue, 0, None, None)
        for step in self.document.steps:
            if step.id not in self.placed:
                yield from self.chain(step.id, 0, None, None, unreached=True)
                while self.shared:
                    one = self.shared.pop(0)
                    if one not in self.placed:
                        yield from self.chain(one, 0, None, None, unreached=True)

    def chain(
        self, one: str, depth: int, parent: AnyStep | None, by: Exit | None, *, unreached: bool = False
    ) -> Iterator[Row]:
        """A step and all that stands below it, as an explicit stack so that long flows cannot overflow."""
        todo: list[Row | tuple[str, int, AnyStep | None, Exit | None]] = [(one, depth, parent, by)]
        while todo:
            item = todo.pop()
            if isinstance(item, Row):
                yield item
                continue
            step_id, at, above, exit_ = item
            step = self.steps[step_id]
            self.placed.add(step_id)
            yield Row(at, 0, step, above, exit_, unreached=unreached)
            below = []
            for way in step.exits:
                if isinstance(step, BackTo) or step.is_told(way):
                    continue
                inner = at if step.linear else at + 1
                below.append(self.exit_row(step, way, inner))
            todo += reversed(below)

    def exit_row(self, step: AnyStep, way: Exit, depth: int) -> Row | tuple[str, int, AnyStep | None, Exit | None]:
        target = self.steps.get(str(way.target)) if not way.hear_again else None
        if target is None or target.id in self.placed:
            return Row(depth, 0, None, step, way, target, follows=self.document.follows(step, way))
        if not self.led_by[target.id] or target.id == self.document.start:
            if target.id not in self.shared:
                self.shared.append(target.id)
            return Row(depth, 0, None, step, way, target, follows=self.document.follows(step, way))
        self.placed.add(target.id)
        return (target.id, depth, step, way)
