"""Questions and their answers as JSON, in the shape in which the log of a call keeps them."""

from collections.abc import Sequence
from dataclasses import asdict, fields
from typing import Any, get_args

from .kinds import Answer, Answers, HoldTurn, LineUp, Question, Rung

NAMES: dict[type[Question], str] = {
    kind: "".join(f"_{one.lower()}" if one.isupper() else one for one in kind.__name__).lstrip("_")
    for kind in get_args(Question)
}
"""Each kind by the name it has in a log: LineUp is line_up."""
_KINDS = {name: kind for kind, name in NAMES.items()}


def dump(answers: Answers) -> list[dict[str, Any]]:
    """The answers as JSON-ready values: the name of the question under `ask`, its fields, and `answer`."""
    return [
        {"ask": NAMES[type(asked)], **_fields(asked), "answer": _dumped(answer)} for asked, answer in answers.items()
    ]


def load(raw: list[dict[str, Any]]) -> Answers:
    """The answers that `dump` wrote, also after a way through JSON. Raises KeyError or TypeError for anything else."""
    return {_question(one): _answer(one["ask"], one["answer"]) for one in raw}


def _fields(asked: Question) -> dict[str, Any]:
    return {field.name: _dumped(getattr(asked, field.name)) for field in fields(asked)}


def _dumped(value: Any) -> Any:
    """Tuples as lists and phones as objects, at any depth."""
    if isinstance(value, Rung):
        return asdict(value)
    return [_dumped(one) for one in value] if isinstance(value, tuple) else value


def _question(raw: dict[str, Any]) -> Question:
    """The question; one that asked of so many calls in a hundred did not say who took the call."""
    kind = _KINDS[raw["ask"]]
    known = {name: value for name, value in raw.items() if name not in ("ask", "answer")}
    if known.pop("in_hundred", None) is not None:
        known["who"] = ""
    for name in ("destinations", "ranges", "weeks", "came_to", "people", "any_of", "bounds", "fields"):
        if name in known:
            known[name] = tuple(known[name])
    if "phones" in known:
        known["phones"] = _wave(known["phones"])
    return kind(**known)


def _answer(ask: str, raw: Any) -> Answer:
    kind = _KINDS[ask]
    if kind is LineUp:
        waves, states, more = raw
        return (tuple(map(_wave, waves)), tuple(states), more)
    if kind is HoldTurn:
        what, place, seconds, waves = raw
        return (what, place, seconds, tuple(map(_wave, waves)))
    return tuple(raw) if isinstance(raw, list) else raw


def _wave(raw: Sequence[dict[str, Any]]) -> tuple[Rung, ...]:
    return tuple(Rung(**one) for one in raw)
