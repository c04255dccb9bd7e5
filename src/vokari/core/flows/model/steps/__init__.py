"""The kinds of step, by what they do: says, asks, sorts, reaches, keeps, moves, ends.

All kinds of the trade are here, so that later work adds behavior and never reshapes what is stored; each says of itself whether
it runs today. The union is the registry: KINDS follows from it. Seconds are whole seconds unless a field says otherwise.
"""

from typing import Annotated, get_args

from pydantic import Field

from .announcement import Announcement
from .back_to import BackTo
from .come_back import ComeBack
from .continue_in import ComingBack, ContinueIn
from .hang_up import HangUp
from .hold_line import HoldLine
from .junction import Junction, Sorting
from .keypad_entry import KeypadEntry
from .label import Label
from .look_up import LookUp
from .menu import Branch, Menu
from .notify import Notify
from .ring import LastSpoke, Ring
from .voicemail import Voicemail

AnyStep = (
    Announcement | Menu | KeypadEntry | Junction | Ring | HoldLine | Voicemail | Label | Notify | LookUp | ContinueIn
    | BackTo | HangUp | ComeBack
)  # fmt: skip
Step = Annotated[AnyStep, Field(discriminator="kind")]

KINDS: dict[str, type[AnyStep]] = {kind.model_fields["kind"].default: kind for kind in get_args(AnyStep)}
"""Every kind by the name it is stored with, in the order in which kinds are offered."""

__all__ = [
    "KINDS", "Announcement", "AnyStep", "BackTo", "Branch", "ComeBack", "ComingBack", "ContinueIn", "HangUp", "HoldLine",
    "Junction", "KeypadEntry", "Label", "LastSpoke", "LookUp", "Menu", "Notify", "Ring", "Sorting", "Step", "Voicemail",
]  # fmt: skip
