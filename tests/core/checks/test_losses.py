"""Lost callers are mended at one press where that helps all who come there and harms nobody."""

from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.proof.test_walk import RANDOM, claims
from tests.flows import DANA, document, menu, phone, ring, say, voicemail
from tests.random_flows import random_flows
from vokari.core.checks.mends import mend_words, mending
from vokari.core.checks.proof import findings
from vokari.core.flows.drafting.edits import Applied, apply
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.walks import reached_from
from vokari.core.flows.running.flow import Flow


def bye(step: str = "bye", **more: Any) -> dict[str, Any]:
    return {"kind": "hang_up", "id": step, "prompt": {"say": "Goodbye"}, **more}


def losses(of: FlowDocument) -> dict[str, tuple[str, ...]]:
    """Where callers are lost, and how it can be mended."""
    found = [one.finding for one in findings(of, claims(Flow(of, {})))]
    return {one.step: one.mends for one in found if one.kind == "loses_callers"}


def after(of: FlowDocument, step: str, mend: str) -> FlowDocument:
    row = of.step(step)
    assert row is not None
    done = apply(of, *mending(of, row, mend))
    assert isinstance(done, Applied), done
    return done.document


def test_callers_who_are_hung_up_on_are_led_to_the_rescue_and_the_hang_up_goes() -> None:
    silent = document(menu("m", {"1": "desk"}, nothing="bye", wrong="bye"), ring("desk", phone("Dana", DANA), no_answer="vm"), bye(), voicemail(), rescue="vm")  # fmt: skip
    assert losses(silent) == {"bye": ("rescue_instead",)}
    better = after(silent, "bye", "rescue_instead")
    assert (better.step("bye"), losses(better)) == (None, {})
    assert {better.by_id["m"].exit(one).target for one in ("nothing", "wrong")} == {"vm"}  # type: ignore[union-attr]
    assert mend_words("rescue_instead") == "Lead its callers to the rescue"


def test_a_hang_up_after_a_talk_stays_when_lost_callers_are_led_past_it() -> None:
    both = document(ring("desk", phone("Dana", DANA), no_answer="bye", after="bye"), bye(), voicemail(), rescue="vm")
    better = after(both, "bye", "rescue_instead")
    assert losses(better) == {}
    assert better.by_id["desk"].exit("after").target == "bye"  # type: ignore[union-attr]


def test_where_others_are_turned_away_or_the_rescue_itself_leads_on_there_is_no_such_mend() -> None:
    tried = ring("desk", phone("Dana", DANA), no_answer="bye")
    refused = document(
        menu("m", {"1": "desk"}, nothing="bye", wrong="bye"), tried, bye(refusal=True), voicemail(), rescue="vm"
    )
    assert losses(refused) == {"bye": ()}, "who pressed nothing is turned away, as it is meant"
    own = document(
        menu("m", {"1": "desk"}, nothing="desk", wrong="desk"), tried, say("bye", "Goodbye", "end"), rescue="desk"
    )
    assert losses(own) == {"bye": ()}, "the rescue would lead back to itself"


@RANDOM
@given(random_flows(), st.data())
def test_a_mend_of_lost_callers_loses_none_there_and_leaves_the_rescue_off_all_ways_round(
    flow: Flow, data: st.DataObject
) -> None:
    of = flow.document
    mends = [(step, mend) for step, some in losses(of).items() for mend in some]
    if not mends:
        return
    step, mend = data.draw(st.sampled_from(sorted(mends)))
    better = after(of, step, mend)
    assert step not in losses(better)
    was, now = (one.rescue in reached_from(one.by_id, one.by_id[str(one.rescue)].successors) for one in (of, better))
    assert was or not now
