"""How much is read of what strangers send, however it is announced, and what their answers carry."""

import asyncio
from collections.abc import Callable
from typing import Any

import pytest

from tests.web.conftest import Browser
from tests.world import World
from vokari.api import control, reading
from vokari.settings import Settings
from vokari.web import app as web
from vokari.web import live
from vokari.web.doors import COOKIE, LARGEST_SIGN_IN
from vokari.work.agency import accounts

CHUNK = b"x" * 10_000


def endless(app: Any, path: str, *headers: tuple[bytes, bytes]) -> tuple[int, int, str]:
    """Posts a body without end in chunks; gives the status, how many bytes were read, and what was said."""
    scope = {
        "type": "http", "asgi": {"version": "3.0"}, "http_version": "1.1", "method": "POST", "path": path, "raw_path": path.encode(),
        "query_string": b"", "root_path": "", "scheme": "http", "server": ("testserver", 80), "client": ("203.0.113.9", 1),
        "headers": [(b"host", b"testserver"), (b"transfer-encoding", b"chunked"), *headers], "state": {},
    }  # fmt: skip
    read, answer = 0, {"status": 0, "body": b""}

    async def receive() -> dict[str, Any]:
        nonlocal read
        read += len(CHUNK)
        assert read < 10_000_000, "it is read without end"
        return {"type": "http.request", "body": CHUNK, "more_body": True}

    async def send(message: dict[str, Any]) -> None:
        answer["status"] = message.get("status", answer["status"])
        answer["body"] += message.get("body", b"")  # type: ignore[operator]

    asyncio.run(app(scope, receive, send))
    return int(answer["status"]), read, answer["body"].decode()  # type: ignore[attr-defined]


FORM = (b"content-type", b"application/x-www-form-urlencoded")


def test_bodies_are_counted_while_they_are_read_before_anybody_is_known(world: World, settings: Settings) -> None:
    pages = web.create(world.house, settings)
    for app, path, most in (
        (pages, "/sign-in", LARGEST_SIGN_IN), (pages, "/duty/1-abc", LARGEST_SIGN_IN), (control.create(world.house), "/calls/a/events", control.LARGEST_BODY),
    ):  # fmt: skip
        status, read, said = endless(app, path, FORM)
        assert status == 413, (path, said)
        assert read <= most + 2 * len(CHUNK)
        assert "More was sent than" in said


@pytest.mark.parametrize("announced", [b"99999999999", b"9" * 5000, b"-1", b"x", b"\xb2"])
def test_what_is_announced_is_not_believed(world: World, announced: bytes) -> None:
    for app in (control.create(world.house), reading.create(world.house)):
        status, read, _ = endless(app, "/calls/a/events", (b"content-length", announced))
        assert 400 <= status < 500
        assert read <= len(CHUNK)


def test_a_form_without_a_sign_in_is_not_read_at_all(world: World, settings: Settings) -> None:
    status, read, _ = endless(web.create(world.house, settings), "/clients/new", FORM)
    assert (status, read) == (303, 0)


def test_every_answer_has_the_same_headers_and_an_id(
    sign_in: Callable[..., Browser], monkeypatch: pytest.MonkeyPatch
) -> None:
    browser = sign_in("owner")

    def breaks(*_: object) -> None:
        raise ZeroDivisionError("a defect")

    monkeypatch.setattr("vokari.work.agency.tokens.listed", breaks)
    answers = [browser.get(path) for path in ("/", "/nothing", "/clients/999", "/tokens", "/static/none.css", "/a%00b")]
    assert [one.status_code for one in answers] == [200, 404, 404, 500, 404, 404]
    for one in answers:
        assert "default-src 'none'" in one.headers["content-security-policy"]
        assert one.headers["x-content-type-options"] == "nosniff"
        assert len(one.headers["x-request-id"]) == 12
    assert answers[3].headers["x-request-id"] in answers[3].text, "whoever looks after it finds it in the log"
    assert "ZeroDivisionError" not in answers[3].text


def test_an_open_stream_ends_with_its_sign_in(
    sign_in: Callable[..., Browser], world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    browser = sign_in("owner")
    token = browser.cookies.get(COOKIE)
    listener: live.Listener = browser.app.state.listener  # type: ignore[attr-defined]
    signed = accounts.signed_in(world.house, token or "")
    assert signed is not None

    async def listen() -> list[str]:
        class Asked:
            app = browser.app

        answer = live.events(Asked(), signed, world.client.id)  # type: ignore[arg-type]
        found: list[str] = []
        async for part in answer.body_iterator:  # type: ignore[attr-defined]
            found.append(part)
            if len(found) == 1:
                while not listener.listens.is_set():
                    await asyncio.sleep(0.02)
                await asyncio.to_thread(accounts.sign_out, world.house, token or "")
        return found

    assert asyncio.run(asyncio.wait_for(listen(), 60)) == ["retry: 2000\n\n"]
    monkeypatch.setattr(live, "HEARTBEAT", 0.05)
    assert asyncio.run(asyncio.wait_for(listen(), 60)) == ["retry: 2000\n\n"], "nor does one begin that has ended"
