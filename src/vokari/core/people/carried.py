"""People and teams that go with a flow to another client."""

from collections.abc import Iterator, Mapping

from ..flows.model.document import FlowDocument
from .directory import Person, Team
from .uses import uses


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
