"""A call's log as it is stored: one entry an event, JSON-ready. Folding the log again gives the call again."""

from collections.abc import Mapping
from typing import Any, Literal

from ..core.flows.questions import kinds as questions
from ..core.flows.questions import stored as answers_stored
from ..core.flows.running import engine, events, stored
from .call_control.sending import to_wire

Sounds = Mapping[str, float]


def entry(
    seq: int,
    at: str | float,
    event: events.Event,
    answers: questions.Answers,
    following: engine.Next,
    sounds: Sounds | None = None,
    digest: str = "",
    whisper: str = "",
    fields: dict[str, str] | None = None,
    origin: Literal["carrier", "house"] = "carrier",
    country: str = "US",
) -> dict[str, Any]:
    """What happened, what was asked and answered, the commands as on the wire, and the way through the flow.

    `at` is an RFC 3339 instant for a live call, seconds since the start for a rehearsal; `sounds` and `country` as for `to_wire`;
    `digest` tells a repeated event from another one with its number; `whisper` is what whoever is rung hears
    first, `fields` what is filled into a step's own; `origin` whether the carrier told of the event or the application itself
    did. `ends` is the exit that led to the call's end. `ended`: the carrier has nothing more to tell.
    """
    return {
        "seq": seq, "at": at, "event": stored.dump_event(event), "answers": answers_stored.dump(answers),
        "commands": [to_wire(one, sounds, whisper, fields, country).model_dump(mode="json") for one in following.commands],
        "way": [list(one) for one in following.way], "ends": following.ends, "step": following.state.at, "digest": digest,
        "ended": following.state.ended or following.state.gone, "engine": engine.VERSION, "origin": origin,
    }  # fmt: skip
