"""Many numbers in one go: a list of lead sources is read, numbers are proposed, ordered, and taken with progress."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool

from ...core import asked
from ...core.numbers import choosing
from ...formats import lists, source_lists
from ...formats.lists import Table
from ...formats.source_lists import COLUMN_NAMES, COLUMNS, Line
from ...work.agency import clients
from ...work.flows import client_flows
from ...work.house import apart
from ...work.house.problems import Problem, Problems
from ...work.numbers import numbers, orders, sources
from ...work.numbers.free import Wanted
from ...work.numbers.orders import Offer, Row
from ..doors import Form, Id, Posted, Signed, house_of
from ..pages import Pages, by_field, go, is_partial

router = APIRouter()


@router.get("/clients/{client_id}/numbers/many")
def start(request: Request, signed: Signed, client_id: Id) -> Response:
    """The form for many numbers at once, and the latest order."""
    return _show(request, signed, client_id)


def _show(request: Request, signed: Signed, client_id: int, status: int = 200, **values: Any) -> Response:
    house, pages = house_of(request), request.app.state.pages
    held = {line.now.source.id for line in numbers.of_client(house, signed.actor, client_id) if line.now}
    client = clients.get(house, signed.actor, client_id)
    without = [one for one in sources.lead_sources(house, signed.actor, client_id) if one.id not in held]
    usual: dict[str, Any] = {
        "text": "", "table": None, "mapping": (), "lines": [], "proposals": {}, "area_codes": "", "without": without,
        "columns": {"": "leave out", **COLUMN_NAMES}, "rule": choosing.LIKENESSES.get(client.likeness, ""), "kind": "",
        "flows": [flow for flow, _, _ in client_flows.listed(house, signed.actor, client_id)], "alternatives": [], "agreed": {},
    }  # fmt: skip
    assert isinstance(pages, Pages)
    return pages.show(
        request, "numbers/many.html", signed, client=client, section="numbers", status=status, **{**usual, **values}
    )


@router.post("/clients/{client_id}/numbers/many")
async def read_list(request: Request, posted: Form, client_id: Id) -> Response:
    """Reads a list that was typed, pasted or uploaded, as its columns say, and proposes a number for each good line."""
    upload = posted.upload("file")
    content = await upload.read() if upload and upload.filename else b""
    return await run_in_threadpool(_read, request, posted, client_id, content)


def _read(
    request: Request, posted: Posted, client_id: int, content: bytes = b"", refused: Problems | None = None
) -> Response:
    """Shows what a list says; `refused` is why an order that was made of it could not be placed."""
    known = orders.known_names(house_of(request), posted.actor, client_id)
    text = lists.decode(content) if content else posted.text("text")
    read = "This file is no text: save the list as CSV." if text is None else apart.worked_out(source_lists.read, text)
    if isinstance(read, Problem):
        read = read.sentence
    if isinstance(read, str):
        return _show(request, posted.signed, client_id, 422, text=text or "", errors={"text": read})
    mapping = _mapping(posted, read)
    found = source_lists.lines(read, mapping, known)
    good = [line for line in found if not line.problem]
    wanted = _wanted(request, posted, client_id)
    named = "name" in mapping
    offer, problems = _offer(request, posted, client_id, wanted, min(len(good), orders.MOST) if named else 0)
    errors = {**by_field([*(refused or []), *problems])}
    if len(good) > orders.MOST:
        errors["number"] = f"At most {orders.MOST} numbers in one go: the first {orders.MOST} lines have one each."
        found = [line for line in found if line.problem or line.line <= good[orders.MOST - 1].line]
    if not named:
        errors["mapping"] = "Choose which column holds the name."
    return _show(
        request, posted.signed, client_id, 422 if errors else 200, text=text, table=read, mapping=mapping, lines=found,
        proposals=dict(zip([line.line for line in good], offer.proposals, strict=False)), area_codes=wanted.area_codes,
        alternatives=offer.alternatives, kind=wanted.kind, errors=errors,
        agreed={line.line: posted.text(f"line-{line.line}-number") for line in good},
    )  # fmt: skip


def _offer(request: Request, posted: Posted, client_id: int, wanted: Wanted, count: int) -> tuple[Offer, Problems]:
    """Numbers for so many sources, or why there are none."""
    result = orders.propose(house_of(request), posted.actor, client_id, wanted, count) if count else Offer([], [])
    return (result, []) if isinstance(result, Offer) else (Offer([], []), result)


def _wanted(request: Request, posted: Posted, client_id: int) -> Wanted:
    house = house_of(request)
    client = clients.get(house, posted.actor, client_id)
    codes = posted.form.get("area_codes")
    usual = orders.usual_area_codes(house, posted.actor, client_id) if codes is None else str(codes)
    return Wanted(client.country, usual[:60], kind=posted.text("kind")[:20])


def _mapping(posted: Posted, table: Table) -> tuple[str, ...]:
    """What each column is: as the form says, else as guessed; what two columns claim belongs to the first."""
    if posted.form.get("column-0") is None:
        return source_lists.guess(table)
    chosen = [posted.text(f"column-{index}") for index in range(table.width)]
    return tuple(one if one in COLUMNS and chosen.index(one) == index else "" for index, one in enumerate(chosen))


@router.post("/clients/{client_id}/numbers/order")
def order(request: Request, posted: Form, client_id: Id) -> Response:
    """Orders the numbers that were agreed on: `line-N-number` for each line, with its source's fields."""
    rows = []
    for index in _indexes(posted):
        number = posted.text(f"line-{index}-number")
        if not posted.text(f"line-{index}-on") or not number:
            continue
        source_id = posted.whole(f"line-{index}-source_id")
        line = Line(index, {name: posted.text(f"line-{index}-{name}") for name in COLUMNS})
        rows.append(Row(number, None if source_id else orders.form_of(line), source_id))
    result = orders.place(house_of(request), posted.actor, client_id, rows, posted.whole("flow"))
    if not isinstance(result, list):
        return go(request, f"/clients/{client_id}/orders/{result.id}")
    if posted.text("text"):
        return _read(request, posted, client_id, refused=result)
    return _show(request, posted.signed, client_id, 422, errors={"": result[0].sentence})


