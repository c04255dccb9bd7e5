"""Where flows name people and teams, and flows shown with their names."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ..flows.model.document import FlowDocument
from ..flows.model.exits import NamedKind
from ..flows.model.steps import AnyStep
from ..flows.model.walks import names_in
from .directory import Team


@dataclass(frozen=True, slots=True)
class CalleeUse:
    """A step that rings a person or a team, holds callers for one, or tells a person, by key."""

    key: str
    step: AnyStep


def uses(document: FlowDocument) -> Iterator[CalleeUse]:
    """Every place in a flow that names a person or a team."""
    for step in document.steps:
        for named in step.names():
            if named.kind in ("person", "team"):
                yield CalleeUse(named.key, step)


def named(document: FlowDocument, names: Mapping[str, str]) -> FlowDocument:
    """The document as it is shown: each person, team and inner flow under the name that they have now."""
    if not any(True for _ in names_in(document, "person", "team", "flow")):
        return document
    return document.with_steps(tuple(step.under_names(names) for step in document.steps))


def replaced(document: FlowDocument, old: str, new: str) -> list[AnyStep]:
    """The steps that change when one person or team is rung in the place of another; where both stood, one is left."""

    def other(kind: NamedKind, key: str) -> str:
        return new if kind in ("person", "team") and key == old else key

    naming = dict.fromkeys(use.step.id for use in uses(document) if use.key == old)
    return [document.by_id[step_id].renamed(other) for step_id in naming]


def teams_with(person: str, teams: Mapping[str, Team]) -> list[str]:
    """The keys of the teams that a person is a member of."""
    return [key for key, team in teams.items() if any(member.person == person for member in team.members)]
