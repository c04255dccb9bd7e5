"""What is wrong with a live flow although nothing in it is: phones that do not answer, everybody of a step switched off for days, numbers gone."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from ..flows.model.document import FlowDocument
from ..flows.model.steps import HoldLine, Ring
from ..people.directory import Team
from ..people.uses import uses
from .finding import Finding

MISSED = 3
"""So many rings in a row that nobody answered make a person worth a look."""
OFF_FOR = timedelta(days=3)
"""Who is switched off for so long has not only gone home for a weekend."""
KINDS = ("never_answers", "switched_off", "no_number")


@dataclass(frozen=True, slots=True)
class AtWork:
    """How it goes with a person: the name, how many rings in a row nobody answered, as far as they are on, and since when they are switched off (None:
    they are on, or nobody knows since when)."""

    name: str
    missed: int = 0
    off_since: datetime | None = None


def findings(
    document: FlowDocument, people: Mapping[str, AtWork], teams: Mapping[str, Team], *, led_to: bool, now: datetime
) -> Iterator[Finding]:
    """At the first step that rings them; `led_to` says whether a number or a live flow leads to this one."""
    if not led_to:
        yield Finding("no_number", "No number leads to this live flow: nobody can call it.", weight="asks")
    rung: dict[str, list[str]] = {}
    for use in uses(document):
        if isinstance(use.step, Ring | HoldLine):
            members = _members(use.key, teams) if use.key in teams else [use.key]
            rung.setdefault(use.step.id, []).extend(one for one in members if one in people)
    told: set[str] = set()
    for id_, keys in rung.items():
        step, some = document.by_id[id_], list(dict.fromkeys(keys))
        silent = [one for one in some if people[one].missed >= MISSED and one not in told]
        told.update(silent)
        if silent:
            names = " and ".join(
                f"{people[one].name}, whose phone has not answered {people[one].missed} times in a row"
                for one in silent
            )
            words = f"{step.begins} rings {names}."
            yield Finding("never_answers", words, id_, weight="asks")
        only = not isinstance(step, Ring) or all(one.kind in ("person", "team") for one in step.to)
        since = [people[one].off_since for one in some]
        if some and only and all(one is not None and now - one >= OFF_FOR for one in since):
            names = " and ".join(people[one].name for one in some)
            words = f"{step.begins} reaches nobody: {names} {'is' if len(some) == 1 else 'are'} switched off, for three days or more."
            yield Finding("switched_off", words, id_, weight="asks")


def _members(key: str, teams: Mapping[str, Team]) -> list[str]:
    """The people of a team and of those that stand behind it."""
    found: list[str] = []
    seen: set[str] = set()
    at: str | None = key
    while at is not None and at in teams and at not in seen:
        seen.add(at)
        found += [one.person for one in teams[at].members]
        at = teams[at].then
    return found
