"""Where everyone else goes: exits for silence, wrong keys and no answer lead there until they are given their own."""

from ..model.document import FlowDocument
from ..model.steps import AnyStep, BackTo
from ..model.walks import onward, reached_from


def following(step: AnyStep, everyone: str, was: str | None = None) -> AnyStep:
    """The step with its open exits, and those that led where everyone else went before, leading where everyone else goes."""
    for name in step.follows:
        target = getattr(step, name)
        if target is None or (was is not None and target == was):
            step = step.with_target(name, everyone)
    return step


def followed(before: FlowDocument, after: FlowDocument) -> FlowDocument:
    """The document with all that follows everyone else. What hangs below that step itself has no one else to go to."""
    everyone = after.everyone_else
    if everyone is None:
        return after
    was = before.everyone_else if before.everyone_else != everyone else None
    own = reached_from(after.by_id, [everyone], lambda step: () if isinstance(step, BackTo) else onward(step))
    steps = tuple(step if step.id in own else following(step, everyone, was) for step in after.steps)
    return (
        after.with_steps(steps) if any(new is not old for new, old in zip(steps, after.steps, strict=True)) else after
    )
