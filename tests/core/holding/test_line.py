"""Hold lines: what a caller meets in one, and who of those who wait gets whom."""

import math
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.flows import DANA, JOEL, Talk, document, hold, say, voicemail
from vokari.core.calls.fates import ending
from vokari.core.flows.model.steps import HoldLine
from vokari.core.flows.questions.kinds import CanBeRung, HoldTurn
from vokari.core.flows.running.commands import Connect, Drop, Hold, RingLeg, Timer
from vokari.core.flows.running.events import Digit, Finished, Gone, Leg, Poked, TimerFired
from vokari.core.flows.running.state import Rung
from vokari.core.holding.line import assigned, served, wait_seconds
from vokari.core.holding.meaning import Held, hours_of, proposal
from vokari.core.holding.meaning import held as held_meaning
from vokari.core.people.directory import Member, Person, Phone, Team
from vokari.core.people.line_up import Around, Duty

DANA_RUNG = ((Rung("dana", "Dana", DANA, 20),),)
WAITS = ("wait", 2, 150, ())
NOBODY = ("nobody", 0, 0, ())


class Line:
    """What the world says of the line, to be changed while a call goes on."""

    def __init__(self, said: tuple) -> None:
        self.said, self.asked = said, []

    def __call__(self, question: object) -> tuple:
        if isinstance(question, CanBeRung):
            return ("free",) * len(question.phones)
        assert isinstance(question, HoldTurn)
        self.asked.append(question)
        return self.said


def held(line: Line, **more: object) -> Talk:
    exits = {"waited": "vm", "full": "busy", "left": "vm", "nobody": "none"} | more
    return Talk(document(hold(**exits), voicemail(), say("busy", "All lines"), say("none", "Nobody here")), line)


def timer(talk: Talk, name: str) -> TimerFired:
    return TimerFired(getattr(talk.state.hold, name))


def test_a_free_person_is_rung_at_once_and_takes_the_call() -> None:
    talk = held(Line(("ring", 1, 0, DANA_RUNG)))
    assert [type(one) for one in talk.last] == [Timer, Hold, RingLeg, Timer]
    leg = talk.state.ring.legs[0].command
    assert talk(Leg(leg, "answered")).last == (Connect(leg),)
    assert talk.state.talking_to == "dana"
    assert talk(Leg(leg, "ended")).state.ended
    assert ending(talk.state, 60).fate == "answered"


def test_place_and_wait_are_said_when_the_caller_comes_and_at_intervals_with_music_between() -> None:
    line = Line(WAITS)
    talk = held(line, announce_every=60)
    assert talk.words[:1] == ["You are number 2 in line. The wait is about 3 minutes."]
    assert [type(one) for one in talk(Finished(talk.state.awaiting)).last] == [Hold]
    line.said = ("wait", 1, 40, ())
    assert talk(timer(talk, "tell")).words[:1] == ["You are next in line. The wait is about a minute."]


@pytest.mark.parametrize(
    ("language", "said"),
    [("es", "Ocupa usted el lugar 2"), ("fr-FR", "position 2"), ("de", "an Stelle 2"), ("cy", "You are number 2")],
)
def test_the_announcement_speaks_the_callers_language(language: str, said: str) -> None:
    raw = document(hold(), voicemail()).model_copy(update={"language": language})
    assert said in Talk(raw, Line(WAITS)).words[0]


def test_what_is_not_to_be_said_is_not_said() -> None:
    talk = held(Line(WAITS), says_position=False, says_wait=False, music={"say": "Thank you for waiting"})
    assert [one.prompt.say for one in talk.last if isinstance(one, Hold)] == ["Thank you for waiting"]
    assert talk.state.hold.tell == 0


@pytest.mark.parametrize(
    ("said", "heard"), [(("full", 0, 0, ()), "All lines"), (NOBODY, "Nobody here")]
)  # fmt: skip
def test_a_full_line_and_nobody_available_are_exits_on_entry(said: tuple, heard: str) -> None:
    talk = held(Line(said))
    assert talk.words == [heard]
    assert not talk.state.held


