"""Nothing outside is asked inside a transaction, and nothing is kept that is not committed."""

from datetime import timedelta

import pytest
from sqlalchemy import select

from tests.hours import hours
from tests.world import World
from vokari.store.hours import HoursSet
from vokari.work.hours import sets as hours_work
from vokari.work.hours.ready import Standings
from vokari.work.house.outside import InsideTransaction
from vokari.work.house.ports import PORTS, CarrierRefuses
from vokari.work.house.views import HoursSetView

ASKS = {
    "carrier": lambda port: port.poke("x"), "speech": lambda port: port.speak("x", "en-US"), "post": lambda port: port.text(to="+1", words="x", key="k"),
    "files": lambda port: port.get("x"), "web": lambda port: port.get("http://example.com", {}, 1),
    "decoder": lambda port: port.decode(b""), "transcriber": lambda port: port.words(b"", "en-US"),
}  # fmt: skip


@pytest.mark.parametrize("name", PORTS)
def test_every_port_raises_inside_a_transaction_of_its_thread(world: World, name: str) -> None:
    port = getattr(world.house, name)
    with world.house.begin(), pytest.raises(InsideTransaction):
        ASKS[name](port)


def test_outside_of_a_transaction_a_port_is_asked(world: World) -> None:
    with pytest.raises(CarrierRefuses, match="no such call"):
        world.house.carrier.poke("x")


def test_hours_that_were_rolled_back_are_held_by_no_cache(world: World) -> None:
    """Read within the transaction that changes them, then rolled back; another change takes the same revision."""
    client, noon = world.client.id, world.house.now()
    made = hours_work.create(world.house, world.actor, client, "Opening times", "client")
    assert isinstance(made, HoursSetView)

    def change(text: str, *, commit: bool) -> None:
        with world.house.begin() as session:
            row = session.scalars(select(HoursSet).where(HoursSet.client_id == client)).one()
            row.document = hours(desk=text).model_dump(mode="json")
            row.revision += 1
            session.flush()
            table = Standings(session, world.house, client, noon).table(row.key)
            assert table is not None
            assert table.at(noon).is_open == (text == "Daily 0-24")
            if not commit:
                raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        change("Daily 0-24", commit=False)
    change("Sun 3-4", commit=True)
    with world.house.begin() as session:
        row = session.scalars(select(HoursSet).where(HoursSet.client_id == client)).one()
        table = Standings(session, world.house, client, noon).table(row.key)
    assert table is not None
    assert not table.at(noon).is_open
    assert not table.at(noon + timedelta(hours=1)).is_open
    assert len(world.house.timetables.known) == 1, "what is committed is kept"
