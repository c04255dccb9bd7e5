"""Where flows name people and teams, and flows shown with their names."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ..flows.model.document import FlowDocument
from ..flows.model.steps import HoldLine, Notify, Ring, Step
from ..flows.model.values import PersonDestination, TeamDestination
from .directory import Team


@dataclass(frozen=True, slots=True)
class CalleeUse:
    """A step that rings a person or a team, holds callers for one, or tells a person, by key."""

    key: str
    step: Ring | HoldLine | Notify


def uses(document: FlowDocument) -> Iterator[CalleeUse]:
    """Every place in a flow that names a person or a team."""
    for step in document.steps:
        if isinstance(step, HoldLine) and step.team:
            yield CalleeUse(step.team, step)
        if isinstance(step, Notify):
            yield from (CalleeUse(one.of, step) for one in step.to if one.kind == "person" and one.of)
        if isinstance(step, Ring):
            for one in step.to:
                if isinstance(one, PersonDestination):
                    yield CalleeUse(one.person, step)
                elif isinstance(one, TeamDestination):
                    yield CalleeUse(one.team, step)


def named(document: FlowDocument, names: Mapping[str, str]) -> FlowDocument:
    """The document as it is shown: each person and team under the name that they have now."""
    if not any(True for _ in uses(document)):
        return document
    return document.model_copy(update={"steps": tuple(_named(step, names) for step in document.steps)})


def _named(step: Step, names: Mapping[str, str]) -> Step:
    if isinstance(step, HoldLine) and step.team:
        return step.model_copy(update={"team_name": names.get(step.team, "a team that is gone")})
    if not isinstance(step, Ring):
        return step
    to = tuple(
        one.model_copy(update={"name": names.get(one.person, "somebody who is gone")})
        if isinstance(one, PersonDestination)
        else one.model_copy(update={"name": names.get(one.team, "a team that is gone")})
        if isinstance(one, TeamDestination)
        else one
        for one in step.to
    )
    return step.model_copy(update={"to": to})


def replaced(document: FlowDocument, old: str, new: str) -> list[Step]:
    """The steps that change when one person or team is rung in the place of another; where both stood, one is left."""
    found: list[Step] = []
    for step in document.steps:
        if isinstance(step, HoldLine) and step.team == old:
            found.append(step.model_copy(update={"team": new}))
        if isinstance(step, Notify) and any(one.kind == "person" and one.of == old for one in step.to):
            found.append(told_instead(step, {old: new}))
        if not isinstance(step, Ring):
            continue
        seen: set[str] = set()
        to = []
        for one in step.to:
            if isinstance(one, PersonDestination) and one.person == old:
                one = one.model_copy(update={"person": new})
            elif isinstance(one, TeamDestination) and one.team == old:
                one = one.model_copy(update={"team": new})
            key = (
                one.person
                if isinstance(one, PersonDestination)
                else one.team
                if isinstance(one, TeamDestination)
                else one.id
            )
            if key not in seen:
                to.append(one)
            seen.add(key)
        if tuple(to) != step.to:
            found.append(step.model_copy(update={"to": tuple(to)}))
    return found


def told_instead(step: Notify, keys: Mapping[str, str]) -> Notify:
    """The step with people under other keys, each told once."""
    to = [
        one.model_copy(update={"of": keys.get(one.of or "", one.of)}) if one.kind == "person" else one
        for one in step.to
    ]
    return step.model_copy(update={"to": tuple(dict.fromkeys(to))})


def teams_with(person: str, teams: Mapping[str, Team]) -> list[str]:
    """The keys of the teams that a person is a member of."""
    return [key for key, team in teams.items() if any(member.person == person for member in team.members)]
