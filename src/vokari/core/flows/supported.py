"""What is in the format but does not run yet: not offered on screen, and refused in words when a file brings it."""

from .conditions import RUNNING as CONDITIONS
from .conditions import leaves
from .document import FlowDocument
from .flowfile import Mistake
from .steps import Announcement, HangUp, HoldLine, Junction, Label, Menu, Notify, Ring, Step, Voicemail
from .telling import BY
from .values import Prompt

RUNNING = (
    "announcement",
    "menu",
    "junction",
    "ring",
    "hold_line",
    "voicemail",
    "label",
    "notify",
    "look_up",
    "back_to",
    "hang_up",
)
"""The kinds of step that can be added today, in the order in which they are offered."""

KIND_NAMES = {
    "announcement": "Announcement", "menu": "Menu", "keypad_entry": "Keypad entry", "look_up": "Look-up",
    "junction": "Junction", "ring": "Ring", "hold_line": "Hold line", "voicemail": "Voicemail", "label": "Label",
    "notify": "Notify", "continue_in": "Continue in", "back_to": "Back to", "hang_up": "Hang up",
    "come_back": "Come back",
}  # fmt: skip


def refusals(document: FlowDocument) -> list[Mistake]:
    """One mistake for each thing of the document that this version cannot run; empty when all of it runs."""
    found = []
    for index, step in enumerate(document.steps):
        path = f"flow.steps.{index}"
        if step.kind not in RUNNING:
            found.append(Mistake(path, 0, f"the step kind {KIND_NAMES[step.kind]} cannot be run yet"))
            continue
        found += [Mistake(f"{path}.{field}", 0, sentence) for field, sentence in _of_step(step)]
    return found


def _of_step(step: Step) -> list[tuple[str, str]]:
    found = [
        (field, "prompts of the library, recordings and chosen voices cannot be played yet; write the words in say")
        for field, prompt in _prompts(step)
        if prompt.prompt or prompt.recording or prompt.voice
    ]
    if isinstance(step, Menu):
        if step.dial_extensions:
            found.append(("dial_extensions", "dialing a person’s extension cannot be run yet"))
        found += [
            (f"branches.{i}.spoken", "spoken answers cannot be run yet")
            for i, branch in enumerate(step.branches)
            if branch.spoken
        ]
    if isinstance(step, Notify):
        if step.by not in BY:
            found.append(("by", f"telling by {step.by} cannot be run yet"))
        found += [
            (f"to.{i}", f"telling a {one.kind} cannot be run yet")
            for i, one in enumerate(step.to)
            if one.kind in ("group", "url")
        ]
    if isinstance(step, Label) and step.lead_status:
        found.append(("lead_status", "setting a lead status cannot be run yet"))
    if isinstance(step, Junction):
        found += [
            (f"branches.{i}.when", f"the condition {leaf.test.replace('_', ' ')} cannot be run yet")
            for i, branch in enumerate(step.branches)
            for leaf in leaves(branch.when)
            if leaf.test not in CONDITIONS
        ]
    if isinstance(step, HoldLine) and step.hears.what == "caller_name":
        found.append(("hears", "a caller’s name is asked for in a Ring step only"))
    if isinstance(step, Ring):
        found += _of_ring(step)
    return found


def _of_ring(step: Ring) -> list[tuple[str, str]]:
    found = []
    if step.strategy in ("weighted_share", "rota"):
        found.append(
            ("strategy", f"the strategy {step.strategy.replace('_', ' ')} is a team’s: make a team and ring it here")
        )
    return found


def _prompts(step: Step) -> list[tuple[str, Prompt]]:
    if isinstance(step, Announcement | HangUp):
        return [("prompt", step.prompt)]
    if isinstance(step, Voicemail):
        return [("greeting", step.greeting)]
    if isinstance(step, HoldLine):
        return [("music", step.music)] if step.music else []
    if isinstance(step, Ring):
        return [("hold_sound", step.hold_sound)] if step.hold_sound else []
    if isinstance(step, Menu):
        retries = [("retry_silent", step.retry_silent), ("retry_wrong", step.retry_wrong)]
        return [("prompt", step.prompt), *[(field, prompt) for field, prompt in retries if prompt]]
    return []


def prompts_of(step: Step) -> list[tuple[str, Prompt]]:
    """The prompts of a step that runs today, each with the field that holds it."""
    return _prompts(step)
