"""What is in the format but does not run yet: not offered on screen, and refused in words when a file brings it."""

from dataclasses import dataclass

from ..flows.model.conditions import RUNNING as CONDITIONS
from ..flows.model.conditions import leaves
from ..flows.model.document import FlowDocument
from ..flows.model.steps import BY, KIND_NAMES, RUNNING, HoldLine, Junction, Label, Menu, Notify, Ring, Step, prompts_of


@dataclass(frozen=True, slots=True)
class Unsupported:
    """What cannot be run: its place in the document ("steps.3.by"), and a sentence."""

    path: str
    sentence: str


def unsupported(document: FlowDocument) -> list[Unsupported]:
    """One for each thing of the document that this version cannot run; empty when all of it runs."""
    found = []
    for index, step in enumerate(document.steps):
        path = f"steps.{index}"
        if step.kind not in RUNNING:
            found.append(Unsupported(path, f"the step kind {KIND_NAMES[step.kind]} cannot be run yet"))
            continue
        found += [Unsupported(f"{path}.{field}", sentence) for field, sentence in _of_step(step)]
    return found


def _of_step(step: Step) -> list[tuple[str, str]]:
    found = [
        (field, "prompts of the library, recordings and chosen voices cannot be played yet; write the words in say")
        for field, prompt in prompts_of(step)
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
