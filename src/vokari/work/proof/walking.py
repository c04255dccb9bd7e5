"""Walking a flow and saying what its proof shows, in a process of its own."""

import gc
import pickle
from datetime import datetime
from typing import NamedTuple

from ...core.checks import proof as checks
from ...core.flows.running.flow import Flow
from ...core.proof import stored
from ...core.proof.claims import Claims
from ...core.proof.cover import Covers
from ...core.proof.earlier import Earlier, standing
from ...core.proof.walk import Walk
from ...core.proof.world import AHEAD, World
from ...core.proof.world import Client as Known
from ..house.problems import Row
from .documents import from_rows

MOST = 20_000
"""Situations that are walked at most in one proof."""
SHAPE = 12
"""Counted up when proofs find or keep something else than before: those of before are made again."""


class Walked(NamedTuple):
    """What the proof of a flow shows, as it is kept; since when it was walked, and how many situations were walked `anew`; and what is left for a
    later walk, pickled."""

    document: Row
    since: datetime
    anew: int = 0
    left: bytes | None = None


def walked(raw: Row, inner: dict[str, Row], client: Known, now: datetime) -> Row:
    """What the proof of a flow shows, as it is kept."""
    gc.disable()  # nothing that a walk makes is let go before it is over, and then the process is
    flow = from_rows(raw, inner)
    return _shown(Walk(flow, _ahead(flow, client, now), MOST))


def walked_again(raw: Row, inner: dict[str, Row], client: Known, now: datetime, earlier: bytes | None) -> Walked:
    """The same, from what stands of an earlier walk, which we have pickled ourselves; then of the time since that."""
    gc.disable()
    flow = from_rows(raw, inner)
    before: Earlier | None = pickle.loads(earlier) if earlier else None
    world = _ahead(flow, client, before.since if before else now)
    stands = standing(before, flow, world) if before else None
    if before and stands is None:
        world = _ahead(flow, client, now)
    walk = Walk(flow, world, MOST, standing=stands)
    left = walk.left()
    return Walked(_shown(walk), world.times.since, len(walk.anew), pickle.dumps(left) if left else None)


def _ahead(flow: Flow, client: Known, since: datetime) -> World:
    return World(flow, client, since, since + AHEAD)


def _shown(walk: Walk) -> Row:
    claims = Claims(walk)
    places = {id(one.example): number for number, one in enumerate(claims.ways)}
    findings = [
        {
            "kind": one.finding.kind, "sentence": one.finding.sentence, "step": one.finding.step, "exit": one.finding.exit,
            "weight": one.finding.weight, "end": places.get(id(one.example)) if one.example else None,
            "mends": list(one.finding.mends),
        }
        for one in checks.findings(walk.flow.document, claims)
    ]  # fmt: skip
    found = {**stored.dump_claims(claims), "cover": stored.dump_cover(Covers(walk))}
    return {"shape": SHAPE, "findings": findings, **found}


def not_walked(why: str) -> Row:
    """What is kept of a proof that could not be made."""
    words = "This flow could not be proven: walking it takes more time or memory than there is. What callers meet is not known."
    finding: Row = {
        "kind": "not_walked",
        "sentence": words,
        "step": "",
        "exit": "",
        "weight": "asks",
        "end": None,
        "mends": [],
    }
    return {"shape": SHAPE, "findings": [finding], "ends": [], "unwalked": [why]}
