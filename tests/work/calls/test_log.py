"""The log of calls, narrowed by flow and label."""

from datetime import timedelta

from tests import history as past
from tests.conftest import NOON
from tests.flows import document, voicemail
from tests.world import World
from vokari.work.calls import exports, history
from vokari.work.calls.exports import Straight
from vokari.work.calls.history import CallFilter


def test_calls_are_found_by_flow_and_by_label_and_show_the_flows_mark(world: World) -> None:
    label = {"kind": "label", "id": "l", "name": "Lift", "labels": ["boat lift", "spring"], "next": "vm"}
    flow = world.flow(document(label, voicemail(), rescue="vm"))
    number = world.number("+14105550142", world.source("Search advert"), flow)
    calls = [
        past.row(world, NOON - timedelta(hours=n), number.id, flow_id=flow.id if n else None, labels=["spring"] if n == 2 else [])
        for n in range(3)
    ]  # fmt: skip
    past.write(world, calls)
    args = (world.house, world.actor, world.client.id)

    def found(**wanted: object) -> list[str]:
        return [line.mark for line in history.log(*args, CallFilter(**wanted))]  # type: ignore[arg-type]

    assert found() == ["", flow.mark, flow.mark]
    assert found(flow_id=flow.id) == [flow.mark, flow.mark]
    assert found(label="spring") == [flow.mark]
    assert found(label="boat lift") == found(label="spr%") == []
    choices = history.choices(*args)
    assert (choices["labels"], [one.mark for one in choices["flows"]]) == (["boat lift", "spring"], [flow.mark])
    asked = exports.ask(*args, CallFilter(label="spring"))
    assert isinstance(asked, Straight)
    assert b"".join(asked.parts).count(b"\r\n") == 2
