"""What stands around every request: headers that keep the page to itself, an id, and a line in the log; also where something
broke."""

import time
import uuid

import structlog
from fastapi import Request
from fastapi.responses import Response
from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from .pages import Pages, is_partial

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; media-src 'self' blob:;"
    " connect-src 'self'; frame-src 'self'; form-action 'self'; frame-ancestors 'self'; base-uri 'none'"
)


def policy(style_nonce: str = "") -> str:
    """The policy of a page; with a nonce, styles that its editor makes are let in."""
    return POLICY.replace("style-src 'self'", f"style-src 'self' 'nonce-{style_nonce}'") if style_nonce else POLICY


log = structlog.get_logger()


class Around:
    """An application whose answers carry these headers, and are never an error without words."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        began, request_id, status = time.perf_counter(), uuid.uuid4().hex[:12], 0
        scope["state"] = dict(scope.get("state", {}))
        of_page = not scope["path"].startswith("/static")

        async def with_headers(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                headers = MutableHeaders(scope=message)
                headers.update(
                    {
                        "Content-Security-Policy": policy(scope["state"].get("style_nonce", "")),
                        "X-Content-Type-Options": "nosniff",
                        "Referrer-Policy": "same-origin",
                        "Permissions-Policy": "microphone=(self), camera=(), geolocation=()",
                        "X-Request-Id": request_id,
                    }
                )
                if of_page:
                    headers.setdefault("Cache-Control", "no-store")
            await send(message)

        # A character 0 is no text anywhere: in a question it is left out, and nothing is at an address that has one.
        scope["query_string"] = scope["query_string"].replace(b"%00", b"")
        try:
            app: ASGIApp = _unreadable(Request(scope)) if "\x00" in scope["path"] else self.app
            await app(scope, receive, with_headers)
        except Exception as error:
            log.exception("defect", id=request_id, path=scope["path"], error=repr(error))
            if status:
                raise
            await broken(Request(scope), request_id)(scope, receive, with_headers)
        if of_page:
            milliseconds = round((time.perf_counter() - began) * 1000, 1)
            log.info(
                "request", id=request_id, method=scope["method"], path=scope["path"], status=status, ms=milliseconds
            )


def _unreadable(request: Request) -> Response:
    pages: Pages = request.app.state.pages
    return pages.plain("error_plain.html", 404, title="Not here", sentence="This address cannot be read.")


def broken(request: Request, request_id: str) -> Response:
    """What is said of a defect of our own; asks nothing of what may be broken."""
    pages: Pages = request.app.state.pages
    template = "error_part.html" if is_partial(request) else "error_plain.html"
    sentence = f"Something broke on our side. Whoever looks after Vokari finds it in the log under {request_id}."
    return pages.plain(template, 500, title="This did not work", sentence=sentence)
