"""A client's flows: listed, begun and duplicated."""

from pydantic import ValidationError
from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError

from ...core.flows.model.document import FlowDocument
from ...store.flows import CallFlow, FlowVersion
from ...store.numbers import TrackingNumber
from ..agency.access import Actor, allow, note
from ..house.house import House
from ..house.problems import Problem, Problems
from ..house.views import (
    CallFlowView,
    FlowVersionView,
)
from .open_drafts import own_flow


def listed(house: House, actor: Actor, client_id: int) -> list[tuple[CallFlowView, FlowVersionView | None, int]]:
    """A client's flows, by name: with the live version and the count of numbers that point at each."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        count = (
            select(func.count())
            .select_from(TrackingNumber)
            .where(TrackingNumber.flow_id == CallFlow.id, TrackingNumber.state == "in_service")
            .scalar_subquery()
        )
        query = (
            select(CallFlow, FlowVersion, count)
            .outerjoin(FlowVersion, FlowVersion.id == CallFlow.live_version_id)
            .where(CallFlow.of(client_id))
            .order_by(func.lower(CallFlow.name))
        )
        return [
            (CallFlowView.of(flow), FlowVersionView.maybe(version), numbers)
            for flow, version, numbers in session.execute(query)
        ]


def create(house: House, actor: Actor, client_id: int, name: str, mark: str) -> CallFlowView | Problems:
    """A new flow with an empty draft."""
    name, mark = " ".join(name.split()), mark.strip().upper()
    try:
        with house.begin() as session:
            client = allow(session, actor, client_id, "work", changing=True)
            language = "en-GB" if client.country == "GB" else "en-US"
            document = FlowDocument(name=name, mark=mark or _mark(name), language=language)
            raw = document.model_dump(mode="json")
            flow = CallFlow(agency_id=actor.agency_id, client_id=client_id, draft=raw, revision=0)
            session.add(flow)
            session.flush()
            note(session, house, actor, client_id, f"made the flow {name}")
            return CallFlowView.of(flow)
    except ValidationError as error:
        sentences = {
            "name": "A flow has a name of 1 to 60 letters.",
            "mark": "A mark has two or three capital letters or digits.",
        }
        fields = sorted({str(one["loc"][0]) for one in error.errors()})
        return [Problem(field, sentences.get(field, "This cannot be read.")) for field in fields]
    except IntegrityError:
        return [Problem("name", "Another flow of this client has this name already.")]


def duplicate(house: House, actor: Actor, client_id: int, flow_id: int) -> CallFlowView:
    """A new flow of the client with the draft of another, under a name and a mark that are free."""
    with house.begin() as session:
        allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id)
        others = session.execute(select(CallFlow.name, CallFlow.mark).where(CallFlow.of(client_id))).all()
        names, marks = {one.name.lower() for one in others}, {one.mark for one in others}
        document = FlowDocument.model_validate(flow.draft)
        words = (f"{document.name[:50]} copy{n}" for n in ("", *(f" {n}" for n in range(2, 1000))))
        name = next(one for one in words if one.lower() not in names)
        mark = next(
            (one for one in (f"{document.mark[:2]}{n}" for n in range(2, 10)) if one not in marks), document.mark
        )
        raw = document.model_copy(update={"name": name, "mark": mark}).model_dump(mode="json")
        made = CallFlow(agency_id=actor.agency_id, client_id=client_id, draft=raw, revision=0)
        session.add(made)
        session.flush()
        note(session, house, actor, client_id, f"duplicated the flow {flow.name} as {name}")
        return CallFlowView.of(made)


def _mark(name: str) -> str:
    letters = [word[0] for word in name.upper().split() if word[0].isascii() and word[0].isalpha()]
    return ("".join(letters[:3]) + "XX")[: max(2, min(3, len(letters)))]
