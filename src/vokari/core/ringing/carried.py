"""People and teams that go with a flow to another client."""

from collections.abc import Iterator, Mapping

from ..flows.document import FlowDocument
from ..flows.steps import HoldLine, Notify, Ring, Step
from ..flows.values import PersonDestination, TeamDestination
from .directory import Person, Team
from .uses import told_instead, uses


def needed(
    document: FlowDocument, people: Mapping[str, Person], teams: Mapping[str, Team]
) -> tuple[dict[str, Person], dict[str, Team]]:
    """Whom a flow rings: the people and teams that it names, the teams behind those, and everybody in them."""
    open_, with_teams, with_people = [use.key for use in uses(document)], dict[str, Team](), dict[str, Person]()
    while open_:
        key = open_.pop()
        if key in people:
            with_people[key] = people[key]
        elif key in teams and key not in with_teams:
            with_teams[key] = teams[key]
            behind = teams[key].then
            open_ += [*(one.person for one in teams[key].members), *([behind] if behind else [])]
    return with_people, with_teams


def hours_of(people: Mapping[str, Person], teams: Mapping[str, Team]) -> Iterator[str]:
    """The keys of the sets of hours that people, phones and members name."""
    for person in people.values():
        yield from (key for key in (person.hours, *(phone.hours for phone in person.phones)) if key)
    for team in teams.values():
        yield from (one.hours for one in team.members if one.hours)


def person_rekeyed(person: Person, keys: Mapping[str, str]) -> Person:
    """The person with hours under other keys."""
    phones = tuple(one.model_copy(update={"hours": _key(one.hours, keys)}) for one in person.phones)
    return person.model_copy(update={"hours": _key(person.hours, keys), "phones": phones})


def team_rekeyed(team: Team, keys: Mapping[str, str]) -> Team:
    """The team with people, teams and hours under other keys."""
    members = tuple(
        one.model_copy(update={"person": keys.get(one.person, one.person), "hours": _key(one.hours, keys)})
        for one in team.members
    )
    rota = team.rota
    if rota is not None:
        swaps = tuple(one.model_copy(update={"person": keys.get(one.person, one.person)}) for one in rota.swaps)
        rota = rota.model_copy(update={"swaps": swaps})
    return team.model_copy(update={"members": members, "rota": rota, "then": _key(team.then, keys)})


def step_rekeyed(step: Step, keys: Mapping[str, str]) -> Step:
    """The step with people and teams under other keys."""
    if isinstance(step, Notify):
        return told_instead(step, keys)
    if isinstance(step, HoldLine):
        return step.model_copy(update={"team": keys.get(step.team, step.team)})
    if not isinstance(step, Ring):
        return step
    to = tuple(
        one.model_copy(update={"person": keys.get(one.person, one.person)})
        if isinstance(one, PersonDestination)
        else one.model_copy(update={"team": keys.get(one.team, one.team)})
        if isinstance(one, TeamDestination)
        else one
        for one in step.to
    )
    return step.model_copy(update={"to": to})


def _key(key: str | None, keys: Mapping[str, str]) -> str | None:
    return keys.get(key, key) if key else None
