"""Look-ups: asked beside the call, kept under a name, given up in time, and waited for when the caller has gone."""

import threading
import time
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, HTTPServer
from typing import Any

import pytest
from sqlalchemy import select, text

from tests.conftest import StandingClock
from tests.flows import document, ring, say, voicemail
from tests.wire import Wire
from tests.work.people.test_people import CALLED, add
from tests.world import World
from vokari.core.checks.finding import Surroundings
from vokari.core.checks.flows import findings
from vokari.store.calls import Call, CallLog, LookUpRow
from vokari.webclient import WebOverHttp, is_public
from vokari.work.calls import asking, history
from vokari.work.flows import rehearsals
from vokari.work.flows.open_rehearsals import OpenRehearsal
from vokari.work.house.ports import Unreachable


class Web:
    """A system that answers as it is told, and keeps what it was asked."""

    def __init__(self) -> None:
        self.asked: list[tuple[str, dict[str, str], float]] = []
        self.answer: tuple[int, str] | None = (200, '{"answer": "two tents"}')

    def get(self, url: str, sent: dict[str, str], seconds: float) -> tuple[int, str]:
        self.asked.append((url, sent, seconds))
        if self.answer is None:
            raise Unreachable("nobody there")
        return self.answer


def look_up(**more: Any) -> dict[str, Any]:
    exits = {"found": "f", "not_found": "n", "failed": "x"} | more
    return {"kind": "look_up", "id": "q", "name": "Orders", "url": "https://orders.example.com/by", "send": ["caller"],
            "store_as": "order", "patience": 4, **exits}  # fmt: skip


SAID = (say("f", "Found", "end"), say("n", "Unknown", "end"), say("x", "Failed", "end"))


@pytest.fixture
def web(world: World) -> Web:
    made = Web()
    object.__setattr__(world.house, "web", made)
    return made


def arrive(world: World, *steps: dict[str, Any]) -> Wire:
    flow = world.flow(document(*steps, voicemail(), rescue="vm", name="Asks", mark="AS"))
    world.number(CALLED, world.source("Sign"), flow)
    wire = Wire(world.house)
    wire.arrive(CALLED)
    return wire


def work(world: World) -> int:
    """Does the look-ups that are queued, each twice as a worker may; gives how many there were."""
    with world.house.begin() as session:
        query = "DELETE FROM procrastinate_jobs WHERE task_name = 'look_up' RETURNING args"
        jobs = [args["look_up_id"] for args in session.scalars(text(query))]
    for job in jobs * 2:
        asking.run(world.house, job)
    return len(jobs)


def heard(wire: Wire) -> str:
    return " ".join(one["words"] for one in wire.commands if one["type"] == "play")


def test_the_call_waits_the_worker_asks_once_and_the_poke_goes_on(world: World, web: Web) -> None:
    wire = arrive(world, look_up(), *SAID)
    assert [one["type"] for one in wire.commands] == ["timer"]
    assert wire("poked", 1) == [], "not there yet"
    assert work(world) == 1
    assert web.asked == [("https://orders.example.com/by", {"caller": "+14105550185"}, 4)]
    wire("poked", 2)
    assert heard(wire) == "Found"


@pytest.mark.parametrize(
    ("answer", "said"),
    [
        ((404, ""), "Unknown"), ((200, '{"answer": ""}'), "Unknown"), ((200, '{"answer": null}'), "Unknown"),
        ((200, '{"answer": 7}'), "Found"), ((200, "no json"), "Failed"), ((200, "[]"), "Failed"), ((500, ""), "Failed"),
        ((200, '{"answer": {}}'), "Failed"), (None, "Failed"),
    ],
)  # fmt: skip
def test_what_the_system_answers_decides_the_exit(
    world: World, web: Web, answer: tuple[int, str] | None, said: str
) -> None:
    web.answer = answer
    wire = arrive(world, look_up(), *SAID)
    work(world)
    wire("poked", 2)
    assert heard(wire) == said


