"""The documents that others read are the ones the program speaks by."""

import json
import re
from pathlib import Path

from vokari.api.control import create
from vokari.work.house.house import House

ROOT = Path(__file__).parents[1]
DOCS = ROOT / "docs"


def test_the_published_call_control_document_is_current(house: House) -> None:
    """To write it anew: `vokari call-control > docs/call-control.openapi.json`."""
    published = json.loads((DOCS / "call-control.openapi.json").read_text())
    assert published == json.loads(json.dumps(create(house).openapi()))
    text, schemas = json.dumps(published), published["components"]["schemas"]
    assert set(re.findall(r'"#/components/schemas/(\w+)"', text)) <= set(schemas)
    assert "#/$defs" not in text
    assert set(schemas["EventMessage"]["properties"]["event"]["discriminator"]["mapping"]) >= {
        "call_arrived",
        "poked",
        "timer",
    }


def test_every_slip_of_the_trade_has_a_rule_that_exists_or_a_test_that_names_why_it_cannot_happen() -> None:
    rows = [line.split("|")[1:-1] for line in (DOCS / "slips.md").read_text().splitlines() if re.match(r"\| \d", line)]
    assert [int(row[0]) for row in rows] == list(range(1, 20))
    core = "".join(path.read_text() for path in (ROOT / "src/vokari/core").rglob("*.py"))
    plants = (ROOT / "tests/slips.py").read_text()
    for number, slip, rules, tests in rows:
        assert all(f'"{one}"' in core for one in re.findall(r"`(\w+)`", rules)), slip
        assert "planted" not in tests or f'"{number.strip()} ' in plants, slip
        named = re.findall(r"`([\w/.]+)::(\w+)`", tests)
        assert named or "planted" in tests, slip
        assert all(f"def {test}(" in (ROOT / "tests" / file).read_text() for file, test in named), slip
