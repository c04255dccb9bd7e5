"""Continue in: runs another flow of the client, and comes back."""

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Literal, Self

from pydantic import Field, field_validator

from ....value import Value
from ..exits import Around, Exit, Has, Named, Renaming, Slip, Typed, exit_of
from ..step import StepBase
from ..values import Name, StepId, Target
from .come_back import way_named


class ComingBack(Value):
    """What happens when the inner flow comes back by the way of this name."""

    id: StepId
    name: Name
    to: Target = None

    @property
    def named(self) -> str:
        """The way as it is compared."""
        return way_named(self.name)


class ContinueIn(StepBase):
    """Runs another flow of the client, by its key, and goes on by the name of the Come back that ended it. `flow_name` is what that
    flow is called, where it is shown."""

    title = "Continue in"
    when = "Uses another flow as a part of this one, and comes back."
    verbs = ("continue", "continues")
    needs_caller = False
    heard = False

    kind: Literal["continue_in"] = "continue_in"
    flow: str = ""
    flow_name: Name = ""
    returns: tuple[ComingBack, ...] = Field(default=(), max_length=20)

    @field_validator("returns")
    @classmethod
    def _unlike(cls, returns: tuple[ComingBack, ...]) -> tuple[ComingBack, ...]:
        names = [one.named for one in returns]
        if len(set(names)) < len(names):
            raise ValueError("two ways back have the same name")
        return returns

    @property
    def made_name(self) -> str:
        return self.flow_name

    @cached_property
    def exits(self) -> tuple[Exit, ...]:
        return tuple(exit_of(back.id, back.name, back.to) for back in self.returns)

    def back(self, named: str) -> ComingBack | None:
        """What happens after the way of a name; None where nobody names it."""
        return next((one for one in self.returns if one.named == named), None)

    def is_silent(self, way: Exit) -> bool:
        return True

    def with_target(self, exit_id: str, target: Target) -> Self:
        return self._with_branch_led("returns", exit_id, target) or super().with_target(exit_id, target)

    def names(self) -> Iterator[Named]:
        if self.flow:
            yield Named("flow", self.flow, called=self.flow_name)

    def renamed(self, to: Renaming) -> Self:
        return self.model_copy(update={"flow": to("flow", self.flow) or ""}) if self.flow else self

    def under_names(self, names: Mapping[str, str]) -> Self:
        called = names.get(f"flow:{self.flow}", "a flow that is gone") if self.flow else ""
        return self.model_copy(update={"flow_name": called})

    def in_words(self, around: Around) -> str:
        where = self.flow_name or ("another flow" if self.flow else "no flow yet")
        ways = f", comes back {' or '.join(one.name for one in self.returns)}" if self.returns else ""
        return f"goes on in {where}{ways}"

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed:
        called = rest.removeprefix("in ").strip()
        return Typed({"name": ""}, flow=called)

    def slips(self, has: Has) -> Iterator[Slip]:
        if not self.flow:
            yield Slip("no_flow", f"{self.begins} continues in no flow yet: choose one.")
