"""What a flow file names outside of itself, and the flow once each of these is matched at a client, made, or left open."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ..core.flows.model.document import FlowDocument
from ..core.flows.model.exits import Named, NamedKind
from ..core.flows.model.steps import AnyStep
from ..core.people.carried import hours_of
from ..core.people.directory import Person, Team
from ..core.places.document import Area
from ..core.places.typed import written_where
from .flow_file import FlowFile

Kind = NamedKind
KINDS: dict[Kind, str] = {
    "person": "person", "team": "team", "hours": "hours", "mailbox": "mailbox", "source": "lead source", "phone": "phone",
    "address": "address", "flow": "flow", "place": "place", "area": "area served",
}  # fmt: skip
MADE: tuple[Kind, ...] = ("person", "team", "hours", "mailbox", "source", "flow", "place", "area")
"""The kinds of which a client has its own; phones and addresses stand in the flow itself."""


@dataclass(frozen=True, slots=True)
class Thing:
    """Something that a file names: of which kind, the key it is named with (a phone or address itself), what it is called, what
    the file says of it, and whether the file brings it along."""

    kind: Kind
    key: str
    name: str
    says: str = ""
    brought: bool = True

    @property
    def id(self) -> str:
        return f"{self.kind}:{self.key}"


def things(file: FlowFile) -> list[Thing]:
    """Everything that a file names, each once: people, teams, hours, mailboxes and lead sources, with those that the flow asks
    for and the file lacks, then the phones and addresses in the flow's own steps."""
    found: dict[str, Thing] = {}
    phones = (one for flow in (file.flow, *file.materials.flows.values()) for one in _own(flow))
    for one in (*_materials(file), *_lacking(file), *phones):
        found.setdefault(one.id, one)
    return list(found.values())


def _materials(file: FlowFile) -> Iterator[Thing]:
    brought = file.materials
    for key, person in brought.people.items():
        said = [*(phone.to for phone in person.phones), *([person.email] if person.email else [])]
        yield Thing("person", key, person.name, ", ".join(said) or "without a phone")
    for key, team in brought.teams.items():
        names = [brought.people[one.person].name for one in team.members if one.person in brought.people]
        yield Thing("team", key, team.name, ", ".join(names) or "nobody in it")
    for key, hours in brought.hours.items():
        yield Thing("hours", key, hours.name, ", ".join(one.name for one in hours.periods))
    for key, box in brought.mailboxes.items():
        yield Thing("mailbox", key, box.name, f"tells {', '.join(box.tell)}" if box.tell else "tells nobody")
    for key, source in brought.sources.items():
        said = [source.source, source.medium, source.campaign]
        yield Thing("source", key, source.name, ", ".join(one for one in said if one))
    for key, flow in brought.flows.items():
        yield Thing("flow", key, flow.name, f"{len(flow.steps)} steps")
    for place in brought.places.places:
        yield Thing("place", place.key, place.name, written_where(place))
    for area in brought.places.areas:
        yield Thing("area", area.key, area.name, "")


def _lacking(file: FlowFile) -> Iterator[Thing]:
    """What the flow, its teams and its people ask for and the file does not hold."""
    brought = file.materials
    held = {
        "person": {*brought.people, *brought.teams}, "team": {*brought.people, *brought.teams}, "hours": brought.hours,
        "mailbox": brought.mailboxes, "source": brought.sources, "flow": brought.flows,
        "place": {one.key for one in brought.places.places}, "area": {one.key for one in brought.places.areas},
    }  # fmt: skip
    for step in (step for flow in (file.flow, *brought.flows.values()) for step in flow.steps):
        for named in step.names():
            if named.kind in held and named.key not in held[named.kind]:
                yield _missing(named, step)
    for team in brought.teams.values():
        for member in team.members:
            if member.person not in brought.people:
                yield Thing("person", member.person, f"somebody of {team.name}", "not in the file", brought=False)
        if team.then and team.then not in brought.teams:
            yield Thing("team", team.then, f"the team behind {team.name}", "not in the file", brought=False)
    for key in hours_of(brought.people, brought.teams):
        if key not in brought.hours:
            yield Thing("hours", key, "hours that it asks for", "not in the file", brought=False)


def _missing(named: Named, step: AnyStep) -> Thing:
    match named.kind:
        case "person" | "team":
            words = f"whom “{step.called}” names"
        case "hours":
            words = "hours that it asks for"
        case "flow" | "place" | "area":
            words = f"what “{step.called}” names"
        case _:
            words = named.called
    return Thing(named.kind, named.key, words, "not in the file", brought=False)


_SAID = {"ring": "rung by", "notify": "told by", "look_up": "asked by"}


def _own(document: FlowDocument) -> Iterator[Thing]:
    """Phones and addresses that stand in the steps themselves."""
    for step in document.steps:
        for named in step.names():
            if named.kind in ("phone", "address"):
                said = f"{_SAID.get(step.kind, 'named by')} “{step.called}”"
                yield Thing(named.kind, named.key, named.called or named.key, said)


# settled at a client

Settled = Mapping[str, str | None]
"""By the id of each thing, the key it has at the client (a phone or address as it is kept); None where it is left open."""


def settled(document: FlowDocument, at: Settled) -> FlowDocument:
    """The flow with each thing that it names under the client's key, and without those that are left open."""

    def to(kind: Kind, key: str) -> str | None:
        return at.get(f"{kind}:{key}")

    rehearsals = tuple(one.renamed(to) for one in document.rehearsals)
    steps = tuple(step.renamed(to) for step in document.steps)
    return document.model_copy(update={"steps": steps, "rehearsals": rehearsals})


def person_settled(person: Person, at: Settled) -> Person:
    """Somebody with hours under the client's keys; hours that are left open limit nothing."""
    phones = tuple(one.model_copy(update={"hours": at.get(f"hours:{one.hours}")}) for one in person.phones)
    return person.model_copy(update={"hours": at.get(f"hours:{person.hours}"), "phones": phones})


def team_settled(team: Team, at: Settled) -> Team:
    """A team with those of its people and the team behind it that are not left open, each person once."""
    members, seen = [], set[str]()
    for one in team.members:
        person = at.get(f"person:{one.person}")
        if person and person not in seen:
            seen.add(person)
            members.append(one.model_copy(update={"person": person, "hours": at.get(f"hours:{one.hours}")}))
    rota = team.rota
    if rota is not None:
        swaps = ((one, at.get(f"person:{one.person}")) for one in rota.swaps)
        kept = tuple(one.model_copy(update={"person": person}) for one, person in swaps if person)
        rota = rota.model_copy(update={"swaps": kept})
    return team.model_copy(update={"members": tuple(members), "rota": rota, "then": at.get(f"team:{team.then}")})


def area_settled(area: Area, at: Settled) -> Area:
    """An area around those of its places that are not left open, looked after by those people who are not."""
    around = ((one, at.get(f"place:{one.place}")) for one in area.around)
    kept = tuple(one.model_copy(update={"place": key}) for one, key in around if key)
    people = tuple(key for one in area.people if (key := at.get(f"person:{one}")))
    return area.model_copy(update={"around": kept, "people": people})
