"""Hold lines in the simulator: who waits when, and who of a team is free at a moment of a call."""

from bisect import bisect_left, insort
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from itertools import pairwise

from ..flows.model.steps import HoldLine
from ..flows.questions.kinds import HoldAnswer, HoldTurn
from ..flows.running.flow import Flow
from ..holding.line import Served, served, take, turn
from ..people.line_up import Around, Unit
from .line import CallRun

FIRST_MEAN = 150.0
"""The mean talk in seconds before any was heard."""


@dataclass
class Waits:
    """The lines of one client: until when each caller waited or will be asked again, and the mean of the talks so far."""

    until: dict[str, list[datetime]] = field(default_factory=dict)
    mean: float = FIRST_MEAN

    def turn(self, step: HoldLine, question: HoldTurn, around: Around) -> HoldAnswer:
        """What becomes of a caller at the moment of `around`."""
        return turn(step, question, served(step.team, around, {question.but}), _InLine(self, step.team, around))

    def note(self, flow: Flow, began: datetime, run: CallRun) -> None:
        """Writes down until when a call of this client waited, and how long the talk was that came of it."""
        for entry, following in pairwise(run.log):
            step = flow.steps.get(entry.state.at)
            if entry.state.hold is None or following.state.hold is not None or not isinstance(step, HoldLine):
                continue
            until = began + timedelta(seconds=following.at)
            insort(self.until.setdefault(step.team, []), until)
            for start, end, _ in run.talks:
                if start == following.at:
                    self.mean += (end - start - self.mean) / 8


@dataclass(frozen=True, slots=True)
class _InLine:
    """A caller in a line. Callers are made one after the other in the order in which they come, so those who came before have
    had their turn."""

    waits: Waits
    team: str
    around: Around

    def length(self) -> int:
        return self.ahead()

    def join(self) -> None:
        return None

    def person(self, line: Served) -> Unit | None:
        take(line, line.free[0].key, self.around.take)
        return line.free[0]

    def ahead(self) -> int:
        known = self.waits.until.setdefault(self.team, [])
        return len(known) - bisect_left(known, self.around.at)

    def mean_talk(self) -> float:
        return self.waits.mean
