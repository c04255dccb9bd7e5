"""Flows for tests: short ways to write them, and calls driven event by event."""

from typing import Any

from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.questions.kinds import AnswerSource, everyone_free
from vokari.core.flows.running import engine
from vokari.core.flows.running.commands import Command
from vokari.core.flows.running.events import Arrived, Event
from vokari.core.flows.running.state import State

DANA, JOEL = "+14105550160", "+14105550161"


def phone(name: str, number: str, seconds: int = 20) -> dict[str, Any]:
    return {"kind": "number", "id": f"d{number[-3:]}", "name": name, "number": number, "seconds": seconds}


def say(step: str, words: str = "Hello there", next_: str | None = None, **more: Any) -> dict[str, Any]:
    return {"kind": "announcement", "id": step, "prompt": {"say": words}, "next": next_, **more}


def label(name: str) -> dict[str, Any]:
    """A condition on a label of the contact."""
    return {"test": "label", "any_of": [name]}


def asks(prefix: str, count: int, last: str) -> list[dict[str, Any]]:
    """Junctions in a row, each on a fact of its own."""
    found = []
    for number in range(count):
        after = f"{prefix}{number + 1}" if number + 1 < count else last
        branch = {"id": "b", "when": label(f"label {number}"), "to": f"{prefix}s{number}"}
        found.append({"kind": "junction", "id": f"{prefix}{number}", "branches": [branch], "otherwise": after})
        found.append(say(f"{prefix}s{number}", "Hello", after))
    return found


def menu(step: str, keys: dict[str, Any], **more: Any) -> dict[str, Any]:
    """A menu; what stands behind a key is a step, or the fields of its branch."""
    ways = {key: to if isinstance(to, dict) else {"to": to} for key, to in keys.items()}
    branches = [{"id": f"k{index}", "keys": key, **way} for index, (key, way) in enumerate(ways.items())]
    return {
        "kind": "menu",
        "id": step,
        "prompt": {"say": " ".join(f"Press {key}." for key in keys)},
        "branches": branches,
        **more,
    }


def ring(step: str, *phones: dict[str, Any], no_answer: str | None = None, **more: Any) -> dict[str, Any]:
    return {"kind": "ring", "id": step, "to": list(phones), "no_answer": no_answer, **more}


def voicemail(step: str = "vm", **more: Any) -> dict[str, Any]:
    return {
        "kind": "voicemail", "id": step, "mailbox": "mb", "greeting": {"say": "Leave a message"},
        "message_left": "end", "no_message": "end", **more,
    }  # fmt: skip


def hold(step: str = "h", **more: Any) -> dict[str, Any]:
    return {"kind": "hold_line", "id": step, "team": "crew", "waited": "vm", **more}


def document(*steps: dict[str, Any], rescue: str | None = None, **more: Any) -> FlowDocument:
    raw = {"name": "Test", "mark": "TE", "start": steps[0]["id"] if steps else None, "rescue": rescue, "steps": steps}
    return FlowDocument.model_validate({**raw, **more})


class Talk:
    """One call driven event by event; `last` are the commands of the latest event."""

    def __init__(self, doc: FlowDocument, source: AnswerSource = everyone_free) -> None:
        self.flow = engine.prepare(doc)
        self.state = State()
        self.source = source
        self.last: tuple[Command, ...] = ()
        self.asked: list[object] = []
        self(Arrived())

    def __call__(self, *events: Event) -> "Talk":
        for event in events:
            following, answers = engine.run(self.flow, self.state, event, self.source)
            self.state, self.last = following.state, following.commands
            self.asked += list(answers)
        return self

    @property
    def words(self) -> list[str]:
        return [command.prompt.say for command in self.last if hasattr(command, "prompt")]
