"""Example calls of a proof at the telephone."""

from datetime import datetime

from ...core.flows.questions.facts import Withheld
from ...core.proof import stored
from ..agency.access import Actor
from ..flows import rehearsals
from ..flows.open_rehearsals import OpenRehearsal
from ..flows.rehearsals import Begins
from ..house.house import House
from .proving import example

CALLERS = {"GB": "+447700900123"}
CALLER = "+14105550185"
"""Who calls in an example where it makes no difference: a number set aside for fiction, by the client's country."""


def play(house: House, actor: Actor, client_id: int, flow_id: int, number: int) -> OpenRehearsal:
    """A rehearsal that has gone as the example of a way of ending, by its place in the proof. Raises NotFound for another number."""
    country, raw = example(house, actor, client_id, flow_id, number)
    happenings = stored.load_happenings(raw)
    withheld = any(
        answer is True for one in happenings for question, answer in one.answers if isinstance(question, Withheld)
    )
    caller = "" if withheld else CALLERS.get(country, CALLER)
    begins = Begins(raw["called"], caller, datetime.fromisoformat(raw["at"]))
    return rehearsals.play(house, actor, client_id, flow_id, begins, happenings)