def test_a_poke_rings_the_person_who_came_free() -> None:
    line = Line(WAITS)
    talk = held(line)
    line.said = ("ring", 1, 0, DANA_RUNG)
    assert [one.destination.number for one in talk(Poked()).last if isinstance(one, RingLeg)] == [DANA]
    asked = len(line.asked)
    assert talk(Poked()).last == ()
    assert len(line.asked) == asked


def test_a_person_who_does_not_answer_is_named_and_another_is_asked_for() -> None:
    line = Line(("ring", 1, 0, DANA_RUNG))
    talk = held(line)
    line.said = ("ring", 1, 0, ((Rung("joel", "Joel", JOEL, 15),),))
    talk(Leg(talk.state.ring.legs[0].command, "rang_out"))
    assert line.asked[-1].but == "dana"
    assert talk.state.hold.offered == "joel"


def test_all_phones_of_a_person_are_tried_in_order() -> None:
    talk = held(Line(("ring", 1, 0, (*DANA_RUNG, (Rung("dana", "Dana", "sip:dana@example.com", 10),)))))
    talk(Leg(talk.state.ring.legs[0].command, "busy"))
    assert [one.destination.dialed for one in talk.last] == ["sip:dana@example.com"]


def test_the_key_leaves_the_line_and_stops_the_phone() -> None:
    talk = held(Line(("ring", 1, 0, DANA_RUNG)), leave_key="2")
    assert talk(Digit("3")).last == ()
    assert [type(one) for one in talk(Digit("2")).last][:1] == [Drop]
    assert talk.state.at == "vm"


def test_the_longest_wait_ends_it_but_a_phone_that_rings_rings_on() -> None:
    line = Line(WAITS)
    assert held(line)(TimerFired(1)).state.at == "vm"
    talk = held(Line(("ring", 1, 0, DANA_RUNG)))
    assert talk(TimerFired(1)).state.at == "h"
    assert talk(Leg(talk.state.ring.legs[0].command, "rang_out")).state.at == "vm"


def test_nobody_available_while_waiting_is_an_exit() -> None:
    line = Line(WAITS)
    talk = held(line)
    line.said = NOBODY
    assert talk(timer(talk, "look")).words == ["Nobody here"]


def test_a_caller_who_gives_up_was_lost_while_waiting() -> None:
    talk = held(Line(WAITS))(Gone())
    assert (ending(talk.state, 40).fate, ending(talk.state, 40).reason) == ("lost", "waiting")


# who gets whom

callers = st.lists(st.sampled_from(["a", "b", "c"]), max_size=8)
frees = st.dictionaries(
    st.sampled_from(["a", "b", "c"]), st.lists(st.sampled_from(["p", "q", "r", "s"]), unique=True, max_size=4)
)


@given(callers, frees)
def test_first_come_first_served_and_nobody_idle_who_could_serve(teams: list[str], free: dict[str, list[str]]) -> None:
    waiting = list(enumerate(teams))
    found = assigned(waiting, free)
    assert len(set(found.values())) == len(found)
    assert all(person in free[teams[caller]] for caller, person in found.items())
    for caller, team in waiting:
        if caller not in found:
            reach = set(free.get(team, ()))
            assert reach <= set(found.values())
        before = assigned(waiting[: caller + 1], free)
        assert (caller in before) == (caller in found)


def test_a_person_of_two_teams_is_left_to_whom_nobody_else_can_serve() -> None:
    assert assigned([(1, "both"), (2, "one")], {"both": ["p", "q"], "one": ["p"]}) == {1: "q", 2: "p"}


def team(*people: str, **more: object) -> Team:
    return Team(name="Crew", members=tuple(Member(person=one) for one in people), **more)


def around(teams: dict[str, Team], **duty: Duty) -> Around:
    people = {
        one: Person(name=one.title(), phones=(Phone(id="p1", to=f"+1410555016{n}"),))
        for n, one in enumerate(["dana", "joel", "mia"])
    }
    return Around(
        datetime(2026, 11, 25, 15, tzinfo=UTC), ZoneInfo("America/New_York"), lambda _: None, lambda _: (), people, teams,
        lambda key: duty.get(key, Duty()),
    )  # fmt: skip


def test_those_behind_the_team_serve_when_its_own_cannot() -> None:
    teams = {"crew": team("dana", "joel", then="back"), "back": team("mia", "joel")}
    found = served("crew", around(teams, dana=Duty(on_call=True)), held={"joel"})
    assert [one.key for one in found.free] == ["mia"]
    assert found.on_duty == 4
    assert served("crew", around(teams, **{one: Duty(off=True) for one in ("dana", "joel", "mia")})).on_duty == 0


