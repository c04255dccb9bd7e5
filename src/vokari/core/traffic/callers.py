"""Made-up callers and phones for the simulator, drawn from a seeded generator that is passed in."""

from dataclasses import dataclass
from random import Random

from ..flows.model.steps import KeypadEntry, Menu
from ..flows.model.values import POSTAL_CODE
from ..flows.running.commands import Command, Connect, Hold, Listen, Play, Record, RingLeg
from ..flows.running.flow import Flow
from ..flows.running.state import State
from ..places import gazetteer
from ..places.whereabouts import Whereabouts
from .line import Message, Phone


@dataclass(frozen=True, slots=True)
class PhoneHabit:
    """How the people behind a number behave: the chance that one picks up in and out of working hours, the usual
    seconds until then, the mean length of a talk, and whether an own mailbox picks up when nobody does."""

    open_chance: float = 0.8
    closed_chance: float = 0.05
    picks_up_after: float = 8.0
    talk: float = 140.0
    own_mailbox_after: float | None = None


class MadeUpCaller:
    """A caller who listens, presses a likely key, types their postal code where they are asked for one, waits so long and no longer, and
    may leave a message."""

    def __init__(self, random: Random, flow: Flow, code: str = "") -> None:
        self.random = random
        self.flow = flow
        self.code = code
        self.patience = random.expovariate(1 / 140) + 25
        self.hangs_up: float | None = self.patience + 60
        self.silent = random.random() < 0.07
        self.clumsy = random.random() < 0.05
        self.satisfied = random.random() < 0.85
        self.waits = False
        leaves = random.random() < 0.62
        self.message = Message(
            voice=round(random.uniform(5, 38), 1) if leaves else round(random.uniform(0, 1.5), 1),
            then=random.choice(("hang_up", "hang_up", "hang_up", "key", "silence")),
        )
        if random.random() < 0.035:
            self.hangs_up = round(random.uniform(1.0, 4.5), 1)

    def hears(self, command: Play | Listen | Hold, now: float, seconds: float, state: State) -> list[tuple[float, str]]:
        """Presses keys for a menu's prompt: late in the prompt, or soon after it when it was heard to the end."""
        here = self.flow.steps.get(state.at)
        if isinstance(command, Hold):
            return []
        if state.said == "served" and self.satisfied:
            self.hangs_up = now + self.random.uniform(0.5, 4.0)
            return []
        if isinstance(here, KeypadEntry) and isinstance(command, Play) and not self.silent:
            return self._types(here, seconds)
        if not isinstance(here, Menu) or not isinstance(command, Play) or self.silent or not here.branches:
            return []
        if self.clumsy:
            self.clumsy = False
            return [(seconds * 0.9, self.random.choice("789#"))]
        keys = self.choose(here)
        delay = seconds * self.random.uniform(0.35, 1.0) + self.random.uniform(0.2, 1.6)
        pressed = []
        for key in keys:
            pressed.append((round(delay, 2), key))
            delay += self.random.uniform(0.3, 0.9)
        return pressed

    def _types(self, here: KeypadEntry, seconds: float) -> list[tuple[float, str]]:
        """The digits of an entry, one after the other, once it was said what is wanted."""
        length = self.random.randint(here.shortest, here.longest)
        made_up = "".join(self.random.choice("0123456789") for _ in range(length))
        entry = self.code if here.store_as == POSTAL_CODE and self.code else made_up
        entry += "#" if len(entry) < here.longest else ""
        delay = seconds * self.random.uniform(0.7, 1.0) + 0.8
        return [(round(delay + n * self.random.uniform(0.4, 0.7), 2), digit) for n, digit in enumerate(entry)]

    def choose(self, menu: Menu) -> str:
        """The first branches are what most call for; keys printed elsewhere, hear again and a way back are rare."""
        weights = []
        for index, branch in enumerate(menu.branches):
            rare = branch.elsewhere or branch.hear_again or branch.keys in ("*", "0", "9")
            weights.append(0.25 if rare and not branch.source else 1.6 / (1 + 0.6 * index))
        chosen: str = self.random.choices([branch.keys for branch in menu.branches], weights)[0]
        return chosen

    def meets(self, command: Command, now: float) -> None:
        """Patience starts afresh when phones ring, and when a wait begins; being spoken to, or speaking after the tone,
        has its own end."""
        match command:
            case Hold():
                if not self.waits:
                    self.hangs_up = now + 2 * self.patience
                self.waits = True
            case RingLeg() if not self.waits:
                self.hangs_up = now + self.patience
            case Connect() | Record():
                self.hangs_up, self.waits = None, False


def phone_now(random: Random, habit: PhoneHabit, *, working: bool) -> Phone:
    """What one phone does on one call."""
    talk = round(min(1500.0, random.expovariate(1 / habit.talk) + 15), 1)
    draw = random.random()
    if draw < (habit.open_chance if working else habit.closed_chance):
        after = round(max(1.5, random.gauss(habit.picks_up_after, habit.picks_up_after / 3)), 1)
        return Phone("answers", after, talk, accepts=random.random() < 0.97)
    if random.random() < 0.05:
        return Phone("busy")
    if random.random() < 0.03:
        return Phone("unreachable")
    if random.random() < 0.05:
        return Phone("declines", round(random.uniform(3, 10), 1))
    if habit.own_mailbox_after is not None:
        return Phone("mailbox", habit.own_mailbox_after, round(random.uniform(8, 30), 1))
    return Phone("rings_out")


def code_of(number: str, where: Whereabouts | None) -> str:
    """The postal code at which somebody with a number lives: one of its area code, the same each time; empty where none is known."""
    place = gazetteer.number_place(number) if number and where else None
    if where is None or place is None:
        return ""
    codes = [one.code for one in gazetteer.by_area_code().get(place.area_code, ())] if where.country == "US" else []
    codes = codes or [one.code for one in where.places.codes]
    return codes[int(number[-4:]) * 7919 % len(codes)] if codes else ""
