"""What programs and carriers may send by the published OpenAPI documents, and what they may not: schemathesis makes up both."""

import contextlib
import json
import time
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from hypothesis.errors import Unsatisfiable
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import response_schema_conformance, status_code_conformance
from starlette.testclient import TestClient

from tests.world import World, main_line
from vokari.api.control import create as create_control
from vokari.api.reading import create as create_api
from vokari.formats.call_control.signature import CARRIER_HEADER, SIGNATURE_HEADER, carrier_secret, sign
from vokari.work.agency import tokens
from vokari.work.hours import sets
from vokari.work.house.views import HoursSetView
from vokari.work.numbers.numbers import CARRIER

BOUNDED = settings(
    max_examples=60, deadline=None, phases=[Phase.explicit, Phase.generate], suppress_health_check=list(HealthCheck)
)
MODES = (GenerationMode.POSITIVE, GenerationMode.NEGATIVE)
CONFORM: list[Any] = [not_a_server_error, response_schema_conformance, status_code_conformance]
CALLED = "+14105550142"


def operations(app: Any) -> list[Any]:
    """Every operation of an application's OpenAPI document."""
    schema = schemathesis.openapi.from_asgi("/openapi.json", app)
    return [found.ok() for found in schema.get_all_operations()]


def signed(world: World, body: bytes) -> dict[str, str]:
    key = carrier_secret(world.house.secret, CARRIER)
    return {CARRIER_HEADER: CARRIER, SIGNATURE_HEADER: sign(key, body, int(time.time()))}


def test_the_api_answers_as_its_document_says(world: World) -> None:
    assert isinstance(sets.create(world.house, world.actor, world.client.id, "Opening times", "client"), HoursSetView)
    made = tokens.make(world.house, world.actor, "Board", ["hours:read"])
    assert isinstance(made, tuple)
    found = operations(create_api(world.house))
    assert len(found) >= 4
    for operation in found:
        for mode in MODES:

            @BOUNDED
            @given(operation.as_strategy(generation_mode=mode))
            def ask(case: Any) -> None:
                answer = case.call(headers={"Authorization": f"Bearer {made[1]}"})
                case.validate_response(answer, checks=CONFORM)

            ask()


def test_call_control_answers_whatever_is_posted_to_it(world: World) -> None:
    """Signed as the carrier does, so that the event itself is looked at."""
    app = create_control(world.house)
    client = TestClient(app)
    for operation in operations(app):
        for mode in MODES:

            @BOUNDED
            @given(operation.as_strategy(generation_mode=mode))
            def ask(case: Any) -> None:
                has_body = isinstance(case.body, dict | list | str | int | float | bool)
                body = json.dumps(case.body).encode() if has_body else b""
                answer = client.request(case.method, case.formatted_path, content=body, headers=signed(world, body))
                assert answer.status_code < 500, (case.formatted_path, body, answer.text)

            # Where nothing can be wrong there is nothing wrong to make up.
            with contextlib.suppress(Unsatisfiable):
                ask()


def test_events_of_its_schema_in_any_order_break_no_call(world: World) -> None:
    world.number(CALLED, world.source("Search advert"), world.flow(main_line(), sources={"ls_bus": "Bus panel"}))
    app = create_control(world.house)
    client, refs = TestClient(app), iter(range(10**9))
    (events,) = (one for one in operations(app) if one.path.endswith("/events"))

    def send(ref: str, seq: int, event: object) -> int:
        said = {"call": ref, "seq": seq, "at": "2026-11-24T17:00:00Z", "event": event}
        body = json.dumps(said).encode()
        return client.post(f"/calls/{ref}/events", content=body, headers=signed(world, body)).status_code

    @BOUNDED
    @given(st.lists(events.as_strategy(generation_mode=GenerationMode.POSITIVE).map(lambda one: one.body), max_size=6))
    def run(bodies: list[Any]) -> None:
        ref, seq = f"made-up-{next(refs)}", 2
        assert send(ref, 1, {"type": "call_arrived", "caller": "+14105550185", "called": CALLED}) == 200
        for body in bodies:
            status = send(ref, seq, body["event"] if isinstance(body, dict) else body)
            assert status < 500
            seq += status == 200

    run()
