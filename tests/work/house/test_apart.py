"""Files of strangers are worked out in processes of their own: nothing in one stops or swells what serves everybody else."""

import time
from dataclasses import replace
from datetime import date
from zoneinfo import ZoneInfo

import pytest

from tests.odd_tasks import breaks, dies, digs, echo, forever, swells
from tests.world import World
from vokari.formats import calendar_read, vcards
from vokari.work.hours import calendars, sets
from vokari.work.house import apart
from vokari.work.house.outside import InsideTransaction
from vokari.work.house.problems import Problem
from vokari.work.house.views import HoursSetView
from vokari.work.people import cards


@pytest.fixture
def impatient(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(apart, "FILES", replace(apart.FILES, seconds=1.0))


def test_what_can_be_worked_out_comes_back_as_it_is() -> None:
    assert apart.worked_out(echo, {"a": [1, date(2026, 11, 24)]}) == {"a": [1, date(2026, 11, 24)]}


@pytest.mark.parametrize(
    ("task", "said"),
    [
        (forever, apart.TOO_LONG),
        (swells, apart.TOO_LARGE),
        (digs, apart.TOO_DEEP),
        (dies, apart.TOO_LONG),
        (breaks, apart.UNREADABLE),
    ],
)
def test_what_is_over_the_limit_is_refused_in_words(impatient: None, task: object, said: str) -> None:
    began = time.monotonic()
    assert apart.worked_out(task) == Problem("file", said)  # type: ignore[arg-type]
    assert time.monotonic() - began < 60
    assert apart.worked_out(echo, 1) == 1, "the next one is served"


def test_a_task_that_is_no_longer_wanted_is_ended() -> None:
    wanted = iter([True, True])
    assert apart.followed(forever, limits=apart.FILES, stops=lambda: not next(wanted, False)) is None
    assert apart.followed(echo, 1, limits=apart.FILES, stops=lambda: False) == 1


def test_no_file_is_worked_out_inside_a_transaction(world: World) -> None:
    with world.house.begin(), pytest.raises(InsideTransaction):
        apart.worked_out(echo, 1)


CALENDAR = (
    "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//x//\r\nBEGIN:VEVENT\r\nUID:1@example.com\r\nSUMMARY:Open\r\n"
    "DTSTART:{start}\r\nDTEND:{end}\r\nRRULE:{rule}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
)
EVERY = ",".join(map(str, range(60)))


@pytest.mark.parametrize(
    ("rule", "said"),
    [
        ("FREQ=DAILY;INTERVAL=0", "no interval that can be"),
        ("FREQ=DAILY;INTERVAL=-1", "no interval that can be"),
        (f"FREQ=DAILY;BYHOUR={','.join(map(str, range(24)))};BYMINUTE={EVERY};BYSECOND={EVERY}", "at most 60000 are read"),
        ("FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30", ""),
        (f"FREQ=DAILY;INTERVAL={'9' * 5000}", ""),
    ],
)  # fmt: skip
def test_a_calendar_without_an_end_to_it_is_refused_or_left_out(world: World, rule: str, said: str) -> None:
    opening = sets.create(world.house, world.actor, world.client.id, "Opening times", "client")
    assert isinstance(opening, HoursSetView)
    data = CALENDAR.format(start="20261102T090000", end="20261102T100000", rule=rule).encode()
    began = time.monotonic()
    read = calendars.preview(world.house, world.actor, world.client.id, opening.id, data)
    assert time.monotonic() - began < apart.FILES.seconds + 20
    words = [one.sentence for one in read] if isinstance(read, list) else read.left_out
    assert said in " ".join(words)
    direct = calendar_read.read(data, ZoneInfo("America/New_York"), date(2026, 11, 24)) if said else ""
    assert isinstance(direct, str) or direct.left_out


@pytest.mark.parametrize(
    "card",
    [
        b"BEGIN:VCARD\r\nVERSION:2.1\r\nFN;CHARSET=x-martian;ENCODING=QUOTED-PRINTABLE:=C3=A9\r\nEND:VCARD\r\n",
        b"BEGIN:VCARD\r\n" * 3000,
        b"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:" + b"a" * 200_000 + b"\r\n\t" * 1000 + b"\r\nEND:VCARD\r\n",
    ],
)
def test_an_odd_card_gets_words(world: World, card: bytes) -> None:
    taken = cards.take(world.house, world.actor, world.client.id, card, abroad=False)
    assert isinstance(taken, cards.Taken) or taken[0].field == "file"
    assert not isinstance(vcards.read(card[:60]), BaseException)
