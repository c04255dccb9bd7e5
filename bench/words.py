"""Words of menus: how many of the texts in the tests are heard as a person hears them, and which are not; `--keep` writes it down."""

import sys
from datetime import UTC, datetime

from tests.core.flows.menu_texts import TEXTS
from tests.core.flows.test_menu_words import misses

from .kept import keep

HEADING = "## Words of menus"


def report() -> list[str]:
    """The part of docs/measures.md."""
    missed = misses()
    lines = [
        HEADING,
        f"Printed by `script/bench --words` on {datetime.now(UTC):%Y-%m-%d}: of {len(TEXTS)} texts, written before the reader, "
        f"{len(TEXTS) - len(missed)} are heard as a person hears them ({1 - len(missed) / len(TEXTS):.1%}; goal: 95 %).",
        "",
        "| missed | a person hears | the reader hears |",
        "| --- | --- | --- |",
    ]
    return lines + [f"| {text} | {_said(expected)} | {_said(heard)} |" for text, expected, heard in missed]


def _said(choices: tuple[tuple[str, str, str], ...]) -> str:
    return "; ".join(f"{keys} {name} ({kind})".strip() for keys, name, kind in choices) or "nothing"


if __name__ == "__main__":
    print("\n".join(report()))
    if "--keep" in sys.argv:
        keep(HEADING, report())
