"""What a proof showed as JSON, in the shape in which it is kept: findings, every way of ending, and how long it takes."""

from typing import Any

from ..flows.questions import stored as questions
from ..flows.running import stored as events
from . import told, when
from .claims import Claims, End
from .examples import Example, Happening
from .spans import Span

Row = dict[str, Any]


def dump_example(example: Example) -> Row:
    """An example as JSON-ready values."""
    return {
        "at": example.at.isoformat(), "called": example.number.number if example.number else "",
        "happenings": [
            {"event": events.dump_event(one.event), "seconds": one.seconds, "answers": questions.dump(dict(one.answers))}
            for one in example.happenings
        ],
    }  # fmt: skip


def load_happenings(raw: Row) -> list[Happening]:
    """The happenings that `dump_example` wrote. Raises KeyError or TypeError for anything else."""
    return [
        Happening(events.load_event(one["event"]), float(one["seconds"]), tuple(questions.load(one["answers"]).items()))
        for one in raw["happenings"]
    ]


def dump_claims(claims: Claims) -> Row:
    """What a walk showed, but its findings."""
    longest, step = claims.longest_silence
    return {
        "unwalked": claims.walk.unwalked, "situations": len(claims.walk.situations),
        "until": claims.walk.world.times.until.isoformat(), "ends": [_end(claims, one) for one in claims.ways],
        "until_rung": _span(claims.until_rung), "until_helped": _span(claims.until_helped),
        "silence": {"seconds": longest, "step": step}, "rounds": len(claims.walk.rounds),
    }  # fmt: skip


def _end(claims: Claims, end: End) -> Row:
    times = claims.walk.world.times
    return {
        "fate": end.came.fate, "reason": end.came.reason, "at": end.at, "loss": end.is_loss, "declined": end.came.fate == "lost" and end.declined, "keys": end.keys,
        "when": when.in_words(claims.stretches(end), times.zone, times.since, times.until),
        "steps": told.steps_of(end.example), "example": dump_example(end.example),
    }  # fmt: skip


def _span(span: Span | None) -> list[float] | None:
    return [span.shortest, span.longest] if span else None
