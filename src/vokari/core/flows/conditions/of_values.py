"""Conditions on what callers typed or a Look-up gave, and those of later."""

from ..model.condition import Condition
from .base import Holds, Looks, Names, Told


class _NotTyped:
    """What cannot be typed yet, and is said by its stored name."""

    runs = False
    merges = False

    def words(self, condition: Condition, names: Names) -> str:
        return condition.test.replace("_", " ")

    def offered(self, names: Names) -> list[str]:
        return []

    def read(self, text: str, names: Names) -> tuple[Condition, int] | str | None:
        return None

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [condition.test]


class KeptValue(_NotTyped):
    """Whether what is kept under a name is one of some texts; not known where nothing is kept."""

    def holds(self, condition: Condition, told: Told) -> Holds:
        value = told.values.get(condition.of or "")
        return None if value is None else value in condition.any_of

    def looks(self, condition: Condition) -> Looks:
        return Looks(values=frozenset((condition.of or "", text) for text in condition.any_of))


class Later(_NotTyped):
    """A test that nothing is known for yet."""

    def holds(self, condition: Condition, told: Told) -> Holds:
        return None

    def looks(self, condition: Condition) -> Looks:
        return Looks()
