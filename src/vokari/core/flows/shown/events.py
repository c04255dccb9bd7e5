"""What happens on a call, in words."""

from collections.abc import Mapping

from ..running import events
from ..running.events import Event, LegOutcome
from ..running.steps.voicemail import MESSAGE_SECONDS

LEG_WORDS: Mapping[LegOutcome, str] = {
    "answered": "answers", "accepted": "presses the key", "refused": "does not press", "busy": "is busy", "declined": "declines",
    "rang_out": "does not answer", "unreachable": "is unreachable", "machine": "machine detected", "ended": "hangs up",
}  # fmt: skip


def event_words(event: Event, phones: Mapping[int, str]) -> str:
    """An event in words, empty for one that only marks the passing of time. `phones` names the phones by the command that rang
    them."""
    match event:
        case events.Arrived():
            return "The call arrives"
        case events.Digit(key):
            return f"Caller presses {key}"
        case events.Silence():
            return "Nothing is pressed"
        case events.Leg(command, outcome):
            return f"{phones.get(command, 'The phone')} {LEG_WORDS[outcome]}"
        case events.Recorded(_, voice):
            return f"Message of {voice:.0f} seconds" if voice >= MESSAGE_SECONDS else "No message is left"
        case events.Gone():
            return "Caller hangs up"
        case events.Finished() | events.TimerFired() | events.Poked():
            return ""
