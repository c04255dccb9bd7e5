"""Flow files: what is read, what is refused with a line and a path, and older formats."""

import json
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given

from tests.flows import document, say
from tests.random_flows import random_documents
from vokari.core.checks.supported import unsupported
from vokari.core.flows.model.document import FlowDocument
from vokari.formats import flow_file

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))
KEPT = sorted((Path(__file__).parent / "kept").glob("flow-v*.json"))


@given(random_documents())
def test_what_is_written_is_read_again_and_fits_the_schema(flow: FlowDocument) -> None:
    file = flow_file.FlowFile(about="A test", flow=flow)
    text = flow_file.write(file)
    assert flow_file.read(text) == file
    jsonschema.validate(json.loads(text), flow_file.json_schema())


@pytest.mark.parametrize("path", [*EXAMPLES, *KEPT], ids=lambda path: path.stem)
def test_examples_and_kept_files_are_read(path: Path) -> None:
    file = flow_file.read(path.read_text())
    assert isinstance(file, flow_file.FlowFile), file
    assert file.about
    assert unsupported(file.flow) == []
    jsonschema.validate(
        json.loads(path.read_text() if path in EXAMPLES else flow_file.write(file)), flow_file.json_schema()
    )


def broken(change: str) -> str:
    return (KEPT[0].read_text()).replace('"kind": "menu"', change, 1)


@pytest.mark.parametrize(
    ("text", "path", "sentence"),
    [
        ("{", "", "not JSON"),
        ("[]", "", "JSON object"),
        ('{"flow": {"name": "A", "mark": "AB",\n "steps": [],\n "colour": 1}}', "flow.colour", "no such field"),
        ('{"flow": {"name": "A", "mark": "ab"}}', "flow.mark", "pattern"),
        ('{"flow": {"mark": "AB"}}', "flow.name", "missing"),
        ('{"flow": {"version": 9, "name": "A", "mark": "AB"}}', "flow.version", "reads up to 2"),
        ('{"flow": {"name": "A", "mark": "AB", "start": "x"}}', "flow", "no step x"),
        ('{"flow": {"name": "A", "mark": "AB", "everyone_else": "x"}}', "flow", "no step x"),
        (
            '{"flow": {"name": "A", "mark": "AB", "steps": [{"kind": "label", "id": "l", "labels": ["x"], "next": "gone"}]}}',
            "flow",
            "no step gone",
        ),
        (broken('"kind": "juggle"'), "flow.steps.1", "juggle"),
    ],
)
def test_mistakes_name_their_path_and_say_what_is_wrong(text: str, path: str, sentence: str) -> None:
    found = flow_file.read(text)
    assert isinstance(found, list)
    assert found[0].path == path
    assert sentence in found[0].sentence


def test_a_mistake_names_its_line() -> None:
    text = KEPT[0].read_text().replace('"tries": 3', '"tries": 33')
    found = flow_file.read(text)
    assert isinstance(found, list)
    assert "tries" in text.splitlines()[found[0].line - 1]
    assert found[0].path == "flow.steps.1.tries"


def test_an_older_format_is_raised_step_by_step() -> None:
    raised = flow_file.raise_format(
        {"version": 1, "title": "A"}, {1: lambda raw: {"name": raw["title"]}, 2: lambda raw: {**raw, "mark": "AA"}}, 3
    )
    assert raised == {"name": "A", "mark": "AA", "version": 3}
    with pytest.raises(ValueError, match="whole number"):
        flow_file.raise_format({"version": "one"})


def test_what_cannot_run_yet_is_refused_in_words() -> None:
    steps = [
        {"kind": "ring", "id": "r", "to": [{"kind": "team", "id": "t", "team": "yard"}], "strategy": "rota"},
        {"kind": "announcement", "id": "p", "prompt": {"recording": "welcome"}},
    ]  # fmt: skip
    flow = document(say("a"), *steps)
    places = [mistake.path for mistake in unsupported(flow)]
    assert places == ["steps.1.strategy", "steps.2.prompt"]
