"""The report: calls by what they are grouped by and by fate, set against an earlier period, with costs; as a page, a page to print, CSV
and XLSX."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Any, Literal
from urllib.parse import urlencode
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.calls.fates import FATE_NAMES, FATES
from ...core.reports import charts, money, periods
from ...formats.tables import to_file
from ...work.agency import clients
from ...work.house.views import ClientView
from ...work.numbers import extensions
from ...work.reports import groups
from ...work.reports.groups import GROUPS, Grouped, Line
from ..doors import Id, Signed, at_once, house_of
from ..pages import Pages

router = APIRouter()

LINES = 100
"""How many lines are shown unless all are asked for."""
SORTS = ("source", "medium", "campaign", "calls", *FATES, "talk", "new", "spent")
ASKED = ("period", "first", "last", "by", "against", "sort", "way", "all")


@dataclass(frozen=True, slots=True)
class Asked:
    """What an address asks for: the report, what was typed, and a sentence if the period cannot be read."""

    found: Grouped
    lines: list[Line]
    typed: dict[str, str]
    problem: str

    def query(self, *names: str) -> str:
        """The address of another report, with some of what was typed."""
        return urlencode({name: self.typed[name] for name in names if self.typed[name]})


def _read(request: Request, signed: Signed, client: ClientView) -> Asked:
    query = request.query_params
    typed = {name: query.get(name, "")[:20] for name in ASKED}
    typed["period"] = typed["period"] or "30"
    typed["by"] = typed["by"] if typed["by"] in GROUPS else "source"
    typed["against"] = typed["against"] if typed["against"] in periods.AGAINST else ""
    today = house_of(request).now().astimezone(ZoneInfo(client.time_zone)).date()
    period = periods.chosen(typed["period"], typed["first"], typed["last"], today)
    problem = period if isinstance(period, str) else ""
    chosen = periods.latest(30, today) if isinstance(period, str) else period
    typed["first"], typed["last"] = typed["first"] or chosen.first.isoformat(), typed["last"] or chosen.last.isoformat()
    found = groups.grouped(house_of(request), signed.actor, client.id, chosen, typed["by"], typed["against"])
    return Asked(found, in_order(found.lines, typed["sort"], typed["way"]), typed, problem)


def in_order(lines: list[Line], sort: str, way: str) -> list[Line]:
    """The lines by one column; words go up first, figures down first."""
    if sort not in SORTS:
        return lines
    words = sort in ("source", "medium", "campaign")

    def key(line: Line) -> Any:
        if words:
            return (
                getattr(line.source, sort).lower() if line.source and sort != "source" else line.name.lower() or "~",
            )
        match sort:
            case "calls":
                return line.tally.calls
            case "talk":
                return line.tally.mean_talk
            case "new":
                return line.tally.new_callers
            case "spent":
                return line.costs.spent if line.costs else Decimal(-1)
        return line.tally.by_fate[sort]

    return sorted(lines, key=key, reverse=(way == "down") if way in ("up", "down") else not words)


@router.get("/clients/{client_id}/report")
@at_once
def report(request: Request, signed: Signed, client_id: Id) -> Response:
    """The report."""
    return _show(request, signed, client_id, "reports/report.html")


@router.get("/clients/{client_id}/report/print")
@at_once
def printed(request: Request, signed: Signed, client_id: Id) -> Response:
    """The report as a page to print for the client."""
    return _show(request, signed, client_id, "reports/print.html")


def _show(request: Request, signed: Signed, client_id: int, template: str) -> Response:
    house, pages = house_of(request), request.app.state.pages
    client = clients.get(house, signed.actor, client_id)
    asked = _read(request, signed, client)
    found, whole = asked.found, asked.found.whole
    chart = charts.bars(whole.parts, width=1006, height=180)
    counted = {line.source.id: line.tally.calls for line in whole.lines if line.source}
    grid = extensions.grid(house, signed.actor, client_id, counted)
    assert isinstance(pages, Pages)
    return pages.show(
        request, template, signed, client=client, section="report", found=found, report=whole, lines=asked.lines,
        shown=len(asked.lines) if asked.typed["all"] or template.endswith("print.html") else LINES, typed=asked.typed, chart=chart,
        part=periods.part_of(whole.period), grid=grid, groups=GROUPS, againsts=periods.AGAINST, money=_money(found.currency),
        status=422 if asked.problem else 200, errors={"period": asked.problem} if asked.problem else {}, choices=periods.CHOICES,
        period_query=_days(whole.period), before_query=_days(found.compared) if found.compared else "", choice_query=asked.query("period", "first", "last", "by", "against"),
        kept_query=asked.query("by", "against"), file_query=asked.query(*ASKED),
    )  # fmt: skip


def _days(period: periods.Period) -> str:
    """The address of the calls of a period."""
    return urlencode({"period": "own", "first": period.first.isoformat(), "last": period.last.isoformat()})


def _money(currency: str) -> Any:
    return lambda amount: money.shown(amount, currency) if amount is not None else ""


@router.get("/clients/{client_id}/report.csv")
@at_once
def csv(request: Request, signed: Signed, client_id: Id) -> Response:
    """The report as CSV."""
    return _file(request, signed, client_id, "csv")


@router.get("/clients/{client_id}/report.xlsx")
@at_once
def xlsx(request: Request, signed: Signed, client_id: Id) -> Response:
    """The report as a workbook."""
    return _file(request, signed, client_id, "xlsx")


def _file(request: Request, signed: Signed, client_id: int, kind: Literal["csv", "xlsx"]) -> Response:
    client = clients.get(house_of(request), signed.actor, client_id)
    asked = _read(request, signed, client)
    found, period = asked.found, asked.found.whole.period
    header, rows = table(found, asked.lines)
    name = f"report-{period.first}-{period.last}.{kind}"
    content, media = to_file(kind, f"{client.name} {period.first}", header, rows)
    return Response(content, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})


def table(found: Grouped, lines: list[Line]) -> tuple[list[str], list[list[object]]]:
    """The heading and the rows of a report as a table; money as plain amounts."""
    of_source = found.by == "source"
    header = ["Lead source", "Source", "Medium", "Campaign"] if of_source else [GROUPS[found.by].capitalize(), "Also"]
    header += [
        "Calls", *(FATE_NAMES[fate].capitalize() for fate in FATES), "Of the answered unconfirmed", "Seconds talked", "New callers",
    ]  # fmt: skip
    header += ["Calls before", "Answered before"] if found.compared else []
    has_costs = found.by == "campaign" and found.costs is not None
    header += (
        [
            f"Spent, {found.currency}",
            "Days without spend data",
            "Cost per call",
            "Cost per answered call",
            "Cost per new caller",
        ]
        if has_costs
        else []
    )
    rows: list[list[object]] = []
    for line in lines:
        source, tally = line.source, line.tally
        names = [line.name, *((source.source, source.medium, source.campaign) if source else ("", "", ""))]
        row: list[object] = [*(names if of_source else (line.name, line.under)), tally.calls]
        row += [
            *(tally.by_fate[fate] for fate in FATES),
            tally.unconfirmed,
            round(tally.talk_seconds),
            tally.new_callers,
        ]
        if found.compared:
            row += [line.before.calls, line.before.by_fate["answered"]] if line.before else [0, 0]
        if has_costs:
            costs = line.costs
            row += (
                [
                    costs.spent,
                    costs.missing,
                    *(("" if one is None else one) for one in (costs.per_call, costs.per_answered, costs.per_new)),
                ]
                if costs
                else ["no data", found.whole.period.days, "", "", ""]
            )
        rows.append(row)
    return header, rows
