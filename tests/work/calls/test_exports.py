"""Calls as a file: every one of them, once, however many come at the same moment; many by the worker."""

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from datetime import timedelta

import pytest

from tests import history
from tests.conftest import NOON, StandingClock
from tests.world import World, make_world
from vokari.formats.calls_table import HEADER
from vokari.formats.tables import to_csv
from vokari.work.agency.access import NotFound
from vokari.work.calls import exports
from vokari.work.calls.exports import Straight
from vokari.work.calls.history import CallFilter
from vokari.work.house.views import ExportView

COUNT = 23


@pytest.fixture
def many(world: World, monkeypatch: pytest.MonkeyPatch) -> World:
    """Calls of which five at a time came at the same moment, read a few at once."""
    monkeypatch.setattr(exports, "AT_ONCE", 3)
    number, source = world.number("+14105550142"), world.source("Search advert")
    history.write(
        world,
        (
            history.row(
                world, NOON - timedelta(hours=n // 5), number.id, source.id, caller=f"+14105550{n + 100}",
                fate="lost" if n % 7 == 0 else "answered", labels=["=late", "second"] if n == 3 else [],
            )
            for n in range(COUNT)
        ),
    )  # fmt: skip
    return world


def read(parts: Iterator[bytes]) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(b"".join(parts).decode())))


def asked(world: World, wanted: CallFilter, role: str = "specialist") -> Straight | ExportView:
    return exports.ask(world.house, world.actors[role], world.client.id, wanted)


def test_every_call_that_fits_is_in_the_file_once(many: World) -> None:
    found = asked(many, CallFilter())
    assert isinstance(found, Straight)
    lines = read(found.parts)
    assert sorted(line["Caller"] for line in lines) == [f"+14105550{n + 100}" for n in range(COUNT)]
    assert list(lines[0]) == list(HEADER)
    assert [line["Start"] for line in lines] == sorted((line["Start"] for line in lines), reverse=True)
    labelled = next(line for line in lines if line["Labels"])
    assert (labelled["Labels"], labelled["Lead source"], labelled["Fate"]) == (
        "'=late, second", "Search advert", "answered",
    )  # fmt: skip
    lost = asked(many, CallFilter(fate="lost"), "client_viewer")
    assert isinstance(lost, Straight)
    assert {line["Fate"] for line in read(lost.parts)} == {"lost"}


def test_many_are_written_by_the_worker_and_wait(
    many: World, monkeypatch: pytest.MonkeyPatch, clock: StandingClock
) -> None:
    monkeypatch.setattr(exports, "LARGE", 10)
    args = (many.house, many.actor, many.client.id)
    made = asked(many, CallFilter(since=NOON - timedelta(hours=3)))
    assert isinstance(made, ExportView)
    assert (made.state, made.done, made.rows) == ("making", 0, 20)
    with pytest.raises(NotFound):
        exports.fetch(*args, made.id)
    assert many.jobs("make_export") == [{"export_id": made.id}]

    reads = 0

    def breaks() -> None:
        nonlocal reads
        reads += 1
        if reads == 5:
            raise OSError("the disk is full")

    monkeypatch.setattr(exports, "to_csv", lambda header, rows, write=exports.to_csv: breaks() or write(header, rows))
    with pytest.raises(OSError, match="full"):
        exports.make(many.house, made.id)
    broken_off = exports.progress(*args, made.id)
    assert (broken_off.state, broken_off.done) == ("failed", 12)
    exports.make(many.house, made.id)
    assert exports.progress(*args, made.id).state == "done"
    assert len(read(exports.fetch(*args, made.id))) == 20

    again = asked(many, CallFilter(since=NOON - timedelta(hours=3)))
    assert isinstance(again, ExportView)
    assert again.id != made.id
    same = asked(many, CallFilter(since=NOON - timedelta(hours=3)))
    assert isinstance(same, ExportView)
    assert same.id == again.id

    other = make_world(many.house, "Other agency", "other.example.com")
    for ask in (exports.progress, exports.fetch, exports.stop):
        with pytest.raises(NotFound):
            ask(many.house, other.actor, many.client.id, made.id)
        with pytest.raises(NotFound):
            ask(many.house, other.actor, other.client.id, made.id)
    assert exports.stop(*args, made.id).state == "done"
    file = exports.progress(*args, made.id).file
    assert exports.forget_old(many.house) == 0
    clock.move(days=8)
    assert exports.forget_old(many.house) == 2
    with pytest.raises(KeyError):
        many.house.files.parts(file)


def test_one_that_is_stopped_is_written_no_further(many: World, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(exports, "LARGE", 10)
    args = (many.house, many.actor, many.client.id)
    made = asked(many, CallFilter())
    assert isinstance(made, ExportView)

    def stopped(header: Sequence[str] | None, rows: Iterable[Sequence[object]]) -> str:
        if exports.progress(*args, made.id).done == 6:
            exports.stop(*args, made.id)
        return to_csv(header, rows)

    monkeypatch.setattr(exports, "to_csv", stopped)
    exports.make(many.house, made.id)
    found = exports.progress(*args, made.id)
    assert (found.state, found.done, found.file) == ("stopped", 6, "")
    exports.make(many.house, made.id)
    assert exports.progress(*args, made.id).done == 6
