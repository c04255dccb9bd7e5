"""Consents: what findings that ask for a word were answered with, kept with each version for as long as they stand."""

from collections.abc import Sequence
from datetime import datetime

from ...core.checks.finding import Finding
from ..house.problems import Row

LONGEST_WHY = 300


def missing(asked: Sequence[Finding], given: Sequence[Row]) -> list[Finding]:
    """Those findings that nobody has answered yet."""
    known = {_of_row(one) for one in given}
    return [one for one in asked if _of(one) not in known]


def kept(asked: Sequence[Finding], given: Sequence[Row], why: str, by: str, at: datetime) -> list[Row]:
    """The consents that a version is kept with: those given before for what still stands, and the new word for the rest."""
    new = {
        _of(one): {
            "kind": one.kind, "step": one.step, "exit": one.exit, "sentence": one.sentence, "why": " ".join(why.split())[:LONGEST_WHY],
            "by": by, "at": at.isoformat(),
        }
        for one in asked
    }  # fmt: skip
    return list((new | {_of_row(one): dict(one) for one in given if _of_row(one) in new}).values())


def _of(finding: Finding) -> tuple[str, ...]:
    return finding.kind, finding.step, finding.exit, finding.sentence


def _of_row(row: Row) -> tuple[str, ...]:
    return row["kind"], row["step"], row["exit"], row["sentence"]
