"""What mends a finding at one press: each a change of the step that the finding is at."""

from ..flows.model.steps import AnyStep, HoldLine, Ring
from ..flows.model.values import Accept

MENDS = {"ask_for_key": "Ask for a key", "detect": "Let the carrier detect it"}
"""The mends by name, as their buttons read."""


def mended(step: AnyStep, mend: str) -> AnyStep | None:
    """The step with a finding mended; None where the mend does not fit it."""
    if not isinstance(step, Ring | HoldLine):
        return None
    if mend == "ask_for_key":
        return step.model_copy(update={"accept": Accept()})
    if mend == "detect":
        return step.model_copy(update={"machine_detection": True})
    return None
