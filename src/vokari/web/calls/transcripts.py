"""Transcripts: what happened on a call or a rehearsal, line by line."""

from collections import Counter
from collections.abc import Sequence
from typing import Any

from ...core.flows.conditions.base import Names
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import Notify, Ring
from ...core.flows.running.stored import load_event
from ...core.flows.shown.events import event_words
from ...core.flows.shown.reasons import fact_words, sorted_by
from ...core.flows.shown.words import summary
from ...core.numbers import numbering
from ...core.numbers.numbering import shown


def transcript(
    document: FlowDocument, log: Sequence[dict[str, Any]], names: Names | None = None
) -> list[dict[str, Any]]:
    """Lines of a log's entries: each with its moment, the id of the step, a kind for the sign beside it, words, and, where something happened
    that could have gone otherwise, how many things had happened `before` it. `names` are those of the client's hours."""
    legs = {one["id"]: one["number"] for entry in log for one in entry["commands"] if one["type"] == "ring"}
    people = {
        getattr(one, "number", ""): getattr(one, "name", "")
        for step in document.steps
        if not isinstance(getattr(step, "to", None), str)
        for one in getattr(step, "to", None) or ()
    }
    people |= {
        rung["to"]: rung["name"]
        for entry in log
        for answer in entry["answers"]
        if answer["ask"] in ("line_up", "hold_turn")
        for wave in answer["answer"][0 if answer["ask"] == "line_up" else 3]
        for rung in wave
    }
    people = _told_apart(people)
    lines: list[dict[str, Any]] = []
    before = ""
    for earlier, entry in enumerate(log):
        step = entry["step"]
        event = entry["event"]
        words = event_words(load_event(event), {leg: people.get(number) or number for leg, number in legs.items()})
        words = words.removesuffix(f" {event['key']}") if "key" in event else words
        if event["kind"] == "recorded" and not entry.get("way") and isinstance(document.step(step), Ring):
            words = "Caller says a name" if event["voice"] > 0 else "Caller says no name"
        if words:
            lines.append(
                {
                    "at": entry["at"],
                    "step": step,
                    "kind": event["kind"],
                    "words": words,
                    "key": event.get("key", ""),
                    "before": earlier,
                }
            )
        for answer in entry["answers"]:
            told = _answer_words(answer, names or Names())
            if told:
                lines.append({"at": entry["at"], "step": step, "kind": "hours", "words": told, "key": ""})
        for told in sorted_by(document, before, entry.get("way", [])):
            lines.append({"at": entry["at"], "step": step, "kind": "hours", "words": told, "key": ""})
        before = step
        for _, came_to in entry.get("way", []):
            there = document.step(came_to)
            if isinstance(there, Notify):
                said = f"{there.name or 'Notify'} {summary(there, document)}"
                lines.append({"at": entry["at"], "step": came_to, "kind": "notify", "words": said, "key": ""})
        for command in entry["commands"]:
            said = _command_words(command, people)
            if said:
                lines.append({"at": entry["at"], "step": step, "kind": command["type"], "words": said, "key": ""})
    return lines


def _told_apart(people: dict[str, str]) -> dict[str, str]:
    """What each number is called; several phones of one person are told apart by their numbers."""
    often = Counter(people.values())
    return {to: f"{name} at {_written(to)}" if name and often[name] > 1 else name for to, name in people.items()}


def _written(to: str) -> str:
    return shown(to) if to.startswith("+") else to


def _answer_words(answer: dict[str, Any], names: Names) -> str:
    """What the flow was told of hours, times, the caller, the touch and the place."""
    if answer["ask"] == "hold_turn":
        what, place, _, _ = answer["answer"]
        return {
            "wait": f"Waits, number {place} in line" if answer["entering"] else "", "full": "The line is full",
            "nobody": "Nobody is available", "ring": "Somebody is free",
        }[what]  # fmt: skip
    if answer["ask"] == "looked_up":
        what, value = answer["answer"]
        return {"found": f"The client’s system answers “{value}”", "not_found": "The client’s system: not found", "failed":
                "The client’s system does not answer", "pending": "The client’s system is asked"}[what]  # fmt: skip
    if answer["ask"] == "in_dates":
        return f"The date {'is' if answer['answer'] else 'is not'} one that was asked for"
    if answer["ask"] == "in_times":
        return f"The time {'is' if answer['answer'] else 'is not'} one that was asked for"
    if answer["ask"] == "which_exception":
        known = names.hours.get(answer["hours"])
        return f"{known.name if known else 'Hours'}: {'exception ' + answer['answer'] if answer['answer'] else 'no exception'}"
    if answer["ask"] != "what_holds":
        return fact_words(answer, names)
    known = names.hours.get(answer["hours"])
    period, exceptional = answer["answer"]
    name = (known.periods.get(period, period) if known else period) or "closed"
    return f"{known.name if known else 'Hours'}: {name}{', by an exception' if exceptional else ''}"


def _command_words(command: dict[str, Any], people: dict[str, str]) -> str:
    match command["type"]:
        case "play":
            return f"“{command['words']}”"
        case "ring":
            number = numbering.joined(command["number"], command.get("post_dial", ""))
            heard = [f"“{words}”" for words in (command.get("whisper"), command.get("whisper_after")) if words]
            if command.get("caller_name"):
                heard.insert(1, "the caller’s name")
            first = f", who first hears {', '.join(heard)}" if heard else ""
            return f"Rings {people.get(number) or number}, {command['seconds']} s{first}"
        case "connect":
            recorded = {"on": ", recorded", "if_kept": f", kept if {command.get('keep_key')} is pressed"}
            return f"They talk{recorded.get(command.get('recording', ''), '')}"
        case "hold":
            return f"“{command['words']}”, over and over" if command["words"] else "Music"
        case "record":
            return "Records after the tone" if command["beep"] else "Records"
        case "hang_up":
            return "The call is ended"
    return ""
