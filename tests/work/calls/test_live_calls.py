"""Live calls over the call-control endpoint: the protocol, and what is left of a call when it is over."""

import json
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from sqlalchemy import func, select, text
from sqlalchemy.exc import DataError, OperationalError, ProgrammingError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.testclient import TestClient

from tests.conftest import NOON, StandingClock
from tests.flows import DANA, JOEL, document, say, voicemail
from tests.wire import Wire
from tests.world import World, main_line
from vokari.api import control
from vokari.api.control import create
from vokari.core.flows.questions import stored as answers_stored
from vokari.core.flows.running import engine, events, state, stored
from vokari.core.reports.periods import latest
from vokari.core.traffic.line import Message, Phone, ScriptedCaller, run_call
from vokari.formats.call_control.sending import to_wire
from vokari.formats.call_control.signature import carrier_secret
from vokari.store.calls import Call, CallDay, LiveCall, LiveEvent, VoiceMessage
from vokari.work.agency import clients
from vokari.work.calls import history, messages, reconciling
from vokari.work.calls.history import CallFilter
from vokari.work.flows import rehearsals
from vokari.work.flows.open_rehearsals import OpenRehearsal
from vokari.work.numbers import assignments, number_form, numbers
from vokari.work.numbers.number_form import NumberForm
from vokari.work.numbers.numbers import CARRIER
from vokari.work.reports import reports


@pytest.fixture
def line(world: World) -> World:
    """The main line, live on a number that belongs to the search advert."""
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    world.number("+14105550142", world.source("Search advert"), flow)
    return world


def over(world: World) -> list[history.CallLine]:
    return history.log(world.house, world.actor, world.client.id, CallFilter(with_tests=True))


def test_an_answered_call_is_credited_to_its_source(line: World) -> None:
    wire = Wire(line.house)
    assert [one["type"] for one in wire.arrive()] == ["play"]
    rung = wire("digit", 3, key="1")
    assert (rung[0]["number"], rung[0]["seconds"]) == (DANA, 20)
    assert [one["type"] for one in wire("leg", 9, command=rung[0]["id"], outcome="answered")] == ["connect"]
    assert history.in_progress(line.house, line.actor, line.client.id)[0].step == "Yard office"
    wire("caller_gone", 99)
    assert wire.ended
    done = over(line)[0]
    assert (done.call.fate, done.source, done.call.seconds, done.call.talk_seconds, done.call.answered_by) == (
        "answered",
        "Search advert",
        99,
        90,
        DANA,
    )
    page = history.one(line.house, line.actor, line.client.id, done.call.id)
    assert [entry["event"]["kind"] for entry in page.entries] == ["arrived", "digit", "leg", "gone"]
    report = reports.by_source(line.house, line.actor, line.client.id, latest(1, NOON.date()))
    assert report.total.by_fate["answered"] == 1
    with line.house.begin() as session:
        assert session.scalar(select(func.count()).select_from(LiveCall)) == 0
        assert session.scalar(select(func.count()).select_from(LiveEvent)) == 0


def test_a_key_that_states_a_source_has_the_credit(line: World) -> None:
    wire = Wire(line.house)
    wire.arrive()
    wire("digit", 2, key="7")
    wire("caller_gone", 20)
    done = over(line)[0]
    assert (done.source, done.call.source_by, done.call.fate, done.call.reason) == (
        "Bus panel",
        "key",
        "lost",
        "ringing",
    )


def test_the_assignment_of_the_calls_moment_counts(line: World, clock: StandingClock) -> None:
    number_id = numbers.of_client(line.house, line.actor, line.client.id)[0].number.id
    clock.move(days=1)
    assignments.give(line.house, line.actor, line.client.id, number_id, line.source("Leaflet").id)
    early, late = Wire(line.house, "early"), Wire(line.house, "late", start=clock.now())
    for wire in (early, late):
        wire.arrive()
        wire("caller_gone", 30)
    assert {one.source for one in over(line)} == {"Search advert", "Leaflet"}


