"""All that the page of one number shows."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import Integer, cast, func, select

from ...core.numbers import assignments, naming
from ...core.numbers.assignments import Span
from ...store.calls import CallDay
from ...store.flows import CallFlow
from ..agency.access import Actor, allow
from ..house.house import House
from ..house.views import CallFlowView, ClientView, LeadSourceView, NumberDocumentView, TrackingNumberView
from .assignments import spans_of
from .numbers import naming_facts, own_number, untold
from .plan import DAYS
from .porting import documents_of
from .resting import Ringing, ringing
from .sources import sources_of


@dataclass(frozen=True, slots=True)
class NumberPage:
    """A number with its time line, the client's other numbers and sources, its calls of 30 days by fate, and how it
    rings in its rest."""

    client: ClientView
    number: TrackingNumberView
    flow: CallFlowView | None
    spans: tuple[Span, ...]
    now: Span | None
    planned: list[tuple[datetime, LeadSourceView | None]]
    sources: dict[int, LeadSourceView]
    by_fate: dict[str, int]
    suggested_name: str
    ringing: Ringing | None
    untold: str
    documents: list[NumberDocumentView]

    @property
    def calls(self) -> int:
        return sum(self.by_fate.values())


def opened(house: House, actor: Actor, client_id: int, number_id: int) -> NumberPage:
    """The page of a number that is not released."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        number = own_number(session, client_id, number_id)
        spans = spans_of(session, [number_id]).get(number_id, ())
        now = house.now()
        held = assignments.holder(spans, now)
        sources = {one.id: one for one in sources_of(session, client_id)}
        today = now.astimezone(ZoneInfo(client.time_zone)).date()
        count = cast(func.sum(CallDay.calls), Integer)
        rows = session.execute(
            select(CallDay.fate, count)
            .where(
                CallDay.client_id == client_id, CallDay.number_id == number_id,
                CallDay.day > today - timedelta(days=DAYS), CallDay.day <= today,
            )
            .group_by(CallDay.fate)
        ).all()  # fmt: skip
        facts = naming_facts(client, number, sources.get(held.source_id) if held else None)
        stray = naming.strays(number.name, client.naming_pattern, facts)
        return NumberPage(
            client=ClientView.of(client), number=TrackingNumberView.of(number), flow=CallFlowView.maybe(session.get(CallFlow, number.flow_id) if number.flow_id else None),
            spans=spans, now=held, sources=sources,
            planned=[(at, sources.get(one or 0)) for at, one in assignments.changes(spans, now)],
            by_fate={row[0]: row[1] for row in rows},
            suggested_name=naming.fill(client.naming_pattern, facts) if stray else "",
            ringing=ringing(session, number, now) if number.state == "resting" else None,
            untold=untold(number, client),
            documents=NumberDocumentView.all(documents_of(session, [number_id]).get(number_id, [])),
        )  # fmt: skip
