"""How a call ended for the caller, and why a lost one was lost."""

from dataclasses import dataclass
from typing import Literal

from ..flows.running.state import State

Fate = Literal["answered", "message_left", "served", "turned_away", "lost"]
FATES: tuple[Fate, ...] = ("answered", "message_left", "served", "turned_away", "lost")
FATE_NAMES: dict[Fate, str] = {
    "answered": "answered", "message_left": "message left", "served": "served", "turned_away": "turned away",
    "lost": "lost",
}  # fmt: skip

QUICK_SECONDS = 5.0

REASONS: dict[str, str] = {
    "quick": "hung up within 5 seconds",
    "ringing": "hung up while ringing",
    "waiting": "hung up while waiting",
    "menu": "hung up in a menu",
    "announcement": "hung up in an announcement",
    "voicemail": "hung up at the voicemail",
    "flow": "the flow ended the call",
    "no_flow": "the number has no flow",
    "carrier": "carrier failure",
    "unreached": "did not reach the flow",
    "unconfirmed": "unconfirmed",
    "service": "taken by a service",
}
"""Why a lost call was lost; and what is not known of an answered one."""
FAIL_SAFE: dict[str, str] = {"instead": "did not reach the flow", "after": "left the flow"}
"""How a call came to its fail-safe: instead of the flow, or after a part of it."""
UNCONFIRMED = "unconfirmed"
"""Answered, and neither an accept key nor the carrier's detection told a person from a phone's own mailbox."""

SERVICE = "service"
"""Answered by an answering service alone: the call stays open until the client has dealt with it."""


@dataclass(frozen=True, slots=True)
class Ending:
    """A call's fate, and the key of its reason in REASONS: of a lost call why, of an answered one what is not known of it."""

    fate: Fate
    reason: str = ""


def ending(state: State, seconds: float) -> Ending:
    """The fate of a call that stands in `state` when it ends, `seconds` after it arrived."""
    if state.answered:
        return Ending("answered", SERVICE if state.service else "" if state.confirmed else UNCONFIRMED)
    if state.message:
        return Ending("message_left")
    if state.said and not (state.rang or state.held):
        return Ending(state.said)
    if state.ended_by == "caller":
        return Ending("lost", "quick" if seconds < QUICK_SECONDS else state.left_in or "announcement")
    return Ending("lost", "flow" if state.ended_by == "flow" else "carrier")