def test_a_repeated_event_gets_the_same_commands_and_changes_nothing(line: World) -> None:
    wire = Wire(line.house)
    first = wire.post(wire.body(1, 0, {"type": "call_arrived", "called": "+14105550142"}))
    again = wire.post(wire.body(1, 0, {"type": "call_arrived", "called": "+14105550142"}))
    assert first.content == again.content, "to the byte"
    last = wire.post(wire.body(2, 9, {"type": "caller_gone"}))
    late = wire.post(wire.body(2, 9, {"type": "caller_gone"}))
    assert late.content == last.content
    assert wire.post(wire.body(1, 0, {"type": "call_arrived", "called": "+14105550142"})).content == first.content
    assert late.json() == {"call": wire.ref, "seq": 2, "commands": [], "ended": True}
    assert len(over(line)) == 1


@pytest.mark.parametrize(
    ("seq", "event", "status", "kind", "expected"),
    [
        (1, {"type": "call_arrived", "called": "+14105550142", "caller": "+14105550180"}, 409, "sequence-reused", None),
        (5, {"type": "caller_gone"}, 409, "sequence-gap", 2),
        (2, {"type": "call_arrived", "called": "+14105550142"}, 409, "arrived-twice", 2),
        (2, {"type": "juggle"}, 422, "malformed-event", None),
        (2, {"type": "digit", "key": "12"}, 422, "malformed-event", None),
        (2, {"type": "silence", "command": 1, "mood": "sad"}, 422, "malformed-event", None),
        (0, {"type": "caller_gone"}, 422, "malformed-event", None),
    ],
)
def test_a_wrong_event_gets_a_problem_and_leaves_the_call_unharmed(
    line: World, seq: int, event: dict[str, object], status: int, kind: str, expected: int | None
) -> None:
    """RFC 9457 problem documents."""
    wire = Wire(line.house)
    wire.arrive()
    answer = wire.post(wire.body(seq, 1, event))
    assert answer.status_code == status
    assert answer.headers["content-type"] == "application/problem+json"
    problem = answer.json()
    assert (problem["type"], problem["status"], problem.get("expected_seq")) == (f"/problems/{kind}", status, expected)
    assert wire("digit", 3, key="1")[0]["type"] == "ring"


def test_unsigned_stale_and_forged_events_are_refused(line: World) -> None:
    wire = Wire(line.house)
    body = wire.body(1, 0, {"type": "call_arrived", "called": "+14105550142"})
    path = f"/calls/{wire.ref}/events"
    assert wire.client.post(path, content=body).status_code == 401
    assert wire.client.post(path, content=body, headers={"Vokari-Carrier": "stand-in"}).status_code == 401
    assert wire.post(body, wall=time.time() - 400).json()["detail"] == "the signature is older than 300 seconds"
    assert wire.post(body, **{"Vokari-Signature": "t=1,v1=00"}).status_code == 401
    other = wire.body(1, 0, {"type": "call_arrived", "called": "+14105550143"})
    signed = wire.post(body).request.headers["Vokari-Signature"]
    assert wire.post(other, **{"Vokari-Signature": signed}).status_code == 401
    assert wire.post(b"{", wall=None).status_code == 400
    assert wire.post(b"x" * 70_000).status_code == 413
    odd = wire.client.post("/calls/+1/events", content=body)
    assert (odd.status_code, odd.headers["content-type"]) == (422, "application/problem+json")
    assert wire.client.get("/nowhere").headers["content-type"] == "application/problem+json"


