"""A flow and the flows that it continues in as one document, for the outline and the map of a call that went through them."""

from collections.abc import Mapping

from ..model.document import FlowDocument
from ..model.steps import AnyStep, ComingBack, ContinueIn
from ..running.flow import Flow

INSIDE = "within"
"""The exit by which a Continue in leads into the inner flow, in the log and on the map."""


def whole(document: FlowDocument, inner: Mapping[str, FlowDocument]) -> FlowDocument:
    """The document with the steps of inner flows behind its own, led to by an exit of each Continue in; unchecked, and only to be shown."""
    if not inner:
        return document
    flow = Flow(document, inner)
    return document.with_steps(tuple(_opened(flow, step) for step in flow.steps.values()))


def _opened(flow: Flow, step: AnyStep) -> AnyStep:
    if not isinstance(step, ContinueIn) or flow.start(step.flow) is None:
        return step
    way = ComingBack(id=INSIDE, name="inside").model_copy(update={"to": flow.start(step.flow)})
    return step.model_copy(update={"returns": (way, *step.returns)})
