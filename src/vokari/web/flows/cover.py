"""Cover: who would be rung when, and what becomes of callers if nobody answers; of a client, and of the whole agency."""

from datetime import date, timedelta
from itertools import groupby
from operator import itemgetter
from typing import Any
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.flows.model.document import FlowDocument
from ...core.flows.shown import outline
from ...core.proof import strips
from ...work.flows import naming
from ...work.house.problems import Row
from ...work.proof import covering
from ...work.proof.covering import CLIENTS, ClientCover, FlowCover
from ..doors import Id, Signed, at_once, house_of

router = APIRouter()
DAYS, MOST_RUNS = 7, 4
LONGEST_TEXT = 60


@router.get("/clients/{client_id}/cover")
@at_once
def of_client(request: Request, signed: Signed, client_id: Id) -> Response:
    """The coming week, the exceptional days of a year, and keys by periods, of a client's live flows: a page to send."""
    house = house_of(request)
    found = covering.of_client(house, signed.actor, client_id)
    names = naming.of_hours(house, signed.actor, client_id)
    response: Response = request.app.state.pages.show(
        request, "flows/cover.html", signed, client=found.client, section="cover", drawn=_drawn(request, found), names=names,
        flows={one.flow.id: _flow(one) for one in found.flows},
    )  # fmt: skip
    return response


@router.get("/cover")
@at_once
def of_agency(request: Request, signed: Signed, q: str = "", start: Id = 0) -> Response:
    """The coming week of all clients."""
    found, count = covering.of_agency(house_of(request), signed.actor, q[:LONGEST_TEXT], start)
    response: Response = request.app.state.pages.show(
        request, "flows/cover_agency.html", signed, section="cover", q=q[:LONGEST_TEXT], start=start, count=count, page=CLIENTS,
        drawn=[_drawn(request, one) for one in found],
    )  # fmt: skip
    return response


def _drawn(request: Request, one: ClientCover) -> dict[str, Any]:
    """A client with the strips of its flows."""
    zone = ZoneInfo(one.client.time_zone)
    first = house_of(request).now().astimezone(zone).date()
    return {
        "client": one.client,
        "days": [first + timedelta(days=number) for number in range(DAYS)],
        "year": first.year,
        "lines": [_line(flow, zone, first) for flow in one.flows],
    }


def _line(one: FlowCover, zone: ZoneInfo, first: Any) -> dict[str, Any]:
    week = strips.strips(one.cover, zone, first, DAYS) if one.cover else []
    exceptional = [_exceptional(one.cover, row, zone) for row in one.cover["exceptions"]] if one.cover else []
    menus = [list(some) for _, some in groupby(one.cover["lines"], key=itemgetter("menu"))] if one.cover else []
    return {"cover": one, "week": week, "gaps": strips.gaps(week), "exceptional": exceptional, "menus": menus}


def _exceptional(cover: Row, row: Row, zone: ZoneInfo) -> dict[str, Any]:
    """Exceptional days in runs, each from its first to its last, with their pieces by the clock."""
    pieces = strips.pieces_of(cover, row["stretches"])
    times = [f"{one.since.astimezone(zone):%H:%M} to {_until(one, zone)}" for one in pieces]
    runs: list[list[date]] = []
    for day in map(date.fromisoformat, row["days"]):
        if runs and day - runs[-1][-1] == timedelta(days=1):
            runs[-1].append(day)
        else:
            runs.append([day])
    return {
        "runs": [(run[0], run[-1]) for run in runs[:MOST_RUNS]], "more": sum(map(len, runs[MOST_RUNS:])), "name": row["name"],
        "pieces": list(zip(times, pieces, strict=True)),
    }  # fmt: skip


def _until(piece: strips.Piece, zone: ZoneInfo) -> str:
    """When a piece of a day ends."""
    said = f"{piece.until.astimezone(zone):%H:%M}"
    return "24:00" if said == "00:00" else said


def _flow(one: FlowCover) -> dict[str, Any]:
    """What the table of keys names: steps with their rows."""
    document = FlowDocument.model_validate(one.document)
    return {"names": {step.id: step.called for step in document.steps}, "places": outline.numbers(document)}
