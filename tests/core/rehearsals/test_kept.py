"""Kept rehearsals: what their moments mean, what they notice, and that calls which are kept go as they went."""

from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.flows import DANA, JOEL, document, menu, phone, ring, voicemail
from tests.hours import week
from vokari.core.calls.fates import ending
from vokari.core.flows.conditions.base import Names
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.kept import (
    Expected,
    KeptRehearsal,
    OnDate,
    OnHoliday,
    OnWeekday,
    PhoneScript,
    Pressed,
    SystemSays,
)
from vokari.core.flows.running.flow import Flow
from vokari.core.hours.document import Hours, Pick, PublicHolidays
from vokari.core.hours.timetable import Timetable
from vokari.core.proof.examples import Happening
from vokari.core.proof.walk import Walk
from vokari.core.proof.world import AHEAD, Client, World
from vokari.core.rehearsals import holding, keeping, moments, proposed, typed
from vokari.core.rehearsals.calls import Setting, call
from vokari.reading import read, tables_of, where_of

ZONE = ZoneInfo("America/New_York")
NOW = datetime(2026, 11, 24, 17, tzinfo=UTC)
HOLIDAYS = PublicHolidays(
    id="us", name="Public holidays", country="US", region="",
    picked=(Pick(name="Thanksgiving Day"), Pick(name="Christmas Day")), seen_until=2030,
)  # fmt: skip


def tables() -> dict[str, Timetable]:
    hours = week(open="Mon-Fri 9-17")
    document_ = Hours.model_validate(
        {"name": "Office", "periods": [{"id": "open", "name": "Open"}], "week": hours, "exceptions": [HOLIDAYS]}
    )
    return {"office": Timetable(document_, ZONE)}


SETTING = Setting(Client(ZONE, tables()), NOW)
DESK = document(
    menu("ask", {"1": "desk", "2": "vm"}), ring("desk", phone("Dana", DANA), phone("Joel", JOEL), no_answer="vm"), voicemail("vm"), rescue="vm",
)  # fmt: skip


def kept(**more: object) -> KeptRehearsal:
    usual = {"id": "r1", "name": "A caller", "when": OnWeekday(day=1, at="10:00"), "caller": "+14105550185"}
    return KeptRehearsal.model_validate({**usual, **more})


def misses(one: KeptRehearsal, flow: FlowDocument = DESK) -> tuple[str, ...]:
    return holding.verdict(Flow(flow, {}), one, SETTING).misses


@pytest.mark.parametrize(
    ("when", "comes"),
    [
        (OnWeekday(day=3, at="10:00"), "2026-12-03 10:00"),  # the first Thursday is Thanksgiving
        (OnWeekday(day=1, at="10:00"), "2026-12-01 10:00"),  # ten has passed on this Tuesday
        (OnWeekday(day=1, at="13:00"), "2026-11-24 13:00"),
        (OnHoliday(at="09:00"), "2026-11-26 09:00"),
        (OnHoliday(name="christmas day", at="09:00"), "2026-12-25 09:00"),
        (OnDate(date=date(2027, 2, 1), at="00:30"), "2027-02-01 00:30"),
    ],
)
def test_moments_are_what_they_mean(when: OnWeekday, comes: str) -> None:
    at = moments.instant(when, tables(), ZONE, NOW)
    assert at is not None
    assert f"{at.astimezone(ZONE):%Y-%m-%d %H:%M}" == comes
    assert when in moments.meanings(at, tables(), ZONE) or isinstance(when, OnHoliday)


def test_a_moment_that_is_over_fails_in_words() -> None:
    over = kept(when=OnDate(date=date(2026, 11, 1), at="10:00"), expects=Expected(fate="answered"))
    assert misses(over) == ("Its moment does not come any more.",)


def test_what_is_not_as_it_should_be_is_said() -> None:
    dana = {
        "presses": (Pressed(keys="1"),),
        "phones": (PhoneScript(who="Dana", does=("rings_out", "answers")), PhoneScript(does=("busy",))),
    }
    assert misses(kept(**dana, expects=Expected(fate="message_left"))) == (
        "The call comes to “lost” (hung up at the voicemail); it should come to “message left”.",
    )
    assert (
        misses(kept(**dana, message=8, expects=Expected(fate="message_left", ends_at="vm", rings=("Dana", "Joel"))))
        == ()
    )
    assert misses(kept(**dana, expects=Expected(rings=("Rosa",), says="no such words", label="hot"))) == (
        "The caller does not hear “no such words”.",
        "Rosa is not rung; Dana, Joel are.",
        "The call does not get the label “hot”.",
    )
    answered = kept(
        presses=(Pressed(), Pressed(keys="1")), phones=(PhoneScript(does=("answers",)),), expects=Expected(within=1)
    )
    assert "it should within 1." in misses(answered)[0]
    nobody = kept(
        presses=(Pressed(keys="1"),),
        phones=(PhoneScript(does=("on_call",)),),
        message=5,
        expects=Expected(rings=("Dana",)),
    )
    assert misses(nobody) == ("Dana is not rung; nobody is.",)
    gone = kept(hangs_up=2, expects=Expected(fate="lost", ends_at="removed"))
    assert misses(gone) == ("It ends at the Menu without a name; it should end at a step that is gone.",)


def examples() -> Iterator[Path]:
    """All but the one that is walked in seconds."""
    return (one for one in (Path(__file__).parents[3] / "examples").glob("*.json") if one.stem != "team-by-share")


