"""How much of a request is read (RFC 9110, 413 Content Too Large): the bytes are counted as they come, whatever was announced,
and before anybody asks who sent them."""

from collections.abc import Callable

from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send


class TooLarge(HTTPException):
    """More was sent than is read here."""

    def __init__(self, most: int) -> None:
        super().__init__(413, f"More was sent than the {_size(most)} that are read here.")


class Limited:
    """An application that reads at most so many bytes of each request; `most` says how many, by its path."""

    def __init__(self, app: ASGIApp, most: Callable[[str], int]) -> None:
        self.app = app
        self.most = most

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        most, read = self.most(scope["path"]), 0
        announced = Request(scope).headers.get("content-length", "0")
        if not (announced.isascii() and announced.isdigit()):
            answer = PlainTextResponse("Content-Length is no whole number.", 400)
            await answer(scope, receive, send)
            return
        # A number of thousands of digits is larger than any limit, and never read.
        over = len(announced.lstrip("0")) > 15 or int(announced) > most

        async def counted() -> Message:
            nonlocal read
            if over:
                raise TooLarge(most)
            message = await receive()
            read += len(message.get("body", b""))
            if read > most:
                raise TooLarge(most)
            return message

        await self.app(scope, counted, send)


def _size(most: int) -> str:
    return f"{most // 1_000_000} MB" if most >= 1_000_000 else f"{most // 1000} kB"
