"""The kinds of step, by what they do: says, asks, sorts, reaches, keeps, moves, ends.

All kinds of the trade are here, so that later work adds behavior and never reshapes what is stored;
RUNNING says which of them run today. Seconds are whole seconds unless a field says otherwise.
"""

from typing import Annotated, Literal

from pydantic import Field, field_validator

from ...value import Value
from .values import (
    END,
    SAME,
    Accept,
    Condition,
    Destination,
    Hears,
    Key,
    Language,
    Name,
    NotifyTo,
    PhoneKey,
    Prompt,
    Recording,
    StepId,
    StoredName,
    Target,
    Words,
)


class StepBase(Value):
    """What every step has: an id that never changes and a name of its own."""

    id: StepId
    name: Name = ""


class Announcement(StepBase):
    """Says a prompt a number of times. A notice is heard to the end; `counts_as` gives the caller a fate."""

    kind: Literal["announcement"] = "announcement"
    prompt: Prompt = Prompt()
    times: int = Field(default=1, ge=1, le=10)
    notice: bool = False
    counts_as: Literal["nothing", "served", "turned_away"] = "nothing"
    next: Target = None


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
    """Asks for a key. `wait` runs after the prompt, `inter_digit` between digits of a longer key."""

    kind: Literal["menu"] = "menu"
    prompt: Prompt = Prompt()
    wait: int = Field(default=5, ge=1, le=30)
    tries: int = Field(default=2, ge=1, le=9)
    inter_digit: int = Field(default=2, ge=1, le=10)
    retry_silent: Prompt | None = None
    retry_wrong: Prompt | None = None
    branches: tuple[Branch, ...] = Field(default=(), max_length=60)
    dial_extensions: bool = False
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


class KeypadEntry(StepBase):
    """Asks for digits of a length and keeps them under `store_as`."""

    kind: Literal["keypad_entry"] = "keypad_entry"
    prompt: Prompt = Prompt()
    shortest: int = Field(default=1, ge=1, le=32)
    longest: int = Field(default=5, ge=1, le=32)
    wait: int = Field(default=5, ge=1, le=30)
    tries: int = Field(default=2, ge=1, le=9)
    inter_digit: int = Field(default=3, ge=1, le=10)
    retry_silent: Prompt | None = None
    retry_wrong: Prompt | None = None
    store_as: StoredName = "entry"
    typed: Target = None
    nothing: Target = None
    wrong: Target = None


class LookUp(StepBase):
    """Asks a client's own system over HTTP and keeps the answer under `store_as`."""

    kind: Literal["look_up"] = "look_up"
    url: str = ""
    send: tuple[str, ...] = ()
    store_as: StoredName = "answer"
    patience: int = Field(default=5, ge=1, le=20)
    found: Target = None
    not_found: Target = None
    failed: Target = None


class Sorting(Value):
    """One branch of a Junction, taken when its condition is the first that holds. Without a name it is called by it."""

    id: StepId
    name: Name = ""
    when: Condition
    to: Target = None


class Junction(StepBase):
    """Sorts callers by conditions in order; `otherwise` takes the rest."""

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


class LastSpoke(Value):
    """Try first whom this caller spoke with last, if that was within so many days."""

    days: int = Field(default=90, ge=1, le=3660)


class Ring(StepBase):
    """Reaches people at phones, by a strategy. `busy`, `unreachable` and `nobody` may go where `no_answer` goes."""

    kind: Literal["ring"] = "ring"
    to: tuple[Destination, ...] = Field(default=(), max_length=20)
    strategy: Literal["all_at_once", "in_order", "round_robin", "weighted_share", "random", "longest_idle", "rota"] = (
        "in_order"
    )
    rounds: int = Field(default=1, ge=1, le=10)
    limit: int | None = Field(default=None, ge=5, le=600)
    last_spoke: LastSpoke | None = None
    shows: Literal["caller", "tracking_number"] = "caller"
    hears: Hears = Hears()
    accept: Accept | None = None
    machine_detection: bool = False
    recording: Recording = Recording()
    hold_sound: Prompt | None = None
    after: Target = END
    no_answer: Target = None
    busy: Target = SAME
    unreachable: Target = SAME
    nobody: Target = SAME


