"""Continue in: runs another flow of the client, and comes back."""

from collections.abc import Iterator
from functools import cached_property
from typing import Literal, Self

from ....value import Value
from ..exits import Exit, Named, Renaming, exit_of
from ..step import StepBase
from ..values import Name, StepId, Target


class ComingBack(Value):
    """What happens when the inner flow comes back by the way of this name."""

    id: StepId
    name: Name
    to: Target = None


class ContinueIn(StepBase):
    """Runs another flow of the client and goes on by the name of the Come back that ended it."""

    title = "Continue in"
    when = "Uses another flow as a part of this one."
    runs = False

    kind: Literal["continue_in"] = "continue_in"
    flow: str = ""
    returns: tuple[ComingBack, ...] = ()

    @cached_property
    def exits(self) -> tuple[Exit, ...]:
        return tuple(exit_of(back.id, back.name, back.to) for back in self.returns)

    def is_silent(self, way: Exit) -> bool:
        return True

    def with_target(self, exit_id: str, target: Target) -> Self:
        return self._with_branch_led("returns", exit_id, target) or super().with_target(exit_id, target)

    def names(self) -> Iterator[Named]:
        if self.flow:
            yield Named("flow", self.flow)

    def renamed(self, to: Renaming) -> Self:
        return self.model_copy(update={"flow": to("flow", self.flow) or ""}) if self.flow else self
