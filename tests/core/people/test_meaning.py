"""What a Ring step means: seconds that add up, mailboxes that answer first, and when one more person would help."""

from typing import Any

import pytest

from vokari.core.flows.questions.kinds import LineUpAnswer
from vokari.core.flows.running.state import Rung
from vokari.core.people.directory import Person
from vokari.core.people.meaning import Meaning, hours_of, meaning, proposal, ticks, x_of


def rung(who: str, seconds: int, to: str = "") -> Rung:
    return Rung(who, who.title(), to or f"+1410555010{len(who)}", seconds)


def of(
    *waves: tuple[Rung, ...], rounds: int = 1, limit: int | None = None, guarded: bool = True, **more: Any
) -> Meaning:
    answer: LineUpAnswer = (waves, (), False)
    return meaning([answer] * rounds, limit, more.get("people", {}), guarded=guarded)


def test_ring_times_in_order_add_up() -> None:
    """Three phones of 15 seconds are 45 seconds, two of 40 are 80 a round (common practice, no source)."""
    three = of((rung("a", 15),), (rung("bb", 15),), (rung("ccc", 15),))
    assert three.longest == 45
    assert [(bar.start, bar.end) for bar in three.bars] == [(0, 15), (15, 30), (30, 45)]
    assert of((rung("a", 40),), (rung("bb", 40),)).longest == 80
    assert of((rung("a", 40),), (rung("bb", 40),), rounds=2).longest == 160
    assert of((rung("a", 20), rung("bb", 35))).longest == 35, "all at once the longest counts"


def test_a_limit_on_the_whole_cuts_what_comes_after_it() -> None:
    cut = of((rung("a", 20),), (rung("bb", 20),), (rung("ccc", 20),), limit=30)
    assert cut.longest == 30
    assert [(bar.rung.who, bar.start, bar.end) for bar in cut.bars] == [("a", 0, 20), ("bb", 20, 30)]
    assert cut.sentences == ("A caller whom nobody answers hears it ring for 30 seconds.",)


@pytest.mark.parametrize(
    ("country", "seconds", "guarded", "own", "mailbox", "sure"),
    [
        ("US", 25, False, None, 18, False), ("US", 18, False, None, None, False), ("GB", 20, False, None, 15, False), ("GB", 15, False, None, None, False),
        ("US", 25, True, None, None, False), ("US", 25, False, 22, 22, True), ("US", 20, False, 22, None, False),
        ("GB", 15, False, 14, 14, True), ("US", 25, True, 5, None, False),
    ],
)  # fmt: skip
def test_when_a_mailbox_of_the_phones_own_answers_first(
    country: str, seconds: int, guarded: bool, own: float | None, mailbox: float | None, sure: bool
) -> None:
    """18 to 24 seconds in North America, 15 to 30 in the UK (common practice, no source); the person's own figure wins."""
    number = "+14105550199" if country == "US" else "+447700900199"
    people = {
        "joel": Person.model_validate({"name": "Joel", "phones": [{"id": "m", "to": number, "mailbox_after": own}]})
    }
    found = of((rung("a", 10),), (rung("joel", seconds, number),), people=people, guarded=guarded)
    bar = found.bars[1]
    assert (bar.mailbox, bar.sure) == (None if mailbox is None else 10 + mailbox, sure)
    assert any("mailbox" in one for one in found.sentences) == (mailbox is not None)


def test_nobody_to_ring_is_said_with_the_reason() -> None:
    off: LineUpAnswer = ((), ("off",), False)
    busy: LineUpAnswer = ((), ("off", "on_call"), False)
    assert "off duty or switched off" in meaning([off], None, {}, guarded=True).sentences[0]
    assert "on a call" in meaning([busy], None, {}, guarded=True).sentences[0]


def test_one_more_person_is_proposed_where_too_many_find_all_busy() -> None:
    """By Erlang B: 30 calls of 180 s an hour are 1.5 erlangs; with 2 people 31.0% find all busy, with 3 13.4%."""
    hours = hours_of({9: 4.0, 12: 30.0, 13: 30.0, 17: 4.0}, 180, {9: 2, 12: 2, 13: 2, 17: 2})
    assert [round(one.erlangs, 2) for one in hours] == [0.2, 1.5, 1.5, 0.2]
    assert [f"{one.chance:.3f}" for one in hours] == ["0.016", "0.310", "0.310", "0.016"]
    said = proposal(hours)
    assert said == (
        "One more person between 12 and 14 o’clock would bring the callers who find all busy from 31% to 13%."
    )
    assert proposal(hours_of({9: 4.0}, 180, {9: 2})) == ""
    assert hours_of({3: 1.0}, 180, {})[0].chance == 1.0


def test_the_time_line_marks_round_seconds_within_its_width() -> None:
    assert ticks(45) == [0, 5, 10, 15, 20, 25, 30, 35, 40, 45]
    assert ticks(148) == [0, 20, 40, 60, 80, 100, 120, 140]
    assert len(ticks(20_000)) < 40
    assert x_of(0, 45) < x_of(20, 45) < x_of(45, 45) <= 760
