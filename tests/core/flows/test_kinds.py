"""A kind of step is whole: every table that names kinds names all of them, and each says what it must of itself."""

import json
from pathlib import Path
from typing import get_args

import pytest

import vokari.web
from tests.flows import document
from vokari.core.flows.conditions.base import Names
from vokari.core.flows.conditions.tests import TESTS
from vokari.core.flows.drafting import edits
from vokari.core.flows.drafting.typed_lines import VERBS, read_line
from vokari.core.flows.model.condition import JOINED, Condition
from vokari.core.flows.model.condition import Test as TestName
from vokari.core.flows.model.exits import Around
from vokari.core.flows.model.steps import KINDS, AnyStep
from vokari.core.flows.running import engine, events, kinds
from vokari.core.flows.running.state import State
from vokari.core.flows.shown.drawing import draw
from vokari.formats import flow_file
from vokari.web.flows.row_forms import READERS

ROWS = Path(vokari.web.__file__).parent / "templates" / "flows" / "rows"
TYPED = list(KINDS)


def new(kind: str) -> AnyStep:
    return document({"kind": kind, "id": "s"}).steps[0]


def test_the_union_is_the_registry() -> None:
    assert {kind.model_fields["kind"].default for kind in get_args(AnyStep)} == set(KINDS)
    assert len({kind.title for kind in KINDS.values()}) == len(KINDS)


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_runs_is_shown_and_is_carried(kind: str) -> None:
    step = new(kind)
    running = kinds.running_of(step)
    assert running.left_in(step, "saying")
    flow = engine.prepare(document({"kind": kind, "id": "s"}))
    begun = engine.step(flow, State(), events.Arrived(), {})
    assert isinstance(begun, engine.Ask if running.asks and kind not in ("junction", "ring") else engine.Next)
    assert step.in_words(Around({}))
    assert draw(flow.document).boxes
    for way in step.exits:
        assert step.said_of(way)
        led = step.with_target(way.id, "end")
        assert led.exit(way.id).target == "end"  # type: ignore[union-attr]
    with pytest.raises(KeyError):
        step.with_target("no such exit", None)
    assert not step.onward or step.onward in {way.id for way in step.exits}
    assert set(step.silent) <= {way.id for way in step.exits}
    written = flow_file.write(flow_file.FlowFile(flow=flow.document))
    assert json.loads(written)["flow"]["steps"][0]["kind"] == kind
    assert flow_file.read(written) == flow_file.FlowFile(flow=flow.document)


@pytest.mark.parametrize("kind", TYPED)
def test_every_kind_that_can_be_added_is_typed_has_a_form_and_a_row(kind: str) -> None:
    assert kind in READERS
    assert (ROWS / f"{kind}.html").exists()
    verb = KINDS[kind].verbs[0]
    assert VERBS[verb] == kind
    rest = {"back_to": "to 1"}.get(kind, "Something")
    read = read_line(f"{verb} {rest}", "US")
    assert not isinstance(read, str), read
    flow = document({"kind": "voicemail", "id": "vm", "mailbox": "mb"}, rescue="vm")
    made = edits.apply(flow, edits.AddStep(id="n", kind=kind, fill=read.fill))
    assert isinstance(made, edits.Applied)


def test_no_row_no_form_and_no_verb_is_left_of_a_kind_that_cannot_be_added() -> None:
    assert set(READERS) == set(TYPED) == set(VERBS.values())
    shared = {"fields", "callee"}
    assert {path.stem for path in ROWS.glob("*.html")} - shared == set(TYPED)


def test_every_condition_that_can_be_stored_has_a_test() -> None:
    assert {*TESTS, *JOINED} == set(get_args(TestName))
    for name, test in TESTS.items():
        one = Condition(test=name, of="yard", any_of=("desk",))
        assert test.words(one, Names())
        assert test.written(one, Names()) or name == "dates"
        test.looks(one)


@pytest.mark.parametrize(
    "kind", ["ring", "hold_line", "voicemail", "notify", "look_up", "menu", "junction", "continue_in"]
)
def test_whatever_a_kind_names_can_be_renamed_and_left_open(kind: str) -> None:
    filled = {
        "ring": {"to": [{"kind": "person", "id": "d", "person": "pe_1"}, {"kind": "team", "id": "e", "team": "te_1"},
                        {"kind": "number", "id": "f", "number": "+14105550160", "hours": "h_1"}]},
        "hold_line": {"team": "te_1"}, "voicemail": {"mailbox": "mb_1"}, "look_up": {"url": "https://orders.example.com"},
        "notify": {"to": [{"kind": "person", "of": "pe_1"}, {"kind": "email", "of": "desk@example.com"}, {"kind": "number", "of": "+14105550160"}]},
        "menu": {"branches": [{"id": "b", "keys": "1", "source": "ls_1"}]}, "continue_in": {"flow": "fl_1"},
        "junction": {"branches": [{"id": "b", "when": {"test": "period", "of": "h_1", "any_of": ["desk"]}}]},
    }  # fmt: skip
    step = document({"kind": kind, "id": "s", **filled[kind]}).steps[0]
    before = [(named.kind, named.key) for named in step.names()]
    assert before
    other = step.renamed(lambda _kind, key: f"other_{key}")
    assert [(named.kind, named.key) for named in other.names()] == [(kind, f"other_{key}") for kind, key in before]
    left = [named for named in step.renamed(lambda _kind, _key: None).names() if named.kind != "hours"]
    assert left == []
