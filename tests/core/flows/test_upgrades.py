"""What was stored in an older format: one kept example of each version, raised to today's."""

import json
from pathlib import Path

from vokari.core.flows.model.document import FORMAT_VERSION, FlowDocument
from vokari.core.flows.model.values import Hears, Recording
from vokari.core.people.directory import FOR_GOOD, Person
from vokari.formats import flow_file

KEPT = Path(__file__).parent / "kept"


def test_a_flow_of_version_1_is_raised_and_calls_go_on_as_before() -> None:
    text = (KEPT / "flow-1.json").read_text()
    flow = FlowDocument.model_validate(json.loads(text))
    assert flow.version == FORMAT_VERSION
    by_id = {step.id: step for step in flow.steps}
    assert [by_id[one].recording for one in ("off", "on", "asked", "some")] == [
        Recording(keep_key=None, pause_key=None), Recording(purpose="all", keep_key=None, pause_key=None),
        Recording(purpose="learn", per_week=1, pause_key=None),
        Recording(purpose="learn", per_week=20, keep_key=None, pause_key=None),
    ]  # fmt: skip
    assert [by_id[one].hears for one in ("off", "on", "asked")] == [
        Hears(), Hears(words="{client}"), Hears(words="{said name}", asks="Who is it?"),
    ]  # fmt: skip
    assert by_id["m"].waits == 5, "a wait that was set stays"
    assert by_id["off"].to[0].seconds == 20
    file = flow_file.read(text)
    assert isinstance(file, flow_file.FlowFile)
    assert file.flow == flow


def test_what_was_raised_is_not_raised_again() -> None:
    flow = FlowDocument.model_validate(json.loads((KEPT / "flow-1.json").read_text()))
    assert FlowDocument.model_validate(flow.model_dump(mode="json")) == flow


def test_a_phone_that_was_off_is_set_aside_with_no_end_in_sight() -> None:
    phones = [{"id": "a", "to": "+14105550160", "on": False}, {"id": "b", "to": "+14105550161", "on": True}]
    person = Person.model_validate({"name": "Dana", "phones": phones})
    assert [one.aside_until for one in person.phones] == [FOR_GOOD, None]
