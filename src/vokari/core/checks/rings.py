"""What is wrong with whom a flow rings: people and teams that are gone, that have no phone, or that go round in a circle."""

from collections.abc import Callable, Collection, Iterator, Mapping
from datetime import date, datetime
from functools import partial

from ..flows.model.document import FlowDocument
from ..flows.model.steps import HoldLine, Notify
from ..numbers import numbering
from ..people.directory import Person, Team
from ..people.line_up import MOST_AT_ONCE, circle
from ..people.uses import uses
from .finding import Finding, sentence


def findings(
    document: FlowDocument,
    people: Mapping[str, Person],
    teams: Mapping[str, Team],
    tracking: Collection[str],
    now: datetime | None,
) -> Iterator[Finding]:
    """One for each slip of each step, in the order of the steps."""
    of_person = partial(_of_person, tracking=tracking, today=now.date() if now else date.max)
    for use in uses(document):
        where = sentence(use.step.called)
        if isinstance(use.step, Notify):
            continue
        if isinstance(use.step, HoldLine) and use.key in people:
            yield Finding("gone", f"{where} holds callers for a person: choose a team.", use.step.id)
            continue
        if use.key in people:
            slips = of_person(people[use.key])
        elif use.key in teams:
            slips = list(_of_team(use.key, people, teams, of_person))
        else:
            slips = [("gone", "rings somebody who is gone")]
        for kind, words in slips:
            yield Finding(kind, f"{where} {words}.", use.step.id)


def _of_person(person: Person, tracking: Collection[str], today: date) -> list[tuple[str, str]]:
    if not person.phones:
        return [("no_phone", f"rings {person.name}, who has no phone")]
    if all(phone.is_aside(today) for phone in person.phones):
        return [("no_phone", f"rings {person.name}, whose phones are all set aside")]
    found = []
    for phone in person.phones:
        if numbering.parted(phone.to)[0] in tracking:
            found.append(("rings_itself", f"rings {person.name} at a tracking number: the call would come round again"))
        elif not phone.to.startswith("sip") and numbering.problem_of(phone.to):
            found.append(("bad_number", f"rings {person.name} at {phone.to}, which is no phone number"))
    return found


def _of_team(
    key: str,
    people: Mapping[str, Person],
    teams: Mapping[str, Team],
    of_person: Callable[[Person], list[tuple[str, str]]],
) -> Iterator[tuple[str, str]]:
    way = circle(key, teams)
    if way:
        names = ", then ".join(teams[one].name for one in [*way, way[0]])
        yield "circle", f"rings teams that go round in a circle: {names}"
        return
    at: str | None = key
    while at is not None:
        team = teams.get(at)
        if team is None:
            yield "gone", f"rings {teams[key].name}, behind which stands a team that is gone"
            return
        members = [people[one.person] for one in team.members if one.person in people]
        if not members:
            yield "empty_team", f"rings the team {team.name}, which has nobody in it"
        for person in members:
            yield from of_person(person)
        if team.strategy == "all_at_once" and len(members) > MOST_AT_ONCE:
            yield (
                "too_many",
                f"rings {len(members)} people at once in {team.name}; the carrier rings at most {MOST_AT_ONCE}",
            )
        at = team.then
