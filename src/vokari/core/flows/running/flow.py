"""A flow made ready to run."""

from collections.abc import Mapping
from functools import cached_property

from ..model.document import FlowDocument
from ..model.steps import AnyStep
from .reads import Reads


class Flow:
    """A document and its steps by id."""

    def __init__(self, document: FlowDocument, steps: Mapping[str, AnyStep] | None = None) -> None:
        self.document = document
        self.steps = document.by_id if steps is None else steps

    @cached_property
    def reads(self) -> Reads:
        """What its steps tell apart, worked out when it is first asked for."""
        return Reads(self.document)
