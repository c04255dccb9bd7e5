"""What fields say: opening times and days in each language, at moments of an exception and of a closed day; and how calls fill them in."""

from datetime import UTC, datetime, timedelta
from typing import cast
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.flows import Talk, document, hold, menu, say, voicemail
from tests.hours import closed, hours, random_hours
from vokari.core.flows.questions.kinds import Answer, HoldTurn, Question, SpokenFields, everyone_free
from vokari.core.flows.questions.stored import dump, load
from vokari.core.flows.running import engine
from vokari.core.flows.running.commands import Play
from vokari.core.flows.running.events import Arrived, Digit, Finished
from vokari.core.flows.running.field_values import Speaking, hours_said, opens_said
from vokari.core.flows.running.state import State
from vokari.core.hours.timetable import Timetable
from vokari.core.prompts.spoken import Spoken

ZONE = ZoneInfo("America/New_York")
YARD = Timetable(hours(closed("2026-12-24", name="Christmas Eve"), desk="Mon-Fri 8-12, 13-17"), ZONE)
WEDNESDAY = datetime(2026, 12, 23, 15, 30, tzinfo=UTC)
"""Half past ten on the Wednesday before Christmas, in New York."""


@pytest.mark.parametrize(
    ("language", "today", "opens"),
    [
        ("en-US", "8 AM to 12 PM and 1 PM to 5 PM", "today at 1 PM"),
        ("en-GB", "08:00 to 12:00 and 13:00 to 17:00", "today at 13:00"),
        ("es", "de 8:00 a 12:00 y de 13:00 a 17:00", "hoy a las 13:00"),
        ("fr", "de 08:00 à 12:00 et de 13:00 à 17:00", "aujourd’hui à 13:00"),
        ("de", "von 08:00 bis 12:00 und von 13:00 bis 17:00", "heute um 13:00"),
    ],
)
def test_opening_times_are_said_in_the_language_of_the_call(language: str, today: str, opens: str) -> None:
    assert (hours_said(YARD, WEDNESDAY, language), opens_said(YARD, WEDNESDAY, language)) == (today, opens)


def test_a_closed_day_its_name_and_the_day_after() -> None:
    evening = datetime(2026, 12, 23, 23, 0, tzinfo=UTC)
    eve = datetime(2026, 12, 24, 15, 0, tzinfo=UTC)
    speaking = Speaking("Brightwater", "US", eve, ZONE, "+14105550142", main=lambda: YARD)
    wanted = ("client", "hours", "opens", "holiday", "number", "date", "caller|friend", "opens of Workshop")
    assert speaking.values(SpokenFields("a", wanted, "en-US")) == (
        "Brightwater", "closed", "tomorrow at 8 AM", "Christmas Eve", "410-555-0142", "December 24", "", "",
    )  # fmt: skip
    assert opens_said(YARD, evening, "en-US") == "on Friday at 8 AM"


@given(random_hours(), st.datetimes(datetime(2026, 1, 1), datetime(2026, 12, 31)))
def test_the_next_opening_is_the_first_moment_after_which_it_is_open(one: object, moment: datetime) -> None:
    """Against the timetable looked at minute by minute for two days."""
    table, at = Timetable(one, ZONE), moment.replace(tzinfo=UTC, second=0, microsecond=0)  # type: ignore[arg-type]
    before = table.at(at).is_open
    for minute in range(1, 2 * 1440):
        now = at + timedelta(minutes=minute)
        open_ = table.at(now).is_open
        if open_ and not before:
            said = opens_said(table, at, "en-GB")
            assert f"{now.astimezone(ZONE):%H:%M}" in said
            return
        before = open_


def filled(question: Question) -> Answer:
    if isinstance(question, SpokenFields):
        return tuple({"client": "The yard"}.get(one, "") for one in question.fields)
    if isinstance(question, HoldTurn):
        return ("wait", 3, 200, ())
    return everyone_free(question)


def played(talk: Talk) -> Play:
    return next(one for one in talk.last if isinstance(one, Play))


def test_fields_are_a_question_of_the_engine_that_its_log_keeps() -> None:
    flow = document(say("a", "This is {client}. {caller|Neighbor}, wait.", "vm"), voicemail(), rescue="vm")
    result = engine.step(engine.prepare(flow), State(), Arrived(), {})
    assert isinstance(result, engine.Ask)
    assert result.question == SpokenFields("a", ("client", "caller|Neighbor"), "en-US")
    next_, answers = engine.run(engine.prepare(flow), State(), Arrived(), filled)
    play = cast(Play, next_.commands[0])
    assert play.prompt.say == "This is The yard. Neighbor, wait."
    assert play.parts == ("This is", "The yard.", "Neighbor,", "wait.")
    assert load(dump(answers)) == answers
    assert not next_.defect
    assert not SpokenFields("a", ("client",), "en-US").fits(("x" * 301,))


def test_what_was_typed_and_the_wait_in_line_are_known_to_the_call_itself() -> None:
    ask = {
        "kind": "keypad_entry", "id": "code", "prompt": {"say": "Your code"}, "shortest": 2, "longest": 2, "store_as": "boat_code",
        "typed": "told", "nothing": "vm", "wrong": "vm",
    }  # fmt: skip
    flow = document(
        ask,
        say("told", "You typed {typed}, boat code {boat code}.", "h"),
        hold("h", tells={"say": "Place {place}, {wait}."}),
        voicemail(),
        rescue="vm",
    )
    talk = Talk(flow, filled)
    talk(Digit("4"), Digit("7"))
    assert played(talk).prompt.say == "You typed 47, boat code 47."
    talk(Finished(talk.state.awaiting))
    assert played(talk).prompt.say == "Place 3, 4 minutes."


def test_a_prompt_of_the_library_is_heard_in_the_language_of_the_call_and_as_its_words_where_it_is_gone() -> None:
    keys = {"1": {"to": "a", "language": "es"}, "2": "a"}
    flow = document(
        menu("m", keys),
        {**say("a", "As it was", "vm"), "prompt": {"say": "As it was", "prompt": "pr_hello"}},
        voicemail(),
        rescue="vm",
    )
    takes = {"": {"pr_hello": {"en-US": Spoken("Hello", "abc"), "es": Spoken("Hola")}}}
    said = []
    for takes_, key in ((takes, "1"), (takes, "2"), (None, "2")):
        prepared = engine.prepare(flow, None, takes_)
        first = engine.run(prepared, State(), Arrived(), filled)[0]
        after = engine.run(prepared, first.state, Digit(key), filled)[0]
        play = next(one for one in after.commands if isinstance(one, Play))
        said.append((play.prompt.say, play.prompt.recording, play.language))
    assert said == [("Hola", None, "es"), ("Hello", "abc", "en-US"), ("As it was", None, "en-US")]
