"""Flows for tests: short ways to write them, and random ones."""

from typing import Any

from hypothesis import strategies as st

from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.running import engine
from vokari.core.flows.running.commands import Command
from vokari.core.flows.running.events import Arrived, Event
from vokari.core.flows.running.questions import AnswerSource, everyone_free
from vokari.core.flows.running.state import State

DANA, JOEL = "+14105550160", "+14105550161"


def phone(name: str, number: str, seconds: int = 20) -> dict[str, Any]:
    return {"kind": "number", "id": f"d{number[-3:]}", "name": name, "number": number, "seconds": seconds}


def say(step: str, words: str = "Hello there", next_: str | None = None, **more: Any) -> dict[str, Any]:
    return {"kind": "announcement", "id": step, "prompt": {"say": words}, "next": next_, **more}


def menu(step: str, keys: dict[str, Any], **more: Any) -> dict[str, Any]:
    """A menu; what stands behind a key is a step, or the fields of its branch."""
    ways = {key: to if isinstance(to, dict) else {"to": to} for key, to in keys.items()}
    branches = [{"id": f"k{index}", "keys": key, **way} for index, (key, way) in enumerate(ways.items())]
    return {"kind": "menu", "id": step, "prompt": {"say": "Press a key"}, "branches": branches, **more}


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


_EXITS = ("waited", "full", "left", "nobody", "found", "not_found", "failed")
IDS = [f"s{n}" for n in range(8)]
_targets = st.one_of(st.none(), st.sampled_from([*IDS, "end"]))
_keys = st.lists(st.sampled_from(["1", "2", "12", "123", "3", "*", "#", "0", "4567"]), unique=True, max_size=5)


@st.composite
def _steps(draw: st.DrawFn, step: str) -> dict[str, Any]:
    kind = draw(
        st.sampled_from(
            ["announcement", "menu", "ring", "hold_line", "look_up", "voicemail", "label", "back_to", "hang_up"]
        )
    )
    base: dict[str, Any] = {"id": step, "kind": kind, "name": draw(st.sampled_from(["", "A", "Yard"]))}
    words = {"say": draw(st.sampled_from(["", "Hello", "Press one"]))}
    if kind == "announcement":
        counts = draw(st.sampled_from(["nothing", "served", "turned_away"]))
        more = {"times": draw(st.integers(1, 3)), "notice": draw(st.booleans()), "counts_as": counts}
        return {**base, "prompt": words, "next": draw(_targets), **more}
    if kind == "menu":
        branches = [
            {"id": f"k{n}", "keys": key, "to": draw(_targets), "hear_again": draw(st.integers(0, 5)) == 0}
            for n, key in enumerate(draw(_keys))
        ]
        more = {"tries": draw(st.integers(1, 3)), "nothing": draw(_targets), "wrong": draw(_targets)}
        return {**base, "prompt": words, "branches": branches, **more}
    if kind == "ring":
        phones = [phone("P", f"+141055501{60 + n}") for n in range(draw(st.integers(0, 3)))]
        more = {
            "strategy": draw(st.sampled_from(["in_order", "all_at_once"])), "rounds": draw(st.integers(1, 2)),
            "accept": draw(st.sampled_from([None, {"key": "1"}])), "limit": draw(st.sampled_from([None, 30])),
        }  # fmt: skip
        exits = {
            "no_answer": draw(_targets),
            "busy": draw(st.one_of(st.just("same"), _targets)),
            "after": draw(_targets),
        }
        return {**base, "to": phones, **more, **exits}
    if kind == "look_up":
        return {**base, "url": "https://orders.example.com", **{name: draw(_targets) for name in _EXITS[4:]}}
    if kind == "hold_line":
        exits = {name: draw(_targets) for name in (*_EXITS[:4], "after")}
        more = {
            "leave_key": draw(st.sampled_from([None, "1", "*"])), "announce_every": draw(st.sampled_from([None, 15])),
            "accept": draw(st.sampled_from([None, {"key": "1"}])), "longest_wait": draw(st.sampled_from([10, 60])),
        }  # fmt: skip
        return {**base, "team": "crew", **more, **exits}
    if kind == "voicemail":
        return {**base, "greeting": words, "message_left": draw(_targets), "no_message": draw(_targets)}
    if kind == "label":
        return {**base, "labels": ["lead"], "next": draw(_targets)}
    if kind == "back_to":
        return {**base, "to": draw(_targets)}
    return {**base, "prompt": words, "refusal": draw(st.booleans())}


@st.composite
def random_documents(draw: st.DrawFn) -> FlowDocument:
    """Flows of up to eight steps, led anywhere, sound or not."""
    count = draw(st.integers(1, len(IDS)))
    known = set(IDS[:count])
    steps = [draw(_steps(step)) for step in IDS[:count]]

    def mend(value: Any) -> Any:
        return None if isinstance(value, str) and value in IDS and value not in known else value

    for step in steps:
        for field in (*_EXITS, "next", "nothing", "wrong", "no_answer", "busy", "after", "message_left", "no_message"):
            if field in step:
                step[field] = mend(step[field])
        if step["kind"] == "back_to":
            step["to"] = mend(step["to"])
        for branch in step.get("branches", ()):
            branch["to"] = mend(branch["to"])
    rescue = draw(st.one_of(st.none(), st.sampled_from(sorted(known))))
    return document(*steps, rescue=rescue, entry_limit=draw(st.sampled_from([2, 10])))
