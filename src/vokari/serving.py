"""The applications as a server starts them, each from the environment."""

import asyncio
import os
import signal
import socket
import threading
import time
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager

import structlog
import uvicorn
from fastapi import FastAPI
from sqlalchemy.exc import SQLAlchemyError

from .memory import settle
from .pulse import Pulse
from .settings import from_environment
from .wiring import build
from .work.calls import reconciling
from .work.house import maintenance
from .work.house.house import House
from .work.places import ready as places
from .work.prompts import speech

log = structlog.get_logger()


ORPHAN_EVERY = 1.0


def run(part: str, listener: socket.socket, *, crew: int | None = None) -> None:
    """Serves one part at a socket that listens, until the process is told to end; one of several also ends when the process
    that started them, `crew`, is gone, so that none is left at the port."""
    if crew is not None:
        threading.Thread(target=_end_alone, args=(crew,), daemon=True, name="crew").start()
    config = uvicorn.Config(f"vokari.serving:{part}", factory=True, log_level="warning", access_log=False)
    uvicorn.Server(config).run(sockets=[listener])


def _end_alone(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(ORPHAN_EVERY)
    os.kill(os.getpid(), signal.SIGTERM)


def web() -> FastAPI:
    """The application for people, with the API for programs under /api."""
    from .api.reading import create as create_api
    from .web.app import create

    settings = from_environment()
    house = build(settings, outlives=True)
    app = create(house, settings)
    app.mount("/api", create_api(house))
    return beating(app, Pulse("web", settings.data), house, first=lambda: speech.warm(house))


def control() -> FastAPI:
    """The call-control endpoint for carriers. When it starts it makes the history's months, and asks the carrier about calls
    that went on while it was away."""
    from .api.control import create

    settings = from_environment()
    house = build(settings, pool=20)
    return beating(create(house), Pulse("control", settings.data), house, first=lambda: _catch_up(house))


def carrier() -> FastAPI:
    """The carrier stand-in."""
    from .standins.carrier.app import from_environment as carrier_app

    app: FastAPI = carrier_app()
    return beating(app, Pulse("carrier", from_environment().data), None)


def beating(app: FastAPI, pulse: Pulse, house: House | None, first: Callable[[], None] | None = None) -> FastAPI:
    """The application, which gives signs of life while it serves; `first` is done beside it when it starts."""
    inner = app.router.lifespan_context

    @asynccontextmanager
    async def lifespan(served: FastAPI) -> AsyncIterator[None]:
        async with inner(served):
            settle()
            beats = asyncio.create_task(pulse.run(house))
            if first is not None:
                threading.Thread(target=first, daemon=True, name="catching up").start()
            try:
                yield
            finally:
                beats.cancel()

    app.router.lifespan_context = lifespan
    return app


def _catch_up(house: House) -> None:
    for do in (maintenance.make_months, reconciling.follow, places.warm):
        try:
            do(house)
        except SQLAlchemyError as error:
            log.warning("could not catch up yet", what=do.__name__, because=str(error).splitlines()[0])
