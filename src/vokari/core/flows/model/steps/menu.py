"""Menu: asks for a key, and lets each key lead elsewhere."""

from collections.abc import Iterator
from functools import cached_property
from typing import Literal, Self

from pydantic import Field, field_validator

from ....value import Value
from ..asking import asked, tries_words
from ..exits import Around, Exit, Has, Named, Played, Renaming, Slip, Typed, exit_of
from ..step import StepBase, first_words
from ..values import Key, Language, Name, Prompt, StepId, Target

WAIT, WAIT_EACH = 4.0, 0.7
"""Seconds that a caller has to choose, unless set: so many, and so many for each choice."""


class Branch(Value):
    """One way out of a menu: the keys that take it and where it leads.

    `source` is the key of a lead source that a caller who takes this branch is credited to; `elsewhere` says
    that the keys are printed somewhere and never spoken.
    """

    id: StepId
    keys: Key
    name: Name = ""
    to: Target = None
    hear_again: bool = False
    elsewhere: bool = False
    language: Language | None = None
    source: str | None = None
    spoken: tuple[str, ...] = ()


class Menu(StepBase):
    """Asks for a key, or with `dial_extensions` for a person's
    extension too. `wait` runs after the prompt (None: as `usual_wait` says), `inter_digit` between digits of a longer key."""

    title = "Menu"
    when = "Lets callers choose by a key what they ring for."
    verbs = ("ask", "asks", "menu")
    ways = (("nothing", "nothing pressed"), ("wrong", "wrong key"))
    onward = "nothing"
    silent = ("nothing",)
    follows = ("nothing", "wrong")

    kind: Literal["menu"] = "menu"
    prompt: Prompt = Prompt()
    wait: int | None = Field(default=None, ge=1, le=60)
    tries: int = Field(default=2, ge=1, le=9)
    inter_digit: int = Field(default=2, ge=1, le=10)
    retry_silent: Prompt | None = None
    retry_wrong: Prompt | None = None
    branches: tuple[Branch, ...] = Field(default=(), max_length=60)
    dial_extensions: bool = False
    extension: Target = None
    nothing: Target = None
    wrong: Target = None

    @field_validator("branches")
    @classmethod
    def _unlike(cls, branches: tuple[Branch, ...]) -> tuple[Branch, ...]:
        ids = [branch.id for branch in branches]
        if len(set(ids)) < len(ids):
            raise ValueError("two branches of one menu have the same id")
        keys = [branch.keys for branch in branches]
        if len(set(keys)) < len(keys):
            twice = next(key for key in keys if keys.count(key) > 1)
            raise ValueError(f"two branches of one menu listen for key {twice}")
        return branches

    @cached_property
    def usual_wait(self) -> float:
        """Seconds that follow from the number of choices; keys that are advertised elsewhere are not listened for in the prompt,
        so they are none (common practice, no source)."""
        return round(WAIT + WAIT_EACH * sum(not branch.elsewhere for branch in self.branches), 1)

    @property
    def waits(self) -> float:
        """The seconds that a caller has once the prompt is over."""
        return self.usual_wait if self.wait is None else self.wait

    @cached_property
    def exits(self) -> tuple[Exit, ...]:
        branches = (
            exit_of(branch.id, branch.name, branch.to, keys=branch.keys, hear_again=branch.hear_again)
            for branch in self.branches
        )
        dialed = (exit_of("extension", "extension dialed", self.extension),) if self.dial_extensions else ()
        return (*branches, *dialed, *super().exits)

    def with_target(self, exit_id: str, target: Target) -> Self:
        if exit_id == "extension":
            return self.model_copy(update={"extension": target})
        return self._with_branch_led("branches", exit_id, target) or super().with_target(exit_id, target)

    def said_of(self, way: Exit) -> str:
        return f"key {way.keys} of {self.quoted}" if way.keys else super().said_of(way)

    def names(self) -> Iterator[Named]:
        for branch in self.branches:
            if branch.source:
                yield Named("source", branch.source, branch.id, f"the lead source of key {branch.keys}")

    def renamed(self, to: Renaming) -> Self:
        branches = tuple(
            branch.model_copy(update={"source": to("source", branch.source)}) if branch.source else branch
            for branch in self.branches
        )
        return self.model_copy(update={"branches": branches})

    def plays(self) -> Iterator[Played]:
        return asked(self.prompt, self.retry_silent, self.retry_wrong)

    def in_words(self, around: Around) -> str:
        keys = " ".join(branch.keys for branch in self.branches)
        asked = " or ".join([*([keys] if keys else []), *(["an extension"] if self.dial_extensions else [])])
        return f"asks {asked or 'no key yet'}, {self.waits:g} s, {tries_words(self.tries)}"

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed:
        return Typed({"name": first_words(rest), "prompt": {"say": rest}})

    def slips(self, has: Has) -> Iterator[Slip]:
        yield from self.without_words()
        if not self.branches and not self.dial_extensions:
            yield Slip("no_branches", f"{self.begins} listens for no key: add a branch.")
        for branch in self.branches:
            if branch.source and branch.source not in has.sources:
                sentence = f"Key {branch.keys} of {self.quoted} states a lead source that this client does not have."
                yield Slip("unknown_source", sentence, branch.id)

    def unsupported(self) -> Iterator[tuple[str, str]]:
        for index, branch in enumerate(self.branches):
            if branch.spoken:
                yield f"branches.{index}.spoken", "spoken answers cannot be run yet"