@pytest.mark.parametrize("path", sorted(examples()), ids=lambda path: path.stem)
def test_a_proposed_set_takes_every_exit_and_holds(path: Path) -> None:
    file = read(str(path))
    assert file is not None
    flow = Flow(file.flow.model_copy(update={"rehearsals": ()}), file.materials.flows)
    client = Client(ZONE, tables_of(file, ZONE), file.materials.people, file.materials.teams)
    setting = Setting(
        client, NOW, Names(people={key: one.name for key, one in file.materials.people.items()}), where_of(file)
    )
    walk = Walk(flow, World(flow, client, NOW, NOW + AHEAD))
    found = proposed.proposal(walk, setting, "+14105550185")
    exits = {one for edges in walk.edges for edge in edges if not edge.limit for one in proposed.exits_of(walk, edge)}
    taken = set[proposed.Exit]()
    for one in found.rehearsals:
        assert holding.verdict(flow, one, setting).holds
        went = call(flow, one, setting)
        assert went is not None
        before = len(taken)
        taken |= proposed.taken(went.run.log)
        assert len(taken) > before, "each takes an exit that those before do not"
    assert taken >= exits
    assert (found.takes, found.exits) == (len(exits), len(exits))
    with_them = Flow(file.flow.model_copy(update={"rehearsals": found.rehearsals}), file.materials.flows)
    again = proposed.proposal(Walk(with_them, World(with_them, client, NOW, NOW + AHEAD)), setting, "+14105550185")
    assert again.rehearsals == ()


_keys = st.lists(
    st.builds(Pressed, keys=st.text("0123456789*#", max_size=5))
    | st.builds(
        Pressed,
        keys=st.text("0123456789*#", min_size=1, max_size=3),
        at=st.sampled_from([None, "desk", "vm"]),
        after=st.integers(0, 7200),
    ),
    max_size=5,
)
_does = st.lists(st.sampled_from(list(typed.DOES)), min_size=1, max_size=3).map(tuple)


@given(_keys, st.dictionaries(st.sampled_from(["", "ada", "Desk", "410-555-0181"]), _does), st.integers(0, 3))
def test_what_happens_is_read_as_it_is_written(
    presses: list[Pressed], phones: dict[str, tuple[str, ...]], looked_up: int
) -> None:
    names, steps = {"ada": "Ada Quill"}, {"desk": "Front desk, open", "vm": "Voicemail"}
    scripts = tuple(PhoneScript(who=who, does=does) for who, does in phones.items())
    assert typed.read_presses(typed.written_presses(presses, steps), steps) == tuple(presses)
    assert typed.read_phones(typed.written_phones(scripts, names), names) == scripts
    system = (SystemSays(what="found", value="gold"), SystemSays(what="not_found"), SystemSays(what="failed"))[
        :looked_up
    ]
    assert typed.read_system(typed.written_system(system)) == system


@pytest.mark.parametrize(
    ("read_", "text", "says"),
    [
        (lambda text: typed.read_presses(text, {}), "2, two", "“two” are no keys"),
        (lambda text: typed.read_presses(text, {}), "1 at Nowhere after 3 s", "no step “Nowhere”"),
        (lambda text: typed.read_presses(text, {}), "1 after 9999 s", "at most 7200 s"),
        (lambda text: typed.read_phones(text, {}), "Ada sings", "is not understood"),
        (lambda text: typed.read_phones(text, {}), "Ada: answers\nada: is busy", "twice"),
        (typed.read_system, "knows gold", "is not understood"),
    ],
)
def test_what_is_not_understood_is_said(read_: object, text: str, says: str) -> None:
    assert says in read_(text)  # type: ignore[operator]


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_a_call_that_is_kept_goes_as_it_went(data: st.DataObject) -> None:
    """Whatever a caller does in a rehearsal of the desk, it can be kept, and comes to the same."""
    keys = data.draw(st.lists(st.sampled_from(["", "1", "2", "9"]), max_size=4))
    does = data.draw(st.lists(st.sampled_from(["answers", "busy", "declines", "rings_out"]), min_size=2, max_size=2))
    one = kept(
        presses=tuple(Pressed(keys=key) for key in keys),
        phones=tuple(PhoneScript(who=who, does=(what,)) for who, what in zip(("Dana", "Joel"), does, strict=True)),
        message=data.draw(st.sampled_from([None, 4.0])), stays=data.draw(st.booleans()),
    )  # fmt: skip
    flow = Flow(DESK, {})
    went = call(flow, one, SETTING)
    assert went is not None
    happenings = [Happening(entry.event, entry.at, tuple(entry.answers.items())) for entry in went.run.log]
    again = keeping.kept(flow, keeping.Began(went.at, one.caller), happenings, SETTING, "r2", "Again")
    assert isinstance(again.when, OnWeekday)
    verdict = holding.verdict(flow, again, SETTING)
    assert verdict.holds, verdict.misses
    assert verdict.went is not None
    assert abs(verdict.went.at - went.at) < timedelta(days=8)
    assert [one.to for one in verdict.went.rang] == [one.to for one in went.rang]


def test_a_draft_with_a_way_back_that_leads_nowhere_yet_is_rehearsed_all_the_same() -> None:
    back = {"kind": "back_to", "id": "back", "to": None}
    draft = document(
        menu("ask", {"1": "desk", "2": "back"}),
        ring("desk", phone("Dana", DANA), no_answer="vm"),
        back,
        voicemail("vm"),
        rescue="vm",
    )
    went = call(Flow(draft), kept(presses=[{"keys": "1"}], phones=[{"does": ["on_call"]}]), SETTING)
    assert ending(went.run.state, went.run.seconds).fate == "lost"
