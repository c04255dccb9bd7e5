"""Notices of Notify steps: filled in and queued with the event that came to the step, and sent by the worker."""

from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import RowMapping, text
from sqlalchemy.orm import Session

from ...core.checks.notices import address
from ...core.flows.model.steps import Notify
from ...core.flows.running.engine import Next
from ...core.flows.running.flow import Flow
from ...core.flows.running.state import State
from ...core.numbers.numbering import caller_in_words
from ...formats.call_control.sending import filled
from ..house import jobs
from ..house.house import House
from ..house.problems import Row
from ..people import ringers

_NAMES = text(
    "SELECT c.name AS client, c.country, s.name AS source FROM clients c LEFT JOIN lead_sources s ON s.id = :source"
    " WHERE c.id = :client"
)


def fields(session: Session, live: Row | RowMapping, state: State, people: dict[str, Any]) -> dict[str, str]:
    """What can be filled into a whisper or a notice: the client, the lead source, the caller, the labels, who took the call,
    and when it came, in the client's time."""
    context = live["context"]
    source_id = context["sources"].get(state.source) or context["source_id"]
    row = session.execute(_NAMES, {"client": live["client_id"], "source": source_id}).one()
    local = live["started_at"].astimezone(ZoneInfo(context["time_zone"]))
    person = people.get(state.talking_to)
    when = (
        f"{local:%a} {local.day} {local:%b}, {local:%H:%M}"
        if row.country == "GB"
        else f"{local:%a}, {local:%b} {local.day}, {local:%H:%M}"
    )
    return {
        **dict(state.values), "client": row.client, "source": row.source or "", "label": ", ".join(state.labels), "when": when,
        "caller": caller_in_words(context["caller"], row.country),
        "answered_by": person.name if person else "",
    }  # fmt: skip


def follow(session: Session, house: House, live: Row | RowMapping, seq: int, flow: Flow, after: Next) -> None:
    """Queues the notices of the Notify steps that an event came to, one for each receiver."""
    for index, (_, step_id) in enumerate(after.way):
        step = flow.steps.get(step_id)
        if not isinstance(step, Notify):
            continue
        people = ringers.people_of(session, house, live["client_id"])
        known = fields(session, live, after.state, people)
        words = filled(step.words, known)
        for number, one in enumerate(step.to):
            to = address(one, step.by, people, live["context"]["caller"])
            if to:
                key = f"notice-{live['id']}-{seq}-{index}-{number}"
                subject = f"{known['client']}: {step.name or 'notice of a call'}"
                jobs.defer(session, "send_notice", by=step.by, to=to, subject=subject, words=words, key=key)


def send(house: House, by: str, to: str, subject: str, words: str, key: str) -> None:
    """Sends one notice; the key keeps it from being sent twice."""
    if by == "text":
        house.post.text(to=to, words=words, key=key)
    else:
        house.post.send(to=to, subject=subject, body=f"{words}\n", key=key)
