"""What the engine must be told from outside. Each question is a frozen value with finitely many answers."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import combinations, product
from typing import Any, Literal

Availability = Literal["free", "on_call", "off"]
AVAILABILITIES: tuple[Availability, ...] = ("free", "on_call", "off")
WhoIsFreeAnswer = tuple[Availability, ...]


@dataclass(frozen=True, slots=True)
class WhoIsFree:
    """For each destination about to be rung: free, on another call, or off duty. One entry a destination."""

    step: str
    round: int
    destinations: tuple[str, ...]

    def answers(self) -> Iterator[WhoIsFreeAnswer]:
        """Every answer there is."""
        return product(AVAILABILITIES, repeat=len(self.destinations))

    def classes(self) -> list[WhoIsFreeAnswer]:
        """One answer of each class that makes a difference to the exits: which states occur at all."""
        found: list[WhoIsFreeAnswer] = []
        for size in range(1, min(len(self.destinations), len(AVAILABILITIES)) + 1):
            for states in combinations(AVAILABILITIES, size):
                padding: WhoIsFreeAnswer = (states[-1],) * (len(self.destinations) - size)
                found.append(states + padding)
        return found

    def fits(self, answer: object) -> bool:
        """Whether a value is one of the answers."""
        return (
            isinstance(answer, tuple)
            and len(answer) == len(self.destinations)
            and all(state in AVAILABILITIES for state in answer)
        )


Question = WhoIsFree
Answer = WhoIsFreeAnswer
Answers = dict[Question, Answer]
AnswerSource = Callable[[Question], Answer]


def everyone_free(question: Question) -> Answer:
    """The answer of a world in which every phone is free."""
    free: Availability = "free"
    return (free,) * len(question.destinations)


def dump(answers: Answers) -> list[dict[str, Any]]:
    """The answers as JSON-ready values, as the log of a call keeps them."""
    return [
        {
            "ask": "who_is_free",
            "step": q.step,
            "round": q.round,
            "destinations": list(q.destinations),
            "answer": list(a),
        }
        for q, a in answers.items()
    ]


def load(raw: list[dict[str, Any]]) -> Answers:
    """The answers that `dump` wrote."""
    return {WhoIsFree(one["step"], one["round"], tuple(one["destinations"])): tuple(one["answer"]) for one in raw}
