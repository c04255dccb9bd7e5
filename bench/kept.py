"""docs/measures.md, whose parts are printed by different runs: each is replaced by itself."""

import re
from collections.abc import Sequence
from pathlib import Path

FILE = Path(__file__).parents[1] / "docs" / "measures.md"
PARTS = (
    "# Measures",
    "## Building flows",
    "## Words of menus",
    "## Typing a plan",
    "## Prompts",
    "## Proof",
    "## Proof against the outside",
    "## Slips",
    "## Scale",
    "## Faults",
)
"""The headings that the parts begin with, in their order."""


def keep(heading: str, lines: Sequence[str]) -> None:
    """Writes one part, of which the first line is its heading, in the place of what it said before."""
    before = re.split(rf"(?m)^(?={'|'.join(PARTS)})", FILE.read_text() if FILE.exists() else "")
    found = {part.splitlines()[0]: part.strip() for part in before if part.strip()}
    found[heading] = "\n".join(lines).strip()
    FILE.write_text("\n\n".join(found[part] for part in PARTS if part in found) + "\n")
