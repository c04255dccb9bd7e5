"""What every kind of step has, and what each may say of itself. A kind is one module here; `steps` gathers them."""

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import ClassVar, Self

from ...value import Value
from .exits import Around, Exit, Has, Named, Played, Renaming, Slip, Typed, exit_of
from .values import Name, Note, Prompt, StepId, Target


class StepBase(Value):
    """A step: an id that never changes, a name of its own, a note (why, who asked for it, until when), and whether something is
    still to do there. The facts of its kind are these:

    `title` is what the kind is called, `when` says in a line when to use it, `verbs` the words that a typed line of it begins
    with; `ways` are its exits as (field, name), `onward` the exit by which a call plainly goes on when the step did not end it,
    `silent` those by which a caller leaves who does nothing and whom nobody answers; `follows` those that lead where everyone else
    goes until they are given their own; `linear` says that what follows stands
    below it at the same indent, `heard` whether a caller hears it, and `needs_caller` whether it is left out once they
    have gone.
    """

    title: ClassVar[str] = ""
    when: ClassVar[str] = ""
    verbs: ClassVar[tuple[str, ...]] = ()
    ways: ClassVar[tuple[tuple[str, str], ...]] = ()
    onward: ClassVar[str] = ""
    silent: ClassVar[tuple[str, ...]] = ()
    follows: ClassVar[tuple[str, ...]] = ()
    linear: ClassVar[bool] = False
    heard: ClassVar[bool] = True
    needs_caller: ClassVar[bool] = True

    id: StepId
    name: Name = ""
    note: Note = ""
    to_do: bool = False

    @property
    def made_name(self) -> str:
        """A name that follows from what the step does, where nobody gave it one."""
        return ""

    @property
    def called(self) -> str:
        """The name of the step, or its kind when it has none."""
        return self.name or self.made_name or self.title

    @property
    def quoted(self) -> str:
        """The step within a sentence."""
        name = self.name or self.made_name
        return f"“{name}”" if name else f"the {self.title} without a name"

    @property
    def begins(self) -> str:
        """The step at the start of a sentence."""
        return self.quoted[0].upper() + self.quoted[1:]

    # ways out

    @cached_property
    def exits(self) -> tuple[Exit, ...]:
        """Every exit, in the order in which the sheet lists them."""
        same: Target = getattr(self, "no_answer", None)
        return tuple(exit_of(field, name, getattr(self, field), same=same) for field, name in self.ways)

    @cached_property
    def successors(self) -> tuple[str, ...]:
        """The ids of the steps that its exits lead to, in order, each once; ends and open exits are left out."""
        return tuple(dict.fromkeys(way.onward for way in self.exits if way.onward))

    @cached_property
    def silent_successors(self) -> tuple[str, ...]:
        """Where a silent caller may come from here."""
        return tuple(dict.fromkeys(way.onward for way in self.exits if way.onward and self.is_silent(way)))

    def is_silent(self, way: Exit) -> bool:
        """Whether a caller leaves by this exit who does nothing and whom nobody answers."""
        return way.id in self.silent

    def exit(self, exit_id: str) -> Exit | None:
        """The exit of this id."""
        return next((way for way in self.exits if way.id == exit_id), None)

    def with_target(self, exit_id: str, target: Target) -> Self:
        """The same step with one exit led elsewhere. Raises KeyError when it has no such exit."""
        if exit_id not in {field for field, _ in self.ways}:
            raise KeyError(exit_id)
        return self.model_copy(update={exit_id: target})

    def _with_branch_led(self, field: str, exit_id: str, target: Target) -> Self | None:
        """The same step with one of its branches led elsewhere; None when it has none of this id."""
        branches = getattr(self, field)
        if all(branch.id != exit_id for branch in branches):
            return None
        led = (one.model_copy(update={"to": target}) if one.id == exit_id else one for one in branches)
        return self.model_copy(update={field: tuple(led)})

    def may_end(self, way: Exit) -> bool:
        """Whether a call may end by this exit with no more words: after something was said, left or talked over."""
        return False

    def is_told(self, way: Exit) -> bool:
        """Whether the step's own row speaks of an exit already, so that it needs none of its own."""
        return False

    def said_of(self, way: Exit) -> str:
        """An exit within a sentence; one that has no name is told by its place."""
        if not way.name.strip():
            return f"branch {[one.id for one in self.exits].index(way.id) + 1} of {self.quoted}"
        return f"{self.quoted}, {way.name},"

    # what it names

    def names(self) -> Iterator[Named]:
        """What the step names outside of its flow."""
        return iter(())

    def renamed(self, to: Renaming) -> Self:
        """The step with what it names under other keys; what is left open is taken out."""
        return self

    def under_names(self, names: Mapping[str, str]) -> Self:
        """The step as it is shown: people and teams under the names that they have now, by key."""
        return self

    # what is said of it

    def plays(self) -> Iterator[Played]:
        """The prompts that a caller may hear, each with its field."""
        return iter(())

    def in_words(self, around: Around) -> str:
        """What happens here, in one short line that goes on from the name."""
        return self.title.lower()

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed | str:
        """The fields of a new step from what stands behind its verb; or a sentence that says what was not understood. Phone
        numbers are read as ones of `country`."""
        return Typed({"name": rest[:60] or cls.title})

    # what is wrong with it

    def slips(self, has: Has) -> Iterator[Slip]:
        """What is wrong with the step by itself."""
        return iter(())

    def without_words(self) -> Iterator[Slip]:
        """Prompts that have no words yet."""
        for one in self.plays():
            if one.prompt.is_empty():
                words = f"{one.called[0].upper()}{one.called[1:]} of {self.quoted} has no words yet."
                yield Slip("no_words", words)

    def unsupported(self) -> Iterator[tuple[str, str]]:
        """What of it cannot be run yet: the field and a sentence."""
        return iter(())


def in_quotes(prompt: Prompt) -> str:
    """A prompt in the line of its step."""
    return f"says “{prompt.say.strip()}”" if not prompt.is_empty() else "says nothing yet"


def first_words(text: str) -> str:
    """A name for a step from its words."""
    words = "".join(one for one in text if one not in '“”"').split()
    return " ".join(words[:4])[:40].rstrip(".,;:?!")
