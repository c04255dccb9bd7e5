"""Come back: ends a flow inside a flow."""

from typing import Literal

from ..step import StepBase
from ..values import Name


class ComeBack(StepBase):
    """Ends a flow inside a flow, by a way that has a name outside."""

    title = "Come back"
    when = "Leaves a flow that is a part of another."
    runs = False

    kind: Literal["come_back"] = "come_back"
    way: Name = ""
