"""The Notify step: who is told, in words, and what would keep a notice from arriving."""

from collections.abc import Collection, Iterator, Mapping

from .. import mail
from ..flows.model.steps import Notify
from ..flows.model.steps.notify import BY
from ..flows.model.values import NotifyTo
from ..numbers import numbering
from ..people.directory import Person


def _name(one: NotifyTo, people: Mapping[str, Person]) -> str:
    if one.kind == "caller":
        return "the caller"
    if one.kind == "person":
        person = people.get(one.of or "")
        return person.name if person else "somebody who is gone"
    return one.of or "nobody"


def address(one: NotifyTo, by: str, people: Mapping[str, Person], caller: str) -> str:
    """Where a notice goes: a mail address or an E.164 number; empty where there is none."""
    if one.kind == "caller":
        return caller if by == "text" else ""
    if one.kind == "person":
        person = people.get(one.of or "")
        if person is None:
            return ""
        if by == "email":
            return person.email
        return next((phone.to for phone in person.phones if phone.to.startswith("+") and ";" not in phone.to), "")
    return one.of or ""


def slips(step: Notify, people: Mapping[str, Person], tracking: Collection[str]) -> Iterator[str]:
    """What keeps a notice from arriving, each as the end of a sentence that begins with the step."""
    if not step.to:
        yield "tells nobody: choose who is told."
    if not step.words.strip():
        yield "has no words yet."
    for one in step.to:
        who = _name(one, people)
        to = address(one, step.by, people, "+" if one.kind == "caller" else "")
        if one.kind == "person" and one.of not in people:
            yield "tells somebody who is gone: choose somebody else."
        elif not to:
            lacks = "email address" if step.by == "email" else "phone for text messages"
            yield f"tells {who} {BY.get(step.by, '')}, for which there is no {lacks}."
        elif one.kind == "email" and not mail.is_address(to):
            yield f"tells “{to}”, which is no email address."
        elif one.kind == "number" and (numbering.problem_of(to) or to in tracking):
            yield f"sends a text message to {to}, which is no phone that can get one."
