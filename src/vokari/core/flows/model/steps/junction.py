"""Junction: sorts callers by conditions."""

import re
from collections.abc import Iterator
from functools import cached_property
from typing import Literal, Self

from pydantic import Field, field_validator

from ....value import Value
from ..condition import CLOSED, Condition
from ..exits import Around, Exit, Named, Renaming, Typed, exit_of
from ..step import StepBase
from ..values import Name, StepId, Target


class Sorting(Value):
    """One branch of a Junction, taken when its condition is the first that holds. Without a name it is called by it."""

    id: StepId
    name: Name = ""
    when: Condition
    to: Target = None


class Junction(StepBase):
    """Sorts callers by conditions in order; `otherwise` takes the rest."""

    title = "Junction"
    when = "Sends callers different ways without asking them: by hours, date or what is known of them."
    verbs = ("sort", "sorts", "hours")
    ways = (("otherwise", "otherwise"),)
    onward = "otherwise"
    heard = False
    needs_caller = False

    kind: Literal["junction"] = "junction"
    branches: tuple[Sorting, ...] = Field(default=(), max_length=60)
    otherwise: Target = None
    otherwise_name: Name = ""

    @field_validator("branches")
    @classmethod
    def _unlike(cls, branches: tuple[Sorting, ...]) -> tuple[Sorting, ...]:
        ids = [branch.id for branch in branches]
        if len(set(ids)) < len(ids):
            raise ValueError("two branches of one junction have the same id")
        return branches

    @cached_property
    def exits(self) -> tuple[Exit, ...]:
        sorted_out = (exit_of(branch.id, branch.name, branch.to) for branch in self.branches)
        return (*sorted_out, exit_of("otherwise", self.otherwise_name or "otherwise", self.otherwise))

    follows = ("otherwise",)

    def is_silent(self, way: Exit) -> bool:
        return True

    def with_target(self, exit_id: str, target: Target) -> Self:
        return self._with_branch_led("branches", exit_id, target) or super().with_target(exit_id, target)

    def names(self) -> Iterator[Named]:
        for branch in self.branches:
            for leaf in branch.when.leaves():
                periods = leaf.any_of if leaf.test == "period" else ()
                yield from (Named(kind, key, branch.id, periods=periods) for kind, key in leaf.names())

    def renamed(self, to: Renaming) -> Self:
        branches = tuple(branch.model_copy(update={"when": branch.when.renamed(to)}) for branch in self.branches)
        return self.model_copy(update={"branches": branches})

    @property
    def sole_hours(self) -> str:
        """The key of the set that it sorts by, where its periods are all of one set and none of them is closed."""
        found = [leaf for branch in self.branches for leaf in branch.when.leaves() if leaf.test == "period"]
        keys = {leaf.of or "" for leaf in found}
        return keys.pop() if len(keys) == 1 and not any(CLOSED in leaf.any_of for leaf in found) else ""

    def without_period(self, key: str, period: str) -> Self:
        """The junction without the exits that ask for one period alone; those that ask for others too ask for those."""
        left = ((branch, branch.when.without_period(key, period)) for branch in self.branches)
        kept = tuple(branch.model_copy(update={"when": when}) for branch, when in left if when is not None)
        return self.model_copy(update={"branches": kept})

    def in_words(self, around: Around) -> str:
        if not self.branches:
            return "sorts by nothing yet"
        ways = [branch.name or branch.when.test for branch in self.branches]
        return f"sorts by {', '.join(ways)}, {self.otherwise_name or 'otherwise'}"

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed:
        return Typed({}, hours=re.sub(r"^(?:by\b\s*)?(?:hours\b\s*)?(?:of\b\s*)?", "", rest))
