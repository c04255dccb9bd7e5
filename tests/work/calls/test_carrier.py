"""The carrier stand-in when Vokari is away, talks nonsense, or is asked to poke a call."""

import asyncio
import json
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
import pytest

from tests.flows import DANA
from vokari.standins.carrier.inventory import Inventory
from vokari.standins.carrier.line import HOLD_SOUND, Line
from vokari.standins.carrier.register import CallRegister
from vokari.standins.carrier.script import CallScript, PhoneScript, Vokari

VOKARI = Vokari("http://vokari.test", "stand-in", b"secret")


def register(folder: Path | None = None) -> CallRegister:
    return CallRegister(Inventory((folder or Path(tempfile.mkdtemp())) / "carrier.sqlite"))


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
            line = Line("r1", wanted, VOKARI, fail_safe, http, register())
            await line.run()
            return line

    return asyncio.run(run())


@pytest.fixture(autouse=True)
def impatient(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("vokari.standins.carrier.telling.RETRIES", (0.01,))
    monkeypatch.setattr("vokari.standins.carrier.telling.FIRST_PATIENCE", 0.2)
    monkeypatch.setattr("vokari.standins.carrier.telling.PATIENCE", 0.3)


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


def test_a_hung_application_keeps_nobody_waiting_longer_than_the_patience(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("vokari.standins.carrier.telling.ONE_TRY", 0.1)

    async def run() -> tuple[Line, float]:
        async def hung(request: httpx.Request) -> httpx.Response:
            await asyncio.sleep(60)
            return httpx.Response(200)

        async with httpx.AsyncClient(transport=httpx.MockTransport(hung)) as http:
            line = Line(
                "r1", CallScript.model_validate({"to": "+14105550142", "speed": "fast"}), VOKARI, DANA, http, register()
            )
            began = time.monotonic()
            await line.run()
            return line, time.monotonic() - began

    line, seconds = asyncio.run(run())
    assert line.used_fail_safe
    assert seconds < 10, "0.2 s of patience, not the 60 of the answer"
    assert HOLD_SOUND in [one["what"] for one in line.trace]


def ends(event: str, **more: Any) -> tuple[Line, CallRegister]:
    """A call that Vokari answers until it should hear of one event, and never again."""
    rings = [{"type": "ring", "id": 1, "number": DANA, "seconds": 20, "shows": "caller"}]
    records = [{"type": "record", "id": 1, "beep": True, "longest": 60}]

    def answer(seq: int, told: dict[str, Any]) -> Any:
        if told.get("outcome", told["type"]) == event:
            return httpx.Response(503)
        if seq == 1:
            return records if event == "recording_finished" else rings
        return [{"type": "connect", "id": 1}] if told.get("outcome") == "answered" else []

    line = placed(answer, phones={DANA: {"behavior": "answers", "after": 4, "talk": 30}}, **more)
    assert isinstance(line.register, CallRegister)
    return line, line.register


@pytest.mark.parametrize(
    ("event", "more", "by"),
    [
        ("caller_gone", {"hangs_up": 12.0}, "caller"),
        ("ended", {}, "carrier"),
        ("recording_finished", {"message": {"voice": 5, "then": "hang_up"}}, "caller"),
    ],
)
def test_a_call_that_is_as_good_as_over_needs_no_fail_safe_and_its_end_is_told_when_asked(
    event: str, more: dict[str, Any], by: str
) -> None:
    line, calls = ends(event, **more)
    assert not line.used_fail_safe
    standing = calls.standing("r1")
    assert standing.state == "over"
    assert standing.record is not None
    assert (standing.record.by, standing.record.reached, standing.record.fail_safe) == (by, True, None)
    assert [getattr(one.event, "outcome", one.event.type) for one in standing.untold] == [event]


def test_a_recording_that_could_not_be_told_is_kept_though_the_caller_goes_on_to_the_fail_safe() -> None:
    line, calls = ends("recording_finished", message={"voice": 5, "then": "silence"})
    standing = calls.standing("r1")
    assert line.used_fail_safe
    assert standing.record is not None
    assert standing.record.fail_safe is not None
    assert [one.event.type for one in standing.untold] == ["recording_finished"]


def test_the_register_tells_how_calls_stand_and_outlives_the_process(tmp_path: Path) -> None:
    first = register(tmp_path)
    at = datetime(2026, 11, 24, 17, tzinfo=UTC)
    first.begin("a", "+14105550185", "+14105550142", at)
    assert first.standing("a").state == "exists"
    first.told("a", at.replace(minute=2))
    first.leaves("a")
    assert first.standing("a").state == "at_fail_safe"
    assert first.standing("x").state == "unknown"
    after_a_crash = register(tmp_path).standing("a")
    assert after_a_crash.record is not None
    assert (after_a_crash.state, after_a_crash.record.by) == ("over", "carrier")
    assert after_a_crash.record.ended_at == at.replace(minute=2), "the last moment that was known"


def test_calls_that_went_to_the_fail_safe_are_listed_in_order_with_what_came_of_them() -> None:
    line = placed(lambda *_: httpx.Response(503), phones={DANA: {"behavior": "answers", "after": 5, "talk": 30}})
    calls = line.register
    assert isinstance(calls, CallRegister)
    (one,) = calls.records(0, "", "", 10, fail_safe=True).calls
    assert one.fail_safe is not None
    assert (one.reached, one.fail_safe.to, one.fail_safe.outcome, one.fail_safe.talk_seconds) == (
        False,
        DANA,
        "answered",
        30,
    )
    assert (one.ended_at - one.at).total_seconds() == 35
    assert calls.records(one.number, "", "", 10, fail_safe=True).calls == ()
    assert calls.tally() == {"answered": 1, "by_a_mailbox": 0}


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
            line = Line("r1", script, VOKARI, "", http, register())
            task = asyncio.create_task(line.run())
            while not seen:
                await asyncio.sleep(0.01)
            line.poke()
            await asyncio.wait_for(task, 5)

    asyncio.run(run())
    assert seen == [(1, "call_arrived"), (2, "poked")]
