"""What a caller meets who rings a number that has no live flow, or one that rests; or while all calls are diverted."""

from ..model.document import FlowDocument
from ..model.steps import Announcement, HangUp, Ring
from ..model.values import NumberDestination, Prompt
from ..running.flow import Flow

APOLOGY = "We are sorry, nobody can take your call on this number at the moment. Please try again later."


def fallback_flow(fail_safe: str, language: str = "en-US") -> FlowDocument:
    """A small flow that rings the fail-safe destination (E.164, or empty for none) and ends with words."""
    bye = HangUp(id="sorry", name="Apology", prompt=Prompt(say=APOLOGY))
    if not fail_safe:
        return FlowDocument(name="No flow", mark="NF", language=language, start="sorry", steps=(bye,))
    phone = NumberDestination(id="d1", name="Fail-safe", number=fail_safe, seconds=40)
    ring = Ring(id="failsafe", name="Fail-safe", to=(phone,), no_answer="sorry")
    return FlowDocument(name="No flow", mark="NF", language=language, start="failsafe", steps=(ring, bye))


REST_WORDS = "This number is no longer in use."


def resting_flow(words: str, sent_on_to: str, language: str = "en-US") -> FlowDocument:
    """A small flow for a number out of use: a short line, then the phone that callers are sent on to, if any."""
    line = Prompt(say=words.strip() or REST_WORDS)
    if not sent_on_to:
        rest = HangUp(id="rest", name="Out of use", prompt=line)
        return FlowDocument(name="Resting number", mark="RN", language=language, start="rest", steps=(rest,))
    phone = NumberDestination(id="d1", name="Sent on", number=sent_on_to, seconds=40)
    steps = (
        Announcement(id="rest", name="Out of use", prompt=line, next="on"),
        Ring(id="on", name="Sent on", to=(phone,), no_answer="sorry"),
        HangUp(id="sorry", name="Apology", prompt=Prompt(say=APOLOGY)),
    )
    return FlowDocument(name="Resting number", mark="RN", language=language, start="rest", steps=steps)


DIVERT = "diverted"
"""The step that rings the phone to which all calls of a client go for a while."""

DIVERT_SECONDS = 25


def diverted(flow: Flow, phone: str) -> Flow:
    """The flow with one phone (E.164) rung before it. A call that nobody takes there goes its usual way, so that none is
    lost."""
    document = with_divert(flow.document, phone)
    return Flow(document, flow.inner, {**flow.steps, DIVERT: document.steps[0]})


def with_divert(document: FlowDocument, phone: str) -> FlowDocument:
    """The document of a diverted call."""
    to = NumberDestination(id="d1", name="Diverted", number=phone, seconds=DIVERT_SECONDS)
    ring = Ring(id=DIVERT, name="All calls to one phone", to=(to,), no_answer=document.start)
    return document.model_copy(update={"start": DIVERT, "steps": (ring, *document.steps)})
