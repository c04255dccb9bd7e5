"""What a caller meets who rings a number that has no live flow: the fail-safe destination, else an apology."""

from .document import FlowDocument
from .steps import HangUp, Ring
from .values import NumberDestination, Prompt

APOLOGY = "We are sorry, nobody can take your call on this number at the moment. Please try again later."


def fallback_flow(fail_safe: str, language: str = "en-US") -> FlowDocument:
    """A small flow that rings the fail-safe destination (E.164, or empty for none) and ends with words."""
    bye = HangUp(id="sorry", name="Apology", prompt=Prompt(say=APOLOGY))
    if not fail_safe:
        return FlowDocument(name="No flow", mark="NF", language=language, start="sorry", steps=(bye,))
    phone = NumberDestination(id="d1", name="Fail-safe", number=fail_safe, seconds=40)
    ring = Ring(id="failsafe", name="Fail-safe", to=(phone,), no_answer="sorry")
    return FlowDocument(name="No flow", mark="NF", language=language, start="failsafe", steps=(ring, bye))
