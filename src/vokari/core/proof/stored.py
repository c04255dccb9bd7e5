"""What a proof showed as JSON, in the shape in which it is kept: findings, every way of ending, and how long it takes."""

from datetime import timedelta
from typing import Any

from ..flows.questions import stored as questions
from ..flows.running import stored as events
from ..hours.document import CLOSED
from . import told
from .claims import Claims, End
from .cover import Covered, Covers
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
        "partly": [{"step": one.step, "never": one.never} for one in claims.partly], "longest": claims.walk.world.longest.total_seconds(),
    }  # fmt: skip


def _end(claims: Claims, end: End) -> Row:
    return {
        "fate": end.came.fate, "reason": end.came.reason, "at": end.at, "loss": end.is_loss, "declined": end.came.fate == "lost" and end.declined, "keys": end.keys,
        "when": claims.when(end), "only_to": list(claims.only_to(end)),
        "steps": told.steps_of(end.example), "example": dump_example(end.example),
    }  # fmt: skip


def _span(span: Span | None) -> list[float] | None:
    return [span.shortest, span.longest] if span else None


AHEAD = timedelta(days=15)
"""For how long the cover is kept by the quarter hour; of the time after it the exceptional days are."""


def dump_cover(covers: Covers) -> Row:
    """Who would be rung when and the fate if nobody answers: `strip` and the stretches of `exceptions` are [since, until, place in `who`, fate]."""
    since = covers.walk.world.times.since
    who: dict[tuple[str, ...], int] = {}

    def covered(one: Covered) -> list[Any]:
        return [one.since.isoformat(), one.until.isoformat(), who.setdefault(one.cover.who, len(who)), one.cover.fate]

    return {
        "strip": [covered(one) for one in covers.between(since, since + AHEAD)],
        "exceptions": [
            {"days": [day.isoformat() for day in one.days], "name": one.name, "stretches": [covered(part) for part in one.stretches]} for one in covers.exceptions
        ],
        "hours": covers.hours, "periods": sorted(covers.periods, key=lambda one: one == CLOSED),
        "lines": [
            {
                "menu": one.menu, "keys": one.keys, "name": one.name, "to": one.to,
                "cells": {period: [who.setdefault(cell.who, len(who)), cell.fate] for period, cell in one.cells.items()}, "unasked": sorted(one.unasked),
            }
            for one in covers.lines
        ],
        "who": list(who),
    }  # fmt: skip
