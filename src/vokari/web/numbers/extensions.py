"""Extensions: how codes are made, the grid of what is advertised where, and keys for menus."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core import asked
from ...work.house.problems import Problem, Problems
from ...work.house.views import LeadSourceView
from ...work.numbers import extensions
from ...work.numbers.extensions import Wanted
from ..doors import Form, Id, Signed, at_once, house_of
from ..pages import Pages, by_field, go

router = APIRouter()


@router.get("/clients/{client_id}/extensions")
@at_once
def show(request: Request, signed: Signed, client_id: Id) -> Response:
    """The grid of extensions."""
    return _show(request, signed, client_id)


def _show(
    request: Request, signed: Signed, client_id: int, problems: Problems | None = None, **values: Any
) -> Response:
    house, pages = house_of(request), request.app.state.pages
    menus = extensions.menus(house, signed.actor, client_id)
    grid = extensions.grid(house, signed.actor, client_id)
    listening = {branch.source: choice.words for choice in menus for branch in choice.step.branches if branch.source}
    unheard = [cell.source for cell in grid.cells.values() if cell.source.key not in listening]
    assert isinstance(pages, Pages)
    return pages.show(
        request, "numbers/extensions.html", signed, client=grid.client, section="numbers", grid=grid, menus=menus,
        listening=listening, unheard=unheard, status=422 if problems else 200, errors=by_field(problems or []), **{"typed": {}, **values},
    )  # fmt: skip


@router.post("/clients/{client_id}/extensions")
def change(request: Request, posted: Form, client_id: Id) -> Response:
    """Sets how codes are made, adds a lead source with one, fills the grid, or adds keys to a menu."""
    house, actor = house_of(request), posted.actor
    typed = {name: posted.text(name) for name in ("topic", "advert", "medium", "menu", "code", "scheme")}
    flow, _, step = typed["menu"].partition(":")
    problems: Problems = []
    match posted.text("do"):
        case "shape":
            problems = extensions.shape(house, actor, client_id, typed["scheme"])
        case "add" | "fill":
            wanted = [
                Wanted(typed["topic"], typed["advert"], typed["medium"], typed["code"], bool(posted.text("near")))
            ]
            if posted.text("do") == "fill":
                wanted = [Wanted(*one) for one in extensions.grid(house, actor, client_id).missing]
            added = extensions.add(house, actor, client_id, *wanted)
            made = [one for one in added if isinstance(one, LeadSourceView)]
            problems = [one for one in added if isinstance(one, Problem)]
            if made and typed["menu"]:
                problems = _add_keys(request, actor, client_id, [one.id for one in made], flow, step)
        case _:
            extensions.menus(house, actor, client_id)
            problems = _add_keys(request, actor, client_id, posted.ids("source"), flow, step)
    if problems:
        return _show(request, posted.signed, client_id, problems, typed=typed)
    return go(request, f"/clients/{client_id}/extensions")


def _add_keys(request: Request, actor: Any, client_id: int, sources: list[int], flow: str, step: str) -> Problems:
    flow_id = asked.whole(flow)
    if flow_id is None:
        return [Problem("menu", "Choose a menu.")]
    return extensions.add_keys(house_of(request), actor, client_id, sources, flow_id, step)
