"""What of a client bears on a flow, and what does not."""

from dataclasses import replace

from tests.flows import document, voicemail
from tests.worlds import CLIENT, EARLY, PEOPLE, ZONE
from vokari.core.flows.running.flow import Flow
from vokari.core.hours.timetable import Timetable
from vokari.core.proof.bearing import bears_on

RINGS = {"kind": "ring", "id": "r", "to": [{"kind": "person", "id": "d", "person": "ada"}], "no_answer": "vm"}
FLOW = Flow(document(RINGS, voicemail(), rescue="vm"))


def test_a_proof_stands_as_long_as_those_whom_a_flow_rings_are_the_same() -> None:
    before = bears_on(FLOW, CLIENT)
    other = PEOPLE["bo"].model_copy(update={"hours": None})
    assert bears_on(FLOW, replace(CLIENT, people={**PEOPLE, "bo": other})) == before
    changed = [
        replace(CLIENT, people={**PEOPLE, "ada": PEOPLE["ada"].model_copy(update={"hours": None})}),
        replace(CLIENT, people={**PEOPLE, "bo": PEOPLE["bo"].model_copy(update={"extension": "12"})}),
        replace(CLIENT, hours={**CLIENT.hours, "early": Timetable(EARLY.model_copy(update={"week": ()}), ZONE)}),
        replace(CLIENT, numbers=CLIENT.numbers[:1]),
    ]
    assert all(bears_on(FLOW, one) != before for one in changed)