class HoldLine(StepBase):
    """Callers wait in order of arrival for the next free person of a team. Position and wait are said when the caller
    comes, then every so many seconds (`announce_every`; None: not again)."""

    kind: Literal["hold_line"] = "hold_line"
    team: str = ""
    team_name: Name = ""
    longest_wait: int = Field(default=300, ge=10, le=7200)
    most_callers: int = Field(default=20, ge=1, le=500)
    announce_every: int | None = Field(default=60, ge=15, le=600)
    says_position: bool = True
    says_wait: bool = True
    music: Prompt | None = None
    leave_key: PhoneKey | None = None
    shows: Literal["caller", "tracking_number"] = "caller"
    accept: Accept | None = None
    machine_detection: bool = False
    hears: Hears = Hears()
    recording: Recording = Recording()
    after: Target = END
    waited: Target = None
    full: Target = None
    left: Target = None
    nobody: Target = None


class Voicemail(StepBase):
    """Keeps a message in a mailbox. `stop_silence` is the silence in seconds that ends the recording."""

    kind: Literal["voicemail"] = "voicemail"
    mailbox: str | None = None
    greeting: Prompt = Prompt()
    beep: bool = True
    longest: int = Field(default=120, ge=5, le=600)
    stop_key: PhoneKey | None = "#"
    stop_silence: int | None = Field(default=5, ge=2, le=30)
    message_left: Target = None
    no_message: Target = None


class Label(StepBase):
    """Puts words on the call, and a lead status if one is given."""

    kind: Literal["label"] = "label"
    labels: tuple[Annotated[str, Field(min_length=1, max_length=40)], ...] = Field(default=(), max_length=10)
    lead_status: str | None = None
    next: Target = None


class Notify(StepBase):
    """Tells people, groups or the caller by email, text message, task or HTTP call."""

    kind: Literal["notify"] = "notify"
    to: tuple[NotifyTo, ...] = Field(default=(), max_length=50)
    by: Literal["email", "text", "task", "http"] = "email"
    words: Words = ""
    next: Target = None


class ComingBack(Value):
    """What happens when the inner flow comes back by the way of this name."""

    id: StepId
    name: Name
    to: Target = None


class ContinueIn(StepBase):
    """Runs another flow of the client and goes on by the name of the Come back that ended it."""

    kind: Literal["continue_in"] = "continue_in"
    flow: str = ""
    returns: tuple[ComingBack, ...] = ()


class BackTo(StepBase):
    """Goes back to an earlier step of the same flow."""

    kind: Literal["back_to"] = "back_to"
    to: Target = None


class HangUp(StepBase):
    """Ends the call after its words. `refusal` counts the caller as turned away."""

    kind: Literal["hang_up"] = "hang_up"
    prompt: Prompt = Prompt()
    refusal: bool = False


class ComeBack(StepBase):
    """Ends a flow inside a flow, by a way that has a name outside."""

    kind: Literal["come_back"] = "come_back"
    way: Name = ""


Step = Annotated[
    Announcement | Menu | KeypadEntry | LookUp | Junction | Ring | HoldLine | Voicemail | Label | Notify
    | ContinueIn | BackTo | HangUp | ComeBack,
    Field(discriminator="kind"),
]  # fmt: skip

RUNNING = (
    "announcement",
    "menu",
    "junction",
    "ring",
    "hold_line",
    "voicemail",
    "label",
    "notify",
    "look_up",
    "back_to",
    "hang_up",
)
"""The kinds of step that can be added today, in the order in which they are offered."""

KIND_NAMES = {
    "announcement": "Announcement", "menu": "Menu", "keypad_entry": "Keypad entry", "look_up": "Look-up",
    "junction": "Junction", "ring": "Ring", "hold_line": "Hold line", "voicemail": "Voicemail", "label": "Label",
    "notify": "Notify", "continue_in": "Continue in", "back_to": "Back to", "hang_up": "Hang up",
    "come_back": "Come back",
}  # fmt: skip


BY = {"email": "by email", "text": "by text message"}
"""The ways of a Notify step that run today."""


def prompts_of(step: Step) -> list[tuple[str, Prompt]]:
    """The prompts of a step that runs today, each with the field that holds it."""
    if isinstance(step, Announcement | HangUp):
        return [("prompt", step.prompt)]
    if isinstance(step, Voicemail):
        return [("greeting", step.greeting)]
    if isinstance(step, HoldLine):
        return [("music", step.music)] if step.music else []
    if isinstance(step, Ring):
        return [("hold_sound", step.hold_sound)] if step.hold_sound else []
    if isinstance(step, Menu):
        retries = [("retry_silent", step.retry_silent), ("retry_wrong", step.retry_wrong)]
        return [("prompt", step.prompt), *[(field, prompt) for field, prompt in retries if prompt]]
    return []
