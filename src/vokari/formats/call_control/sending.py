"""The engine's commands as they stand on the wire: words with their sounds, and what a person hears first with its fields filled in."""

import re
from collections.abc import Mapping

from ...core.flows.model.values import SAID_NAME
from ...core.flows.running import commands as core
from ...core.flows.shown.words import speaking_seconds
from ...core.numbers import numbering
from ...core.prompts.fields import PLAYED_BACK
from ...core.prompts.markup import plain
from ...core.prompts.sounds import name_of
from ...core.prompts.voices import Voice
from .messages import (
    AcceptKey,
    CallCommand,
    ConnectCommand,
    DropCommand,
    HangUpCommand,
    HoldCommand,
    ListenCommand,
    PlayCommand,
    PlayPart,
    RecordCommand,
    RingCommand,
    TimerCommand,
)

NAMELESS = "a caller who gave no name"
"""What stands for a name that nobody said."""


def to_wire(command: core.Command, sounds: Mapping[str, float] | None = None, whisper: str = "",
            fields: dict[str, str] | None = None, country: str = "US") -> CallCommand:  # fmt: skip
    """An engine's command as it stands on the wire.

    `sounds` has the seconds of sounds by their names, 0 for those that are made when they are fetched; without a length it is
    estimated from the words. Sounds are those of the telephones of a `country`. `whisper` is what whoever is rung hears first,
    before the whisper of the step itself, in which `fields` are filled in.
    """
    match command:
        case core.Play():
            parts = _parts(command, sounds or {}, country)
            whole = (
                parts[0] if len(parts) == 1 else PlayPart(words="", seconds=round(sum(one.seconds for one in parts), 2))
            )
            return PlayCommand(
                id=command.id, words=plain(command.prompt.say), language=command.language, audio=whole.audio,
                seconds=whole.seconds, cut=command.cut, parts=parts if len(parts) > 1 else (),
            )  # fmt: skip
        case core.Listen():
            return ListenCommand(id=command.id, seconds=command.seconds)
        case core.RingLeg():
            accept = command.accept and AcceptKey(key=command.accept.key, seconds=command.accept.seconds)
            number, post_dial = numbering.parted(command.destination.dialed)
            before, name, after = command.whisper.partition(SAID_NAME)
            if name and not command.caller_name:
                before, after = f"{before}{NAMELESS}{after}", ""
            return RingCommand(
                id=command.id, number=number, post_dial=post_dial, seconds=command.seconds,
                answered="dialed" if command.destination.answered == "dialed" else "picked_up",
                shows="tracking_number" if command.shows == "tracking_number" else "caller",
                accept=accept, machine_detection=command.machine_detection,
                whisper=" ".join(one for one in (whisper, filled(before, fields or {})) if one),
                caller_name=command.caller_name or None, whisper_after=filled(after, fields or {}),
            )  # fmt: skip
        case core.Drop():
            return DropCommand(id=command.id, words=command.words)
        case core.Connect():
            return ConnectCommand(
                id=command.id, recording=command.recording, keep_key=command.keep_key, pause_key=command.pause_key
            )
        case core.Record():
            return RecordCommand(
                id=command.id, beep=command.beep, longest=command.longest, stop_key=command.stop_key,
                stop_silence=command.stop_silence,
            )  # fmt: skip
        case core.Hold():
            if command.prompt is None:
                return HoldCommand(id=command.id, language=command.language)
            (part,) = _parts(command, sounds or {}, country)
            return HoldCommand(
                id=command.id, words=part.words, language=command.language, audio=part.audio, seconds=part.seconds
            )
        case core.Timer():
            return TimerCommand(id=command.id, seconds=command.seconds)
        case core.HangUpCall():
            return HangUpCommand(id=command.id)


def filled(words: str, fields: dict[str, str]) -> str:
    """Words with {name} for each of the fields filled in; a name that is not among them says nothing."""
    return " ".join(re.sub(r"\{(\w+)\}", lambda found: fields.get(found.group(1), ""), words).split())


def sounds_of(command: core.Play | core.Hold, country: str) -> dict[str, tuple[str, str, Voice] | None]:
    """The sounds that a command plays by their names: the words, language and voice of each, None for a recording."""
    prompt = command.prompt
    if prompt is None or prompt.is_empty():
        return {}
    if prompt.recording:
        return {prompt.recording: None}
    texts = getattr(command, "parts", ()) or (prompt.say.strip(),)
    return {
        name_of(words, command.language, command.voice, country): (words, command.language, command.voice)
        for words in texts
        if words != PLAYED_BACK
    }


def _parts(command: core.Play | core.Hold, sounds: Mapping[str, float], country: str) -> tuple[PlayPart, ...]:
    """The pieces of what is played, in order: one, unless something was filled in."""
    prompt = command.prompt
    assert prompt is not None
    texts = getattr(command, "parts", ()) or (prompt.say,)
    played_back = getattr(command, "recorded", 0)
    return tuple(
        PlayPart(words="", seconds=0, recorded=played_back)
        if words == PLAYED_BACK
        else _part(words, command, prompt.recording, sounds, country)
        for words in texts
        if words != PLAYED_BACK or played_back
    )


def _part(
    words: str, command: core.Play | core.Hold, recording: str | None, sounds: Mapping[str, float], country: str
) -> PlayPart:
    name = recording or name_of(words, command.language, command.voice, country)
    seconds = sounds.get(name) or speaking_seconds(words, command.voice.rate)
    return PlayPart(words=plain(words), audio=f"/speech/{name}.wav" if name in sounds else "", seconds=seconds)
