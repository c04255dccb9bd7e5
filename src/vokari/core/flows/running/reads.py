"""What the steps of a flow can tell apart: entries that later conditions look for, and keys that were pressed early.

Situations that no later step tells apart are one. So a walk over all ways of a call stays small, and is still complete.
"""

from collections.abc import Callable, Iterable, Mapping
from functools import cached_property

from ..conditions.tests import looks
from ..model.steps import Announcement, AnyStep, HangUp, HoldLine, Junction, KeypadEntry, LookUp, Menu, Ring, Voicemail
from ..model.values import EXTENSION, DialedDestination, Target
from ..model.walks import reached_from
from ..questions.kinds import SOME_EXTENSION
from .steps.menu_keys import key_table, read_key

DROPS_KEYS = (Ring, HoldLine, Voicemail, HangUp)
"""Kinds at which keys that were pressed before are gone."""
ASKS = (Menu, KeypadEntry)
Values = frozenset[tuple[str, str]]


class Reads:
    """Worked out once a flow, each part when it is first asked for."""

    def __init__(
        self, steps: Mapping[str, AnyStep], onward: Callable[[AnyStep], Iterable[str]], rescue: Callable[[str], Target]
    ) -> None:
        """The steps by id, where any caller may come from one, and the rescue of the flow that one is in."""
        self.steps, self.onward, self.rescue = steps, onward, rescue
        self._askers: dict[str, tuple[Menu | KeypadEntry, ...]] = {}

    # kept values

    @cached_property
    def _values(self) -> dict[str, Values]:
        """For each step the values, as name and text, that it or a later step looks for. A rescue is later than all of its flow."""
        found = {step_id: _looked_for(step) for step_id, step in self.steps.items()}
        changed = True
        while changed:
            changed = False
            for step in reversed(list(self.steps.values())):
                later = found[step.id].union(*(found[onward] for onward in self._later(step)))
                if later != found[step.id]:
                    found[step.id], changed = later, True
        return found

    def values_from(self, step_id: str) -> Values:
        """The values that this step or a later one looks for."""
        return self._values.get(step_id, frozenset())

    def entries(self, here: KeypadEntry) -> list[str]:
        """The entries of a step that some later condition looks for and that can be typed."""
        wanted = {text for name, text in self.values_from(here.id) if name == here.store_as}
        return sorted(text for text in wanted if text.isdigit() and here.shortest <= len(text) <= here.longest)

    # keys pressed early

    def kept(self, step_id: str, kept: str) -> str:
        """The keys kept at a step as far as they make a difference: those that some step can still use, and keys that no step
        tells apart as one."""
        here = self.steps.get(step_id)
        if not kept or not isinstance(here, Announcement | LookUp):
            return ""
        used, _ = self._used(here, kept)
        telling, other = self._alphabet(here)
        return "".join(key if key in telling or not other else other for key in kept[:used])

    def keys_to_keep(self, here: Announcement, kept: str) -> list[str]:
        """The keys that make a difference when they are kept after those that are: none where nobody would use one more."""
        _, hungry = self._used(here, kept)
        if not hungry:
            return []
        telling, other = self._alphabet(here)
        return [*sorted(telling), *([other] if other else [])]

    def _alphabet(self, here: AnyStep) -> tuple[set[str], str]:
        """The keys that steps which may use them tell apart, and one for all others (empty: there are no others)."""
        telling = set("#*")
        for asker in self._asking_after(here):
            if isinstance(asker, Menu):
                telling |= {key for branch in asker.branches for key in branch.keys}
                telling |= set(SOME_EXTENSION) if asker.dial_extensions else set()
            else:
                telling |= {key for entry in self.entries(asker) for key in entry}
        return telling, next((key for key in "9876543210" if key not in telling), "")

    def _asking_after(self, here: AnyStep) -> tuple[Menu | KeypadEntry, ...]:
        """The steps that may use keys which are kept here."""
        if here.id not in self._askers:
            after = reached_from(self.steps, self._onward(here), self._onward)
            self._askers[here.id] = tuple(step for one in after if isinstance(step := self.steps[one], ASKS))
        return self._askers[here.id]

    def _onward(self, step: AnyStep) -> list[str]:
        """Where keys that are kept go on to; an exit that leads nowhere leads to the rescue."""
        return [] if isinstance(step, DROPS_KEYS) else self._later(step)

    def _later(self, step: AnyStep) -> list[str]:
        rescue = self.rescue(step.id)
        return [*self.onward(step), *([rescue] if rescue else [])]

    def _used(self, here: AnyStep, kept: str) -> tuple[int, bool]:
        """How many of some keys can be used by what follows a step, and whether one more would be."""
        used, hungry = 0, False
        seen: set[tuple[str, int]] = set()
        todo = [(step_id, 0) for step_id in self._onward(here)]
        while todo:
            at = todo.pop()
            step = self.steps.get(at[0])
            if at in seen or step is None or isinstance(step, DROPS_KEYS):
                continue
            seen.add(at)
            if not isinstance(step, ASKS):
                todo += [(onward, at[1]) for onward in self._onward(step)]
                continue
            way, target, reached = _asked(step, kept, at[1])
            used = max(used, reached)
            hungry = hungry or way == "waits"
            if way == "leaves" and (onward := target or self.rescue(step.id)):
                todo.append((onward, reached))
        return used, hungry


def _looked_for(step: AnyStep) -> Values:
    if isinstance(step, Ring) and any(isinstance(one, DialedDestination) for one in step.to):
        return frozenset({(EXTENSION, SOME_EXTENSION)})
    if not isinstance(step, Junction):
        return frozenset()
    return frozenset[tuple[str, str]]().union(*(looks(branch.when).values for branch in step.branches))


def _asked(step: Menu | KeypadEntry, kept: str, at: int) -> tuple[str, Target, int]:
    """What becomes of keys from a place on at a step that asks: it "waits" for more, or "leaves" for a target; and how many are
    used by then."""
    tries, pending = 0, ""
    for place in range(at, len(kept)):
        outcome, target, pending = _pressed(step, pending, kept[place])
        if outcome == "wrong":
            tries += 1
            if tries >= step.tries:
                return "leaves", target, place + 1
        elif outcome == "taken":
            return "leaves", target, place + 1
    return "waits", None, len(kept)


def _pressed(step: Menu | KeypadEntry, pending: str, key: str) -> tuple[str, Target, str]:
    """One key: "more" with what is pending then, "taken" or "wrong" with the exit's target."""
    if isinstance(step, Menu):
        table = key_table(step, (SOME_EXTENSION,))
        reading = read_key(table, pending, key)
        if reading.kind == "more":
            return "more", None, reading.pending
        branch = reading.branch
        if reading.extension:
            return "taken", step.extension, ""
        if branch is None:
            return "wrong", step.wrong, ""
        return ("more", None, "") if branch.hear_again else ("taken", branch.to, "")
    if key == "*":
        return "wrong", step.wrong, ""
    entry = pending if key == "#" else pending + key
    if key != "#" and len(entry) < step.longest:
        return "more", None, entry
    if len(entry) < step.shortest:
        return "wrong", step.wrong if entry else step.nothing, ""
    return "taken", step.typed, ""
