"""The applications as a server starts them, each from the environment."""

from fastapi import FastAPI

from .settings import from_environment
from .wiring import build


def web() -> FastAPI:
    """The application for people, with the API for programs under /api."""
    from .api.reading import create as create_api
    from .web.app import create

    house = build(from_environment())
    app = create(house, from_environment())
    app.mount("/api", create_api(house))
    return app


def control() -> FastAPI:
    """The call-control endpoint for carriers."""
    from .api.control import create

    return create(build(from_environment(), pool=20))


def carrier() -> FastAPI:
    """The carrier stand-in."""
    from .standins.carrier.app import from_environment as carrier_app

    app: FastAPI = carrier_app()
    return app
