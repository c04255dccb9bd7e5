"""The Menu: what a key or silence makes of a try."""

from typing import cast

from ...model.steps import Menu
from ...model.values import EXTENSION
from ...questions.kinds import SOME_EXTENSION, Extensions
from ..events import Digit, Event, Finished, Silence
from ..reads import Reads
from ..state import Phase, State
from ..turn import Turn
from . import keyed
from .menu_keys import KEYPAD, KeyTable, Reading, close_entry, key_table, read_key


def enter(turn: Turn, here: Menu) -> None:
    if here.dial_extensions:
        turn.mark(here)
    keyed.begin(turn, here, _key)


def take(turn: Turn, here: Menu, event: Event) -> None:
    if turn.phase not in keyed.PHASES:
        return
    if here.dial_extensions:
        turn.mark(event)
    if isinstance(event, Digit):
        _key(turn, here, event.key)
    elif isinstance(event, Finished) and turn.phase == "saying":
        keyed.heard(turn, here)
    elif isinstance(event, Silence) and turn.phase == "waiting":
        if turn.pending:
            _read(turn, here, close_entry(_keys(turn, here), turn.pending))
        else:
            keyed.failed(turn, here, _key, silent=True)


def left_in(here: object, phase: Phase) -> str:
    """Where somebody was who hung up at a step that asks for keys."""
    return "menu"


def inputs(here: Menu, state: State, reads: Reads) -> list[Event]:
    """Keys that begin or are one, # where it ends an entry, and one that is wrong."""
    table = key_table(here, (SOME_EXTENSION,))
    telling = {
        key
        for key in KEYPAD
        if (entry := state.pending + key) in table.branches or entry in table.beginnings or entry in table.extensions
    }
    closing = {"#"} if state.pending else set[str]()
    wrong = next((key for key in "9876543210*#" if key not in telling | closing), None)
    return [*keyed.passing(state), *map(Digit, sorted(telling | closing | ({wrong} if wrong else set())))]


def _keys(turn: Turn, here: Menu) -> KeyTable:
    """What can be pressed: extensions are asked for where they can be dialed."""
    return key_table(here, cast(tuple[str, ...], turn.ask(Extensions(here.id))) if here.dial_extensions else ())


def _key(turn: Turn, here: Menu, pressed: str) -> None:
    """A key, during the prompt or after it."""
    _read(turn, here, read_key(_keys(turn, here), turn.pending, pressed))


def _read(turn: Turn, here: Menu, reading: Reading) -> None:
    branch = reading.branch
    if reading.kind == "more":
        turn.pending = reading.pending
        keyed.more(turn, here, _key)
    elif reading.extension:
        turn.pending = ""
        turn.keep(EXTENSION, reading.extension)
        turn.go("extension", here.extension)
    elif branch is None:
        keyed.failed(turn, here, _key, silent=False)
    else:
        turn.pending = ""
        turn.language = branch.language or turn.language
        if branch.source:
            turn.source = branch.source
        if not branch.hear_again:
            turn.go(branch.id, branch.to)
        elif turn.count(here.id, branch.id):
            enter(turn, here)
        else:
            turn.go("again", None)