def test_a_secret_that_was_renewed_holds_at_once_and_the_one_before_soon_no_more(
    line: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    wire = Wire(line.house)
    wire.arrive()
    with line.house.begin() as session:
        session.execute(text("UPDATE carriers SET secret_version = 2"))
    old, wire.secret = wire.secret, carrier_secret(line.house.secret, CARRIER, 2)
    wire("silence", 5, command=wire.commands[0]["id"])
    wire.secret = old
    assert wire.post(wire.body(3, 9, {"type": "caller_gone"})).status_code == 401
    wire.secret = carrier_secret(line.house.secret, CARRIER, 2)
    with line.house.begin() as session:
        session.execute(text("UPDATE carriers SET secret_version = 3"))
    monkeypatch.setattr(control, "KNOWN_SECONDS", -1.0)
    assert wire.post(wire.body(3, 9, {"type": "caller_gone"})).status_code == 401


@pytest.mark.parametrize(
    ("error", "status", "kind"),
    [
        (OperationalError("SELECT", {}, Exception("the server closed the connection")), 503, "unavailable"),
        (PoolTimeout("no connection to spare"), 503, "unavailable"),
        (DataError("INSERT", {}, Exception("invalid byte")), 422, "malformed-event"),
        (ProgrammingError("SELECT", {}, Exception("no such column")), 500, "defect"),
        (KeyError("odd"), 500, "defect"),
    ],
)
def test_the_database_is_named_only_when_it_is_the_database(
    line: World, monkeypatch: pytest.MonkeyPatch, error: Exception, status: int, kind: str
) -> None:
    def breaks(*_: object, **__: object) -> None:
        raise error

    monkeypatch.setattr("vokari.work.calls.live_calls.receive", breaks)
    wire = Wire(line.house, client=TestClient(create(line.house), raise_server_exceptions=False))
    answer = wire.post(wire.body(1, 0, {"type": "call_arrived", "called": "+14105550142"}))
    assert (answer.status_code, answer.json()["type"].rsplit("/")[-1].rsplit(":")[-1]) == (status, kind)
    assert ("database" in answer.text) == (status == 503)
    assert "the server closed" not in answer.text


def test_a_call_nobody_knows_and_a_number_nobody_has(line: World) -> None:
    wire = Wire(line.house)
    assert wire.post(wire.body(1, 0, {"type": "caller_gone"})).json()["type"] == "/problems/unknown-call"
    assert (
        wire.post(wire.body(1, 0, {"type": "call_arrived", "called": "+14105550100"})).json()["type"]
        == "/problems/unknown-number"
    )
    assert wire.post(wire.body(2, 0, {"type": "call_arrived", "called": "+14105550142"})).json()["expected_seq"] == 1


def test_only_stand_ins_may_let_the_clocks_differ(line: World) -> None:
    with line.house.engine.begin() as connection:
        connection.execute(text("UPDATE carriers SET stand_in = false"))
    wire = Wire(line.house, start=NOON.replace(year=2025))
    assert wire.post(wire.body(1, 0, {"type": "call_arrived", "called": "+14105550142"})).status_code == 422


def test_whoever_is_rung_hears_the_whisper_of_the_number(line: World) -> None:
    number = numbers.of_client(line.house, line.actor, line.client.id)[0].number
    assert (
        number_form.keep(
            line.house, line.actor, line.client.id, number.id, NumberForm("", "Boatyard, from the search advert")
        )
        == []
    )
    wire = Wire(line.house)
    wire.arrive()
    assert wire("digit", 3, key="1")[0]["whisper"] == "Boatyard, from the search advert"


def test_a_number_without_a_flow_rings_the_fail_safe(world: World) -> None:
    world.number("+14105550143")
    wire = Wire(world.house)
    rung = wire.arrive("+14105550143")
    assert (rung[0]["type"], rung[0]["number"]) == ("ring", DANA)
    wire("leg", 40, command=rung[0]["id"], outcome="rang_out")
    wire("prompt_finished", 45, command=wire.commands[0]["id"])
    assert (over(world)[0].call.fate, over(world)[0].call.reason) == ("lost", "no_flow")


def test_a_message_is_fetched_and_told_once(line: World, carrier: object) -> None:
    wire = Wire(line.house)
    wire.arrive()
    wire("digit", 2, key="2")
    wire("leg", 3, command=wire.commands[0]["id"], outcome="busy")
    wire("prompt_finished", 5, command=wire.commands[0]["id"])
    wire(
        "recording_finished",
        17,
        command=wire.commands[0]["id"],
        seconds=11,
        voice_seconds=9.5,
        caller_gone=True,
        recording="r-1",
    )
    assert over(line)[0].call.fate == "message_left"
    with line.house.begin() as session:
        message = session.scalars(select(VoiceMessage)).one()
        queued = (
            session.execute(
                text(
                    "SELECT task_name FROM procrastinate_jobs WHERE task_name IN ('tell_of_message', 'fetch_message') ORDER BY id"
                )
            )
            .scalars()
            .all()
        )
    assert queued == ["tell_of_message", "fetch_message"]
    messages.tell(line.house, message.id)
    messages.tell(line.house, message.id)
    mails = list((line.house.post.folder).glob("*.eml"))
    assert len(mails) == 1
    assert "yard@example.com" in mails[0].read_text()
    assert history.sound_of(line.house, line.actor, line.client.id, "message", message.id) is None


def test_calls_from_test_phones_count_nowhere(line: World) -> None:
    clients.add_test_phone(line.house, line.actor, "410-555-0199", "Test", "US")
    wire = Wire(line.house)
    wire.arrive(caller="+14105550199")
    wire("caller_gone", 30)
    assert over(line)[0].call.test
    with line.house.begin() as session:
        assert session.scalar(select(func.count()).select_from(CallDay)) == 0


def test_a_person_on_a_call_is_not_rung_by_another(line: World) -> None:
    first, second = Wire(line.house, "one"), Wire(line.house, "two")
    first.arrive()
    first("digit", 2, key="2")
    first("leg", 4, command=first.commands[0]["id"], outcome="answered")
    second.arrive()
    assert [one["type"] for one in second("digit", 2, key="2")] == ["play"]
    first("caller_gone", 60)
    third = Wire(line.house, "three")
    third.arrive()
    assert third("digit", 2, key="2")[0]["number"] == JOEL


def test_a_live_call_a_rehearsal_and_the_simulator_give_the_same_commands(line: World) -> None:
    flow_id = calls_flow(line)
    caller = ScriptedCaller(((4.0, "9"), (9.0, "2")), None, Message(6.0, "key"))
    flow_document = main_line()
    run = run_call(engine.prepare(flow_document), caller, {JOEL: Phone("declines", 5.0)})
    simulated = [[plain(to_wire(one).model_dump(mode="json")) for one in entry.commands] for entry in run.log]
    wire, live = Wire(line.house), []
    rehearsal = rehearsals.begin(
        line.house, line.actor, line.client.id, flow_id, called="410-555-0142", caller="", at=NOON
    )
    assert isinstance(rehearsal, OpenRehearsal)
    rehearsed = [[plain(one) for one in rehearsal.latest]]
    for entry in run.log:
        live.append(wire.happens(entry.event, entry.at))
        if not isinstance(entry.event, events.Arrived):
            shown = rehearsals.happen(line.house, line.actor, line.client.id, rehearsal.id, entry.event, 1.0)
            rehearsed.append([plain(one) for one in shown.latest])
    assert [[plain(one) for one in commands] for commands in live] == simulated == rehearsed
    assert wire.ended


def plain(command: dict[str, object]) -> dict[str, object]:
    """A command without the sound's place and length, which follow from what is made already, and the mailbox's key."""
    return {
        name: value for name, value in command.items() if name not in ("audio", "seconds") or command["type"] != "play"
    }


def calls_flow(world: World) -> int:
    with world.house.begin() as session:
        return session.execute(text("SELECT id FROM flows")).scalar_one()


def test_rehearsals_count_nowhere(line: World) -> None:
    rehearsals.begin(line.house, line.actor, line.client.id, calls_flow(line), called="", caller="", at=NOON)
    with line.house.begin() as session:
        assert session.scalar(select(func.count()).select_from(Call)) == 0
        assert session.scalar(select(func.count()).select_from(LiveCall)) == 0


def test_calls_side_by_side_keep_their_order(line: World) -> None:
    client = TestClient(create(line.house))

    def one(number: int) -> bool:
        wire = Wire(line.house, f"call-{number}", client=client)
        wire.arrive()
        wire("digit", 2, key="1")
        wire("leg", 5, command=wire.commands[0]["id"], outcome="rang_out")
        wire("caller_gone", 9)
        return wire.ended

    with ThreadPoolExecutor(6) as pool:
        assert all(pool.map(one, range(24)))
    assert len(over(line)) == 24
    report = reports.by_source(line.house, line.actor, line.client.id, latest(1, NOON.date()))
    assert report.total.by_fate["lost"] == 24


def test_a_first_event_that_arrives_twice_at_once_makes_one_call(line: World) -> None:
    client = TestClient(create(line.house))
    wire = Wire(line.house, "same", client=client)
    body = wire.body(1, 0, {"type": "call_arrived", "called": "+14105550142"})
    with ThreadPoolExecutor(4) as pool:
        answers = [answer.json() for answer in pool.map(wire.post, [body] * 4)]
    assert all(answer == answers[0] for answer in answers)
    with line.house.begin() as session:
        assert session.scalar(select(func.count()).select_from(LiveCall)) == 1


def test_a_call_whose_carrier_went_away_is_closed_as_lost(line: World, clock: StandingClock) -> None:
    Wire(line.house).arrive()
    assert reconciling.close_abandoned(line.house) == 0
    clock.move(hours=5)
    assert reconciling.close_abandoned(line.house) == 1
    assert (over(line)[0].call.fate, over(line)[0].call.reason) == ("lost", "carrier")


def test_every_message_of_a_call_is_kept_and_told(world: World) -> None:
    """product.md, Voicemail: a call may leave several messages; each is kept and told."""
    again = {**voicemail(), "message_left": "x"}
    two = document(again, say("x", "Anything else?", "w"), voicemail("w"), rescue="w", entry_limit=4)
    world.number("+14105550142", world.source("Sign"), world.flow(two))
    wire = Wire(world.house)
    wire.arrive()
    for at, seconds in ((5, 6.0), (20, 9.0)):
        while wire.commands[-1]["type"] == "play":
            wire("prompt_finished", at, command=wire.commands[-1]["id"])
        wire(
            "recording_finished",
            at + 10,
            command=wire.commands[-1]["id"],
            seconds=10,
            voice_seconds=seconds,
            recording=f"r{at}",
        )
    with world.house.begin() as session:
        kept = session.scalars(select(VoiceMessage.seconds).order_by(VoiceMessage.id)).all()
    assert kept == [6.0, 9.0]
    assert len(world.jobs("tell_of_message")) == len(world.jobs("fetch_message")) == 2


@pytest.mark.parametrize(
    "at", ["0001-01-01T00:00:00Z", "1999-12-31T23:59:59Z", "2100-01-01T00:00:00Z", "9999-12-31T23:59:59Z"]
)
def test_an_instant_beyond_reason_is_refused_at_the_door(line: World, at: str) -> None:
    wire = Wire(line.house)
    body = json.dumps(
        {"call": "call-1", "seq": 1, "at": at, "event": {"type": "call_arrived", "called": "+14105550142"}}
    )
    answer = wire.post(body.encode())
    assert (answer.status_code, answer.headers["content-type"]) == (422, "application/problem+json")
    assert "2000 to 2099" in answer.json()["detail"]


def test_the_log_folds_again_to_the_same_state(line: World) -> None:
    wire = Wire(line.house)
    wire.arrive()
    wire("digit", 2, key="1")
    wire("leg", 5, command=wire.commands[0]["id"], outcome="busy")
    with line.house.begin() as session:
        live = session.scalars(select(LiveCall)).one()
        entries = session.scalars(select(LiveEvent.entry).order_by(LiveEvent.seq)).all()

    now = state.State()
    for entry in entries:
        result = engine.step(
            engine.prepare(main_line()), now, stored.load_event(entry["event"]), answers_stored.load(entry["answers"])
        )
        assert isinstance(result, engine.Next)
        now = result.state
    assert now == stored.load_state(live.state)
