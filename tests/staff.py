"""People and teams for tests, and a world in which their turns are kept from call to call."""

from collections.abc import Collection
from datetime import UTC, datetime
from typing import Any
from zoneinfo import ZoneInfo

from vokari.core.flows.model.steps import Ring
from vokari.core.flows.questions import kinds as questions
from vokari.core.people.directory import Person, Team
from vokari.core.people.line_up import Around, Turns, rung_now

NEW_YORK = ZoneInfo("America/New_York")
NOON = datetime(2026, 11, 24, 17, tzinfo=UTC)
"""A Tuesday noon in New York."""


def number(n: int) -> str:
    return f"+14105550{160 + n}"


def person(name: str, n: int, **more: Any) -> Person:
    return Person.model_validate({"name": name, "phones": [{"id": "desk", "to": number(n)}], **more})


PEOPLE = {key: person(key.title(), n) for n, key in enumerate(("ada", "ben", "cleo", "dee"))}


def team(*members: str | dict[str, Any], **more: Any) -> Team:
    rows = [one if isinstance(one, dict) else {"person": one} for one in members]
    return Team.model_validate({"name": "Yard", "members": rows, **more})


class World:
    """A client whose turns are kept from call to call."""

    def __init__(self, *, busy: Collection[str] = (), **teams: Team) -> None:
        self.turns: dict[str, Turns] = {}
        self.around = Around(
            NOON, NEW_YORK, {}.get, lambda numbers: set(numbers) & set(busy), dict(PEOPLE), teams,
            turns=lambda key: self.turns.get(key, Turns()), take=self.turns.__setitem__,
        )  # fmt: skip

    def rung(self, step: Ring | None = None, round_: int = 1) -> list[list[str]]:
        return [[one.who for one in wave] for wave in self.answer(step, round_)[0]]

    def answer(self, step: Ring | None = None, round_: int = 1) -> questions.LineUpAnswer:
        return rung_now(step or of_team("yard"), "step", round_, self.around)

    def first(self) -> str:
        return self.rung()[0][0]


def of_team(key: str, **more: Any) -> Ring:
    return Ring.model_validate({"id": "r", "to": [{"kind": "team", "id": "t", "team": key}], **more})