def _indexes(posted: Posted) -> list[int]:
    names = [name.split("-") for name in posted.form if name.startswith("line-") and name.endswith("-number")]
    return sorted(asked.wholes(parts[1] for parts in names if len(parts) == 3 and len(parts[1]) < 8))


@router.post("/clients/{client_id}/numbers/missing")
def missing(request: Request, posted: Form, client_id: Id) -> Response:
    """Proposes numbers for lead sources that are there and have none."""
    house, actor = house_of(request), posted.actor
    picked = set(posted.ids("source"))
    numbers.of_client(house, actor, client_id)
    known = [one for one in sources.lead_sources(house, actor, client_id) if one.id in picked]
    if not known:
        return _show(request, posted.signed, client_id, 422, errors={"source": "Choose at least one lead source."})
    wanted = _wanted(request, posted, client_id)
    offer, problems = _offer(request, posted, client_id, wanted, len(known))
    lines = [Line(one.id, {"name": one.name, "medium": one.medium, "source_id": str(one.id)}) for one in known]
    return _show(
        request, posted.signed, client_id, 422 if problems else 200, lines=lines, area_codes=wanted.area_codes,
        proposals=dict(zip([line.line for line in lines], offer.proposals, strict=False)), kind=wanted.kind,
        alternatives=offer.alternatives, errors=by_field(problems),
    )  # fmt: skip


@router.get("/clients/{client_id}/orders/{order_id}")
def show_order(request: Request, signed: Signed, client_id: Id, order_id: Id) -> Response:
    """An order with its progress."""
    house, pages = house_of(request), request.app.state.pages
    progress = orders.progress(house, signed.actor, client_id, order_id)
    client = clients.get(house, signed.actor, client_id)
    others = {}
    if progress.order.state != "running" and progress.count("refused"):
        codes = orders.usual_area_codes(house, signed.actor, client_id)
        refused = [one.line for one in progress.lines if one.line.state == "refused"]
        found = orders.propose(house, signed.actor, client_id, Wanted(client.country, codes), len(refused))
        offers = found.proposals if isinstance(found, Offer) else []
        others = {line.id: offer.free.e164 for line, offer in zip(refused, offers, strict=False)}
    assert isinstance(pages, Pages)
    template = "numbers/order_part.html" if is_partial(request) else "numbers/order.html"
    return pages.show(request, template, signed, client=client, section="numbers", progress=progress, others=others)


@router.post("/clients/{client_id}/orders/{order_id}")
def change_order(request: Request, posted: Form, client_id: Id, order_id: Id) -> Response:
    """Stops an order, or tries what is left of it again."""
    house, pages = house_of(request), request.app.state.pages
    if posted.text("do") == "stop":
        orders.stop(house, posted.actor, client_id, order_id)
        return go(request, f"/clients/{client_id}/orders/{order_id}")
    progress = orders.progress(house, posted.actor, client_id, order_id)
    client = clients.get(house, posted.actor, client_id)
    typed = {one.line.id: posted.text(f"number-{one.line.id}") for one in progress.lines}
    chosen = {line: number for line, number in typed.items() if number.strip()}
    problems = orders.again(house, posted.actor, client_id, order_id, chosen)
    if problems:
        assert isinstance(pages, Pages)
        return pages.show(
            request, "numbers/order.html", posted.signed, client=client, section="numbers", progress=progress, others=chosen,
            errors=by_field(problems), status=422,
        )  # fmt: skip
    return go(request, f"/clients/{client_id}/orders/{order_id}")