def test_when_the_time_is_up_it_has_failed_and_a_late_answer_changes_nothing(world: World, web: Web) -> None:
    wire = arrive(world, look_up(), *SAID)
    wire("timer", 4, command=wire.commands[0]["id"])
    assert heard(wire) == "Failed"
    work(world)
    assert wire("poked", 5) == []


def test_after_an_answered_call_it_is_asked_though_the_caller_has_gone_and_a_notice_can_say_it(
    world: World, web: Web
) -> None:
    ada = add(world, "Ada", email="ada@example.com")
    rings = {**ring("r", no_answer="vm", after="q"), "to": [{"kind": "person", "id": "p", "person": ada.key}]}
    tells = {
        "kind": "notify",
        "id": "t",
        "to": [{"kind": "person", "of": ada.key}],
        "words": "Had ordered {order}.",
        "next": "end",
    }
    wire = arrive(world, rings, look_up(found="t", not_found="t", failed="t"), tells)
    wire("leg", 5, command=wire.commands[0]["id"], outcome="answered")
    wire("caller_gone", 30)
    assert wire.ended, "for the carrier; the call stays in progress until its look-up is folded in"
    assert work(world) == 1
    with world.house.begin() as session:
        told = session.scalar(text("SELECT args ->> 'words' FROM procrastinate_jobs WHERE task_name = 'send_notice'"))
        assert session.scalar(select(LookUpRow.id)) is None
        entries = session.scalar(select(CallLog.entries))
    assert told == "Had ordered two tents."
    assert entries[-1]["answers"][0]["answer"] == ["found", "two tents"], "folding the log again asks nobody"


def test_a_rehearsal_is_told_what_the_system_answers_and_asks_nobody(world: World, web: Web) -> None:
    flow = world.flow(document(look_up(), *SAID, voicemail(), rescue="vm"), live=False)
    args = (world.house, world.actor, world.client.id)
    call = rehearsals.begin(*args, flow.id, called="", caller="", at=world.house.now())
    assert isinstance(call, OpenRehearsal)
    assert call.state.phase == "looking"
    assert isinstance(rehearsals.system_answers(*args, call.id, "found", "  ", None), list)
    after = rehearsals.system_answers(*args, call.id, "found", "two tents", None)
    assert isinstance(after, OpenRehearsal)
    assert (after.state.at, dict(after.state.values)) == ("f", {"order": "two tents"})
    assert web.asked == []


@pytest.mark.parametrize(
    "url", ["", "orders.example.com", "ftp://orders.example.com", "https://user@orders.example.com/"]
)
def test_an_address_that_is_none_is_found(url: str) -> None:
    found = findings(document(look_up(url=url), *SAID), Surroundings({}, []))
    assert "no_address" in {one.kind for one in found}


