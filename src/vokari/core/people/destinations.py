"""Every phone that a client's flows and people can have rung, by number or SIP address, with whose it is."""

from collections.abc import Iterable, Iterator, Mapping

from ..flows.model.document import FlowDocument
from ..flows.model.exits import NamedKind
from ..flows.model.steps import AnyStep, HoldLine, Ring
from ..flows.model.values import DialedDestination, NumberDestination, PersonDestination, SipDestination
from .directory import Person, Team


def destinations(people: Mapping[str, Person], documents: Iterable[FlowDocument]) -> dict[str, list[str]]:
    """What is dialed, each with the people and steps that have it, in words; people first."""
    found: dict[str, list[str]] = {}
    for person in people.values():
        for phone in person.phones:
            words = f"{person.name}{f', {phone.name}' if phone.name else ''}"
            found.setdefault(phone.to, []).append(words)
    for document in documents:
        for to, words in of_flow(document):
            known = found.setdefault(to, [])
            if words not in known:
                known.append(words)
    return found


def of_flow(document: FlowDocument) -> Iterator[tuple[str, str]]:
    """The phones that steps of a flow ring by number or address, each with the flow and the step in words."""
    for step in document.steps:
        for one in step.to if isinstance(step, Ring) else ():
            if isinstance(one, NumberDestination | SipDestination) and one.dialed:
                yield one.dialed, f"{document.name}, {step.called}{f', {one.name}' if one.name else ''}"


def rung_by(step: Ring | HoldLine, people: Mapping[str, Person], teams: Mapping[str, Team]) -> dict[str, str]:
    """What a step can dial, directly, through people, and through teams with those behind them: by whose name."""
    found: dict[str, str] = {}
    keys: list[str] = []
    if isinstance(step, HoldLine):
        keys.append(step.team)
    else:
        for one in step.to:
            if isinstance(one, NumberDestination | SipDestination):
                if one.dialed:
                    found.setdefault(one.dialed, one.name or one.dialed)
            elif isinstance(one, DialedDestination):
                keys += [key for key, person in people.items() if person.extension]
            else:
                keys.append(one.person if isinstance(one, PersonDestination) else one.team)
    seen: set[str] = set()
    while keys:
        key = keys.pop(0)
        if key in seen:
            continue
        seen.add(key)
        if key in people:
            for phone in people[key].phones:
                found.setdefault(phone.to, people[key].name)
        elif key in teams:
            keys += [one.person for one in teams[key].members]
            keys += [behind] if (behind := teams[key].then) else []
    return found


def readdressed(document: FlowDocument, old: str, new: str) -> list[AnyStep]:
    """The Ring steps that ring a number or address of their own, with another in its place."""

    def other(kind: NamedKind, key: str) -> str:
        return new if kind == "phone" and key == old else key

    rings = (step for step in document.steps if isinstance(step, Ring))
    return [step.renamed(other) for step in rings if any(getattr(one, "dialed", "") == old for one in step.to)]
