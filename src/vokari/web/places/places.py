"""The page of a client's places and areas."""

from typing import Any, Literal

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.places import extent
from ...work.house.problems import Problems
from ...work.places import keeping
from ...work.places.keeping import TypedArea, TypedPlace, TypedPlaces
from ..doors import Form, Id, Posted, Signed, house_of
from ..pages import Pages, by_field, go

router = APIRouter()
MOST_ROWS = 200


@router.get("/clients/{client_id}/places")
def places(request: Request, signed: Signed, client_id: Id) -> Response:
    """The places of a client, the areas it serves, and what they come to."""
    return _show(request, signed, client_id)


def _show(
    request: Request, signed: Any, client_id: int, problems: Problems | None = None, typed: TypedPlaces | None = None
) -> Response:
    pages: Pages = request.app.state.pages
    found = keeping.opened(house_of(request), signed.actor, client_id)
    return pages.show(
        request, "places/places.html", signed, client=found.client, section="places", status=422 if problems else 200, found=found,
        typed=typed or found.typed, errors=by_field(problems or []), sizes=extent,
    )  # fmt: skip


@router.post("/clients/{client_id}/places")
def keep(request: Request, posted: Form, client_id: Id) -> Response:
    """Keeps the places as they were typed."""
    typed = _typed(posted)
    problems = keeping.keep(house_of(request), posted.actor, client_id, typed, posted.was())
    return (
        _show(request, posted.signed, client_id, problems, typed)
        if problems
        else go(request, f"/clients/{client_id}/places")
    )


@router.post("/clients/{client_id}/places/{how}")
def step_back(request: Request, posted: Form, client_id: Id, how: Literal["undo", "redo"]) -> Response:
    """Takes the latest change of the places back, or does it again."""
    problems = keeping.step_back(house_of(request), posted.actor, client_id, how)
    return (
        _show(request, posted.signed, client_id, problems) if problems else go(request, f"/clients/{client_id}/places")
    )


def _typed(posted: Posted) -> TypedPlaces:
    def rows(kind: str) -> list[int]:
        return [n for n in range(MOST_ROWS + 1) if f"{kind}-{n}-name" in posted.form]

    return TypedPlaces(
        [
            TypedPlace(posted.text(f"place-{n}-key"), posted.text(f"place-{n}-name"), posted.text(f"place-{n}-where"))
            for n in rows("place")
        ],
        [
            TypedArea(
                posted.text(f"area-{n}-key"), posted.text(f"area-{n}-name"), posted.text(f"area-{n}-extent"),
                tuple(posted.texts(f"area-{n}-people")),
            )
            for n in rows("area")
        ],
        posted.text("codes"),
    )  # fmt: skip
