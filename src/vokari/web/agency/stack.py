"""The state of the stack: its parts, what ended them, the space that is left, and the jobs that failed or wait."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...work.agency import stack
from ..doors import Form, Signed, house_of
from ..pages import Pages, go

router = APIRouter()

STATE_WORDS = {"failed": "failed", "again": "waits for another try", "doing": "under way"}
QUEUE_WORDS = {
    "pokes": "calls to be told", "look_ups": "look-ups", "calls": "following the carrier", "default": "everything else"
}  # fmt: skip


@router.get("/stack")
def show(request: Request, signed: Signed) -> Response:
    """The parts of the stack, the jobs that failed or wait, and the space that is left."""
    return _show(request, signed)


def _show(request: Request, signed: Signed, status: int = 200, problem: str = "") -> Response:
    pages: Pages = request.app.state.pages
    found = stack.opened(house_of(request), signed.actor)
    return pages.show(
        request, "agency/stack.html", signed, section="stack", stack=found, state_words=STATE_WORDS, queue_words=QUEUE_WORDS,
        short=found.free_bytes is not None and found.free_bytes < stack.SHORT_BYTES, problem=problem, status=status,
    )  # fmt: skip


@router.post("/stack/jobs")
def again(request: Request, posted: Form) -> Response:
    """Has a job done once more."""
    if not stack.retry(house_of(request), posted.actor, posted.whole("job") or 0):
        return _show(request, posted.signed, 409, "This job is done, or under way, by now.")
    return go(request, "/stack#jobs")