class _Orders(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        self.send_response(302 if "move" in self.path else 200)
        self.send_header("Location", "/elsewhere")
        self.end_headers()
        for _ in range(60 if "drip" in self.path else 0):
            self.wfile.write(b"x")
            self.wfile.flush()
            time.sleep(0.1)
        said = "Host " + self.headers["Host"] if "host" in self.path else self.path
        self.wfile.write(b"x" * 100_000 if "large" in self.path else said.encode())

    def log_message(self, *_: object) -> None:
        return None


@pytest.fixture
def orders() -> Iterator[int]:
    server = HTTPServer(("127.0.0.1", 0), _Orders)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server.server_port
    server.shutdown()
    server.server_close()


def test_systems_are_asked_over_http_and_private_addresses_are_not(orders: int) -> None:
    here = f"http://127.0.0.1:{orders}"
    allowed = WebOverHttp({f"127.0.0.1:{orders}"})
    assert allowed.get(f"{here}/by?x=1", {"caller": "+1410"}, 3) == (200, "/by?x=1&caller=%2B1410")
    assert allowed.get(f"{here}/move", {}, 3)[0] == 302, "redirections are not followed"
    for web, url in (
        (allowed, f"{here}/large"),
        (allowed, "ftp://127.0.0.1/x"),
        (WebOverHttp(), here),
        (allowed, "http://[::1]:9/"),
        (allowed, "nonsense"),
    ):
        with pytest.raises(Unreachable):
            web.get(url, {}, 3)


def test_a_system_that_drips_is_given_up_when_the_time_is_over(orders: int) -> None:
    began = time.monotonic()
    with pytest.raises(Unreachable, match=r"within 0\.5 s"):
        WebOverHttp({f"127.0.0.1:{orders}"}).get(f"http://127.0.0.1:{orders}/drip", {}, 0.5)
    assert time.monotonic() - began < 4, "of 6 seconds of dripping"


def test_the_address_that_was_checked_is_the_one_connected_to(orders: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """A name that leads elsewhere the second time it is looked up is looked up once, and asked for under its own name."""
    asked: list[str] = []

    async def leads(_: object, host: str, port: int, **__: object) -> list[Any]:
        asked.append(host)
        return [(2, 1, 6, "", ("127.0.0.1", port))]

    monkeypatch.setattr("asyncio.base_events.BaseEventLoop.getaddrinfo", leads)
    found = WebOverHttp({f"orders.example.com:{orders}"}).get(f"http://orders.example.com:{orders}/host", {}, 3)
    assert found == (200, f"Host orders.example.com:{orders}")
    assert asked[0] == "orders.example.com"
    with pytest.raises(Unreachable, match="private"):
        WebOverHttp().get(f"http://orders.example.com:{orders}/host", {}, 3)


@pytest.mark.parametrize(
    ("address", "public"),
    [
        ("93.184.215.14", True), ("2606:4700::1111", True), ("10.1.2.3", False), ("127.0.0.1", False), ("169.254.1.1", False),
        ("100.64.0.1", False), ("0.0.0.0", False), ("224.0.0.1", False), ("239.1.1.1", False), ("::1", False), ("fe80::1", False),
        ("fc00::1", False), ("ff0e::1", False), ("::ffff:10.0.0.1", False), ("64:ff9b::a00:1", False), ("64:ff9b::808:808", False),
        ("2002:a00:1::1", False), ("2001:0:4136:e378:8000:63bf:3fff:fdd2", False),
    ],
)  # fmt: skip
def test_what_is_public(address: str, public: bool) -> None:
    """RFC 6890 (special addresses), RFC 5771 and RFC 4291 (multicast), RFC 6052 (NAT64), RFC 3056 (6to4), RFC 4380 (Teredo)."""
    assert is_public(address) == public


def test_a_caller_who_hangs_up_while_the_answer_is_on_its_way_is_not_forgotten(world: World, web: Web) -> None:
    ada = add(world, "Ada", email="ada@example.com")
    rings = {**ring("r", no_answer="vm", after="q"), "to": [{"kind": "person", "id": "p", "person": ada.key}]}
    label = {"kind": "label", "id": "t", "labels": ["asked"], "next": "end"}
    wire = arrive(world, rings, look_up(found="t", not_found="t", failed="t"), label)
    leg = wire.commands[0]["id"]
    wire("leg", 5, command=leg, outcome="answered")
    wire("leg", 25, command=leg, outcome="ended")
    wire("caller_gone", 26)
    assert wire.ended
    assert history.in_progress(world.house, world.actor, world.client.id) == []
    assert work(world) == 2, "once for the step, once more because the caller has gone"
    assert len(web.asked) == 1
    with world.house.begin() as session:
        call = session.scalars(select(Call)).one()
    assert (call.labels, call.fate, call.seconds) == (["asked"], "answered", 26)


def test_a_look_up_whose_job_is_lost_holds_no_call_for_ever(world: World, web: Web, clock: StandingClock) -> None:
    ada = add(world, "Ada", email="ada@example.com")
    rings = {**ring("r", no_answer="vm", after="q"), "to": [{"kind": "person", "id": "p", "person": ada.key}]}
    wire = arrive(world, rings, look_up(found="end", not_found="end", failed="end"))
    wire("leg", 5, command=wire.commands[0]["id"], outcome="answered")
    wire("caller_gone", 30)
    assert asking.give_up(world.house) == 0
    clock.move(minutes=3)
    assert asking.give_up(world.house) == 1
    with world.house.begin() as session:
        assert session.scalars(select(Call.seconds)).one() == 30
