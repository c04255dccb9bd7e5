"""The Voicemail: a greeting, then the caller is recorded."""

from ...model.steps import Voicemail
from ..commands import Record
from ..events import Digit, Event, Finished, Recorded
from ..reads import Reads
from ..state import Phase, State
from ..turn import Turn

MESSAGE_SECONDS = 2.0
"""Seconds of voice from which a recording is a message."""


def enter(turn: Turn, here: Voicemail) -> None:
    turn.kept = ""
    if here.greeting.is_empty():
        _record(turn, here)
    else:
        turn.say(here.greeting, cut=True, phase="greeting")


def take(turn: Turn, here: Voicemail, event: Event) -> None:
    if turn.phase == "greeting" and isinstance(event, Finished | Digit):
        _record(turn, here)
    elif turn.phase == "recording" and isinstance(event, Recorded):
        _recorded(turn, here, event)


def left_in(here: Voicemail, phase: Phase) -> str:
    return "voicemail"


def inputs(here: Voicemail, state: State, reads: Reads) -> list[Event]:
    if state.phase == "greeting":
        return [Finished(state.awaiting), Digit("1")]
    return [Recorded(state.awaiting, voice, gone) for voice in (10.0, 0.0) for gone in (False, True)]


def _record(turn: Turn, here: Voicemail) -> None:
    turn.phase = "recording"
    turn.awaiting = turn.issue(Record, here.mailbox, here.beep, here.longest, here.stop_key, here.stop_silence)


def _recorded(turn: Turn, here: Voicemail, event: Recorded) -> None:
    left = event.voice >= MESSAGE_SECONDS
    if turn.flow.plays_back:
        turn.recorded = event.command
    turn.message = turn.message or left
    if event.gone:
        turn.gone, turn.ended_by, turn.left_in = True, "caller", "voicemail"
    turn.go(*(("message_left", here.message_left) if left else ("no_message", here.no_message)))
