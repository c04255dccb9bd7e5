"""Today: what needs a person now, worst first, each with its one next action."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import date, datetime
from itertools import groupby
from typing import Literal
from zoneinfo import ZoneInfo

from ...core.calls.fates import REASONS
from ...core.numbers.numbering import shown
from ..house.house import House
from ..house.views import ClientNameView
from . import needing
from .access import Actor, allow_agency
from .clients import ClientName
from .needing import ORDER, Found
from .stack import SHORT_BYTES, free_bytes


@dataclass(frozen=True, slots=True)
class Need:
    """One thing that needs a person, in words, with its next action; `count` is how many callers or numbers it is about."""

    kind: Literal[
        "lost",
        "service",
        "no_flow",
        "found",
        "worse",
        "refused",
        "prompt_ends",
        "no_fail_safe",
        "rest_over",
        "no_source",
        "uncalled",
        "no_number",
        "not_answering",
        "differences",
    ]
    client: ClientNameView
    sentence: str
    action: str
    number_id: int | None = None
    count: int = 1
    latest: datetime | None = None
    person_id: int | None = None
    flow_id: int | None = None
    prompt_id: int | None = None
    day: date | None = None


def needs(house: House, actor: Actor) -> list[Need]:
    """What needs a person, worst first: numbers that reach nobody, then lost callers, then gaps in the plan."""
    allow_agency(actor)
    with house.begin() as session:
        rows = needing.needs(session, actor.agency_id, house.now())
    rows.sort(key=lambda row: (row.kind, row.client_id, -row.count, row.words))
    found: list[Need] = []
    for (kind, _), some in groupby(rows, key=lambda row: (row.kind, row.client_id)):
        of_kind = list(some)
        client = ClientNameView(of_kind[0].client_id, of_kind[0].name, of_kind[0].country, of_kind[0].time_zone)
        found += _SAID[kind](client, of_kind)
    return sorted(found, key=lambda need: (ORDER.index(need.kind), -need.count, need.client.name))


def _lost(client: ClientNameView, rows: list[Found]) -> Iterable[Need]:
    total, latest = sum(row.count for row in rows), max(row.at for row in rows if row.at)
    local = latest.astimezone(ZoneInfo(client.time_zone))
    who = "One caller was lost and has" if total == 1 else f"{total} callers were lost and have"
    often = "" if total == 1 else "mostly: "
    sentence = f"{who} not got through since, the latest at {local:%H:%M}; {often}{REASONS[rows[0].words]}."
    yield Need("lost", client, sentence, "View calls", count=total, latest=latest)


def _service(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    count, latest = rows[0].count, rows[0].at
    what = (
        "A call that the answering service took waits"
        if count == 1
        else f"{count} calls that the answering service took wait"
    )
    yield Need("service", client, f"{what} to be dealt with.", "View calls", count=count, latest=latest)


def _no_flow(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    for row in rows:
        called = shown(row.words, client.country)
        if row.more is None:
            sentence, action = f"{called} has no flow: callers only reach the fail-safe.", "Choose a flow"
        else:
            sentence, action = f"{called} points at {row.more}, which is not live.", "Put it live"
        yield Need("no_flow", client, sentence, action, row.of)


def _live_findings(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    for row in rows:
        yield Need("found", client, f"{row.words}: {row.more}", "See it and mend", flow_id=row.of, latest=row.at)


def _uncalled(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    for row in rows:
        sentence = f"{row.words} is live, and no number leads to it."
        yield Need("uncalled", client, sentence, "Choose its numbers", flow_id=row.of)


def _worse(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    for row in rows:
        yield Need(
            "worse",
            client,
            f"{row.words} loses more callers since it was put live: {row.more}.",
            "Compare",
            flow_id=row.of,
        )


def _refused(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    for row in rows:
        yield Need(
            "refused", client, f"{row.words} did not go live as planned: {row.more}", "View versions", flow_id=row.of
        )


def _prompt_ends(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    for row in rows:
        said = (
            f"“{row.words}” plays to callers and is true until {row.day:%b} {row.day.day}: say what they hear then."
            if row.day
            else ""
        )
        yield Need("prompt_ends", client, said, "Open prompt", prompt_id=row.of)


def _no_source(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    for row in rows:
        sentence = f"{shown(row.words, client.country)} belongs to no lead source: its calls are credited to nothing."
        yield Need("no_source", client, sentence, "Choose a source", row.of)


def _not_answering(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    for row in rows:
        sentence = f"{row.words}’s phone has not answered {row.count} times in a row."
        yield Need("not_answering", client, sentence, "View the person", person_id=row.of, count=row.count)


def _no_fail_safe(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    count = rows[0].count
    what = "One number has" if count == 1 else f"{count} numbers have"
    sentence = f"{what} no fail-safe: if nothing else works, the caller hears the busy tone."
    yield Need("no_fail_safe", client, sentence, "Name one", count=count)


def _rest_over(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    for row in rows:
        called = shown(row.words, client.country)
        sentence = f"{called} has rested long enough and still rings: an advert may still show it."
        yield Need("rest_over", client, sentence, "Decide", row.of)


def _no_number(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    missing = [row.words for row in rows]
    what = f"{missing[0]} has" if len(missing) == 1 else f"{', '.join(missing[:-1])} and {missing[-1]} have"
    yield Need("no_number", client, f"{what} no number yet.", "Find a number", count=len(missing))


def _differences(client: ClientNameView, rows: list[Found]) -> Iterator[Need]:
    """Calls on which the carrier's list and ours did not agree."""
    for row in rows:
        assert row.day is not None
        calls = "One call" if row.count == 1 else f"{row.count} calls"
        sentence = (
            f"{calls} of {row.day:%b} {row.day.day} stood in the carrier’s list and not here: written down since."
            if row.words == "missing_here"
            else f"{calls} of {row.day:%b} {row.day.day} {'is' if row.count == 1 else 'are'} not in the carrier’s list."
        )
        yield Need("differences", client, sentence, "View the day", count=row.count, day=row.day)


_SAID = {
    "lost": _lost, "service": _service, "no_flow": _no_flow, "no_source": _no_source, "not_answering": _not_answering, "no_fail_safe": _no_fail_safe,
    "found": _live_findings, "uncalled": _uncalled, "worse": _worse, "refused": _refused, "prompt_ends": _prompt_ends, "rest_over": _rest_over, "no_number": _no_number,
    "differences": _differences,
}  # fmt: skip


def clients_in_need(house: House, actor: Actor) -> list[ClientName]:
    """The clients of which something stands on Today, worst first, by one query, since every page asks."""
    allow_agency(actor)
    with house.begin() as session:
        return [ClientName(*row) for row in needing.clients(session, actor.agency_id, house.now())]


def short_of_space(house: House, actor: Actor) -> int | None:
    """How many bytes are free where space runs short; None where there is enough, or nobody knows."""
    allow_agency(actor)
    with house.begin() as session:
        free = free_bytes(session, house.now())
    return free if free is not None and free < SHORT_BYTES else None
