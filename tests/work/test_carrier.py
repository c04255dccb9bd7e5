"""The carrier stand-in when Vokari is away, talks nonsense, or is asked to poke a call."""

import asyncio
import json
from typing import Any

import httpx
import pytest

from tests.flows import DANA
from vokari.standins.carrier.line import RETRIES, CallScript, Line, PhoneScript, Vokari

VOKARI = Vokari("http://vokari.test", "stand-in", b"secret")


def placed(answers: Any, fail_safe: str = DANA, **script: Any) -> Line:
    """A call whose every event is answered by `answers(seq, event)`."""

    def handler(request: httpx.Request) -> httpx.Response:
        message = json.loads(request.content)
        result = answers(message["seq"], message["event"])
        if isinstance(result, list):
            body = {"call": message["call"], "seq": message["seq"], "commands": result, "ended": False}
            return httpx.Response(200, json=body)
        assert isinstance(result, httpx.Response)
        return result

    async def run() -> Line:
        async with httpx.AsyncClient(transport=httpx.MockTransport(handler)) as http:
            wanted = CallScript.model_validate(
                {"from": "+14105550185", "to": "+14105550142", "speed": "fast", **script}
            )
            line = Line("r1", wanted, VOKARI, fail_safe, http)
            await line.run()
            return line

    return asyncio.run(run())


@pytest.fixture(autouse=True)
def impatient(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("vokari.standins.carrier.line.RETRIES", (0.0,) * len(RETRIES))


@pytest.mark.parametrize(
    "nonsense",
    [
        httpx.Response(200, text="hello"),
        httpx.Response(200, json={"call": "r1", "seq": 1, "commands": [{"type": "dance"}], "ended": False}),
        httpx.Response(404, json={"title": "This number is not in service here"}),
        httpx.Response(200, json={"call": "r1", "seq": 1, "commands": [{"type": "connect", "id": 9}], "ended": False}),
        httpx.Response(503),
    ],
)
def test_whatever_goes_wrong_the_caller_reaches_the_fail_safe(nonsense: httpx.Response) -> None:
    line = placed(lambda *_: nonsense, phones={DANA: {"behavior": "answers", "after": 5, "talk": 30}})
    assert line.used_fail_safe
    assert [one["what"] for one in line.trace][-2:] == [f"talks with {DANA}", "the person hangs up"]
    assert line.now == 35


def test_an_event_is_posted_again_until_vokari_is_back() -> None:
    tries: list[int] = []

    def away_twice(seq: int, _: Any) -> Any:
        tries.append(seq)
        return httpx.Response(502) if len(tries) < 3 else [{"type": "hang_up", "id": 1}]

    line = placed(away_twice)
    assert tries == [1, 1, 1]
    assert line.over
    assert not line.used_fail_safe


@pytest.mark.parametrize(
    ("phone", "outcomes"),
    [
        (PhoneScript(behavior="answers", after=4, talk=9), ["answered", "ended"]),
        (PhoneScript(behavior="busy"), ["busy"]),
        (PhoneScript(behavior="declines", after=3), ["declined"]),
        (PhoneScript(behavior="unreachable"), ["unreachable"]),
        (PhoneScript(behavior="rings_out"), ["rang_out"]),
        (PhoneScript(behavior="answers", after=21), ["rang_out"]),
    ],
)
def test_a_phone_behaves_as_it_is_told(phone: PhoneScript, outcomes: list[str]) -> None:
    seen: list[str] = []

    def answer(seq: int, event: dict[str, Any]) -> Any:
        if seq == 1:
            ring = {"type": "ring", "id": 1, "number": DANA, "seconds": 20, "shows": "caller"}
            return [ring]
        seen.append(event["outcome"])
        return [{"type": "connect", "id": 1}] if event["outcome"] == "answered" else [{"type": "hang_up", "id": 2}]

    placed(answer, phones={DANA: phone.model_dump()})
    assert seen == outcomes


def test_an_own_mailbox_takes_the_call_unless_a_key_or_the_carriers_ear_keeps_it() -> None:
    def outcome(**more: Any) -> list[str]:
        seen: list[str] = []

        def answer(seq: int, event: dict[str, Any]) -> Any:
            if seq == 1:
                return [{"type": "ring", "id": 1, "number": DANA, "seconds": 30, "shows": "caller", **more}]
            seen.append(event["outcome"])
            return [] if event["outcome"] == "answered" and more else [{"type": "hang_up", "id": 2}]

        placed(answer, phones={DANA: {"behavior": "mailbox", "after": 18}})
        return seen

    assert outcome() == ["answered"]
    assert outcome(accept={"key": "1", "seconds": 8}) == ["answered", "refused"]
    assert outcome(machine_detection=True) == ["machine"]


def test_a_poke_becomes_the_next_numbered_event() -> None:
    seen: list[tuple[int, str]] = []

    def answer(seq: int, event: dict[str, Any]) -> Any:
        seen.append((seq, event["type"]))
        return (
            [{"type": "hang_up", "id": 2}] if event["type"] == "poked" else [{"type": "listen", "id": 1, "seconds": 30}]
        )

    async def run() -> None:
        def handler(request: httpx.Request) -> httpx.Response:
            message = json.loads(request.content)
            commands = answer(message["seq"], message["event"])
            return httpx.Response(200, json={"call": "r1", "seq": message["seq"], "commands": commands, "ended": False})

        async with httpx.AsyncClient(transport=httpx.MockTransport(handler)) as http:
            script = CallScript.model_validate({"to": "+14105550142", "speed": "real"})
            line = Line("r1", script, VOKARI, "", http)
            task = asyncio.create_task(line.run())
            while not seen:
                await asyncio.sleep(0.01)
            line.poke()
            await asyncio.wait_for(task, 5)

    asyncio.run(run())
    assert seen == [(1, "call_arrived"), (2, "poked")]