def test_a_team_that_rings_all_at_once_asks_the_longest_idle() -> None:
    earlier = Duty(idle_since=datetime(2026, 11, 25, 14, tzinfo=UTC))
    later = Duty(idle_since=datetime(2026, 11, 25, 14, 30, tzinfo=UTC))
    found = served(
        "crew", around({"crew": team("dana", "joel", "mia", strategy="all_at_once")}, dana=later, joel=earlier)
    )
    assert [one.key for one in found.free] == ["mia", "joel", "dana"]


def test_the_wait_is_a_place_times_a_mean_talk_over_those_on_duty() -> None:
    assert wait_seconds(3, 120.0, 2) == 180
    assert wait_seconds(3, 0.0, 2) == 0
    assert wait_seconds(3, 120.0, 0) == 0


# what it means


def means(step: dict, free: list[str], **more: object) -> Held:
    duty = {one: Duty(on_call=one not in free) for one in ("dana", "joel")}
    where = around({"crew": team("dana", "joel")}, **(duty | more))
    exits = dict.fromkeys(("waited", "full", "left", "nobody"), "to 2 Voicemail")
    return held_meaning(HoldLine.model_validate(step), served("crew", where), where.people, exits)


def test_what_a_caller_meets_in_a_line_is_said() -> None:
    found = means(hold(longest_wait=240, announce_every=45, leave_key="2", accept={"key": "1"}), ["joel"])
    assert found.says_at == (0, 45, 90, 135, 180, 225)
    assert found.sentences == (
        "Right now 1 of 2 on duty are free: a caller rings Joel, 18 s.", "A caller waits 4 min at most, then to 2 Voicemail.",
        "In the longest wait they hear their place and wait 6 times.", "With 20 in line, the next caller goes to 2 Voicemail.",
        "Key 2 leaves the line: to 2 Voicemail.",
    )  # fmt: skip


def test_what_makes_a_line_bad_is_said() -> None:
    silent = means(hold(says_position=False, says_wait=False), ["dana"])
    assert silent.says_at == ()
    assert "They hear nothing of how long it takes: many hang up sooner." in silent.sentences
    assert "No key leaves the line: a caller who does not want to wait can only hang up." in silent.sentences
    assert not any("mailbox" in one for one in silent.sentences), "a phone rings until shortly before its own answers"
    off = means(hold(), [], dana=Duty(off=True), joel=Duty(off=True))
    assert off.sentences[0] == "Right now nobody is available, so a caller goes to 2 Voicemail at once."


def test_waits_by_hour_follow_erlang_c() -> None:
    """Against the defining sums of Erlang C, worked out here term by term: A = 12 calls x 240 s = 0.8 erlangs, 2 people."""
    a, n = 0.8, 2
    last = a**n / math.factorial(n) * n / (n - a)
    chance = last / (sum(a**k / math.factorial(k) for k in range(n)) + last)
    (hour,) = hours_of({10: 12.0}, 240.0, {10: 2}, 120)
    assert hour.erlangs == pytest.approx(0.8)
    assert hour.chance == pytest.approx(chance)
    assert hour.mean_wait == pytest.approx(chance * 240 / (n - a))
    assert hour.too_long == pytest.approx(chance * math.exp(-(n - a) * 120 / 240))


def test_one_more_person_is_proposed_where_the_mean_wait_is_long() -> None:
    calls, people = {9: 2.0, 12: 14.0, 13: 14.0, 15: 3.0}, {9: 1, 12: 1, 13: 1, 15: 1}
    said = proposal(hours_of(calls, 200.0, people, 300), 200.0)
    assert said == "One more person between 12 and 14 o’clock would bring the mean wait from 700 s to 36 s."
    assert proposal(hours_of({9: 2.0}, 60.0, {9: 2}, 300), 60.0) == ""
    assert "now the line only grows" in proposal(hours_of({9: 20.0}, 200.0, {9: 1}, 300), 200.0)
    assert "would not be enough" in proposal(hours_of({9: 60.0}, 200.0, {9: 1}, 300), 200.0)
