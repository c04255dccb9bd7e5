"""The documents that others read are the ones the program speaks by."""

import json
import re
from pathlib import Path

from vokari.api.control import create
from vokari.work.house.house import House

DOCS = Path(__file__).parents[1] / "docs"


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
