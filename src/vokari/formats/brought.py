"""What a flow file names outside of itself, and the flow once each of these is matched at a client, made, or left open."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from ..core.flows.model import conditions
from ..core.flows.model.document import FlowDocument
from ..core.flows.model.steps import HoldLine, LookUp, Menu, Notify, Ring, Step, Voicemail
from ..core.flows.model.values import NotifyTo, NumberDestination, PersonDestination, SipDestination, TeamDestination
from ..core.flows.shown.words import step_name
from ..core.people.carried import hours_of
from ..core.people.directory import Person, Team
from ..core.people.uses import uses
from .flow_file import FlowFile

Kind = Literal["person", "team", "hours", "mailbox", "source", "phone", "address"]
KINDS: dict[Kind, str] = {
    "person": "person", "team": "team", "hours": "hours", "mailbox": "mailbox", "source": "lead source", "phone": "phone",
    "address": "address",
}  # fmt: skip
MADE: tuple[Kind, ...] = ("person", "team", "hours", "mailbox", "source")
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
    for one in (*_materials(file), *_lacking(file), *_own(file.flow)):
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


def _lacking(file: FlowFile) -> Iterator[Thing]:
    brought, document = file.materials, file.flow
    for use in uses(document):
        if use.key not in brought.people and use.key not in brought.teams:
            kind: Kind = "team" if isinstance(use.step, HoldLine) or _is_team(use.step, use.key) else "person"
            yield Thing(kind, use.key, f"whom “{step_name(use.step)}” names", "not in the file", brought=False)
    for team in brought.teams.values():
        for member in team.members:
            if member.person not in brought.people:
                yield Thing("person", member.person, f"somebody of {team.name}", "not in the file", brought=False)
        if team.then and team.then not in brought.teams:
            yield Thing("team", team.then, f"the team behind {team.name}", "not in the file", brought=False)
    named = (*(use.hours for use in conditions.uses(document)), *hours_of(brought.people, brought.teams))
    for key in named:
        if key not in brought.hours:
            yield Thing("hours", key, "hours that it asks for", "not in the file", brought=False)
    for step in document.steps:
        if isinstance(step, Voicemail) and step.mailbox and step.mailbox not in brought.mailboxes:
            yield Thing(
                "mailbox", step.mailbox, f"the mailbox of “{step_name(step)}”", "not in the file", brought=False
            )
        for branch in step.branches if isinstance(step, Menu) else ():
            if branch.source and branch.source not in brought.sources:
                words = f"the lead source of key {branch.keys}"
                yield Thing("source", branch.source, words, "not in the file", brought=False)


def _is_team(step: Step, key: str) -> bool:
    return isinstance(step, Ring) and any(isinstance(one, TeamDestination) and one.team == key for one in step.to)


def _own(document: FlowDocument) -> Iterator[Thing]:
    for step in document.steps:
        if isinstance(step, Ring):
            for one in step.to:
                if isinstance(one, NumberDestination | SipDestination) and one.dialed:
                    yield Thing("phone", one.dialed, one.name or one.dialed, f"rung by “{step_name(step)}”")
        if isinstance(step, Notify):
            for told in step.to:
                if told.kind in ("email", "number") and told.of:
                    yield Thing(_of(told), told.of, told.of, f"told by “{step_name(step)}”")
        if isinstance(step, LookUp) and step.url:
            yield Thing("address", step.url, step.url, f"asked by “{step_name(step)}”")


def _of(told: NotifyTo) -> Kind:
    return "phone" if told.kind == "number" else "address"


# settled at a client

Settled = Mapping[str, str | None]
"""By the id of each thing, the key it has at the client (a phone or address as it is kept); None where it is left open."""


def settled(document: FlowDocument, at: Settled) -> FlowDocument:
    """The flow with each thing that it names under the client's key, and without those that are left open."""
    return document.model_copy(update={"steps": tuple(_step(step, at) for step in document.steps)})


def _step(step: Step, at: Settled) -> Step:
    match step:
        case Ring():
            to = (_destination(one, at) for one in step.to)
            return step.model_copy(update={"to": tuple(one for one in to if one is not None)})
        case HoldLine():
            return step.model_copy(update={"team": at.get(f"team:{step.team}") or "", "team_name": ""})
        case Notify():
            told = (_told(one, at) for one in step.to)
            return step.model_copy(update={"to": tuple(one for one in told if one is not None)})
        case LookUp():
            return step.model_copy(update={"url": at.get(f"address:{step.url}") or ""})
        case Voicemail():
            return step.model_copy(update={"mailbox": at.get(f"mailbox:{step.mailbox}")})
        case Menu():
            branches = (one.model_copy(update={"source": at.get(f"source:{one.source}")}) for one in step.branches)
            return step.model_copy(update={"branches": tuple(branches)})
    return conditions.rekeyed(
        step, {thing.partition(":")[2]: key for thing, key in at.items() if thing.startswith("hours:") and key}
    )


def _destination(
    one: NumberDestination | SipDestination | PersonDestination | TeamDestination, at: Settled
) -> NumberDestination | SipDestination | PersonDestination | TeamDestination | None:
    if isinstance(one, PersonDestination):
        key = at.get(f"person:{one.person}")
        return one.model_copy(update={"person": key}) if key else None
    if isinstance(one, TeamDestination):
        key = at.get(f"team:{one.team}")
        return one.model_copy(update={"team": key}) if key else None
    dialed = at.get(f"phone:{one.dialed}")
    if not one.dialed or not dialed:
        return one if not one.dialed else None
    field = "number" if isinstance(one, NumberDestination) else "address"
    return one.model_copy(update={field: dialed, "hours": at.get(f"hours:{one.hours}") if one.hours else None})


def _told(one: NotifyTo, at: Settled) -> NotifyTo | None:
    if one.kind == "person":
        key = at.get(f"person:{one.of}")
    elif one.kind in ("email", "number"):
        key = at.get(f"{_of(one)}:{one.of}")
    else:
        return one
    return one.model_copy(update={"of": key}) if key else None


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
