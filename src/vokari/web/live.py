"""Live pages: one listener a process, fanned out to the pages that are open as server-sent events."""

import asyncio
import contextlib
import json
import threading
from collections.abc import AsyncIterator
from typing import Any

import psycopg
from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response, StreamingResponse

from ..work.agency import accounts, clients
from ..work.house.open_pages import CHANNEL
from .doors import Id, Signed, house_of

router = APIRouter()
HEARTBEAT = 20.0


class Listener:
    """Listens to PostgreSQL in a thread of its own, from the first page on, and hands each notice to every open page."""

    def __init__(self, database_url: str) -> None:
        self.url = database_url.replace("+psycopg", "")
        self.lock = threading.Lock()
        self.started = False
        self.listens = threading.Event()
        self.pages: set[tuple[asyncio.AbstractEventLoop, asyncio.Queue[dict[str, Any]]]] = set()

    def join(self, loop: asyncio.AbstractEventLoop) -> asyncio.Queue[dict[str, Any]]:
        """A queue that gets every notice from now on; the first one starts the listening."""
        queue: asyncio.Queue[dict[str, Any]] = asyncio.Queue(maxsize=200)
        with self.lock:
            self.pages.add((loop, queue))
            if not self.started:
                self.started = True
                threading.Thread(target=self._listen, daemon=True, name="call notices").start()
        return queue

    def leave(self, loop: asyncio.AbstractEventLoop, queue: asyncio.Queue[dict[str, Any]]) -> None:
        """Takes a queue away."""
        with self.lock:
            self.pages.discard((loop, queue))

    def _listen(self) -> None:
        pause = threading.Event()
        while True:
            try:
                with psycopg.connect(self.url, autocommit=True) as connection:
                    connection.execute(f"LISTEN {CHANNEL}")
                    self.listens.set()
                    for notice in connection.notifies():
                        self._hand_out(json.loads(notice.payload))
            except psycopg.Error:
                self.listens.clear()
                pause.wait(1.0)

    def _hand_out(self, notice: dict[str, Any]) -> None:
        with self.lock:
            pages = list(self.pages)
        for loop, queue in pages:
            with contextlib.suppress(RuntimeError):  # a page whose loop has ended meanwhile
                loop.call_soon_threadsafe(_offer, queue, notice)


def _offer(queue: asyncio.Queue[dict[str, Any]], notice: dict[str, Any]) -> None:
    """Hands a notice to a page. One that is far behind misses changes of calls, and never the end of its sign-in."""
    if queue.full() and "ended" in notice:
        queue.get_nowait()
    if not queue.full():
        queue.put_nowait(notice)


@router.get("/clients/{client_id}/events")
def events(request: Request, signed: Signed, client_id: Id) -> Response:
    """The changes of a client's calls, one `call` event each with the call's id, and of its drafts, one `flow` event each with the
    revision, and one `proof` event once it was proven, until the sign-in ends."""
    house = house_of(request)
    clients.get(house, signed.actor, client_id)
    listener: Listener = request.app.state.listener

    async def stream() -> AsyncIterator[str]:
        loop = asyncio.get_running_loop()
        queue = listener.join(loop)
        try:
            yield "retry: 2000\n\n"
            while True:
                try:
                    notice = await asyncio.wait_for(queue.get(), HEARTBEAT)
                except TimeoutError:
                    if not await run_in_threadpool(accounts.stands, house, signed.sign_in_id):
                        return
                    yield ": here\n\n"
                    continue
                if notice.get("ended") == signed.sign_in_id or house.now() >= signed.expires_at:
                    return
                if notice.get("client") == client_id and "proven" in notice:
                    yield f"event: proof\ndata: {json.dumps({'flow': notice['flow'], 'revision': notice['proven']})}\n\n"
                elif notice.get("client") == client_id and "flow" in notice:
                    yield f"event: flow\ndata: {json.dumps({'flow': notice['flow'], 'revision': notice['revision']})}\n\n"
                elif notice.get("client") == client_id:
                    yield f"event: call\ndata: {notice['call']}\n\n"
        finally:
            listener.leave(loop, queue)

    return StreamingResponse(stream(), media_type="text/event-stream", headers={"X-Accel-Buffering": "no"})
