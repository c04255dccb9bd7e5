"""Example calls of a proof at the telephone."""

from datetime import datetime

from ...core.flows.questions.facts import Withheld
from ...core.proof import stored
from ..agency.access import Actor
from ..flows import rehearsals
from ..flows.open_rehearsals import OpenRehearsal
from ..flows.rehearsals import Begins
from ..house.house import House
from ..house.problems import Row
from . import nightly, proving

CALLERS = {"GB": "+447700900123"}
CALLER = "+14105550185"
"""Who calls in an example where it makes no difference: a number set aside for fiction, by the client's country."""


def play(house: House, actor: Actor, client_id: int, flow_id: int, number: int) -> OpenRehearsal:
    """A rehearsal that has gone as the example of a way of ending of the draft, by its place in the proof. Raises NotFound for another
    number."""
    country, raw = proving.example(house, actor, client_id, flow_id, number)
    return _play(house, actor, client_id, flow_id, country, raw)


def play_live(house: House, actor: Actor, client_id: int, flow_id: int, finding_id: int) -> OpenRehearsal:
    """The same of a finding of what is live."""
    country, version_id, raw = nightly.example(house, actor, client_id, flow_id, finding_id)
    return _play(house, actor, client_id, flow_id, country, raw, version_id)


def _play(
    house: House, actor: Actor, client_id: int, flow_id: int, country: str, raw: Row, version_id: int | None = None
) -> OpenRehearsal:
    happenings = stored.load_happenings(raw)
    answers = [pair for one in happenings for pair in one.answers]
    withheld = any(answer is True for question, answer in answers if isinstance(question, Withheld))
    caller = "" if withheld else CALLERS.get(country, CALLER)
    begins = Begins(raw["called"], caller, datetime.fromisoformat(raw["at"]))
    return rehearsals.play(house, actor, client_id, flow_id, begins, happenings, version_id)
