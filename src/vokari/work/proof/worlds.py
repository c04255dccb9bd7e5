"""What a client has now, as far as it makes a difference to calls in the time to come."""

from datetime import datetime
from zoneinfo import ZoneInfo

from sqlalchemy import text
from sqlalchemy.orm import Session

from ...core.flows.conditions.base import Names
from ...core.places.whereabouts import Whereabouts
from ...core.proof.world import Client as Known
from ...core.rehearsals.calls import Setting
from ...store.agency import Client
from ..calls.known_callers import secret_of, touch_of
from ..hours.ready import Standings
from ..house.house import House
from ..people.ringers import people_of, teams_of

_TOUCHES = text(
    "SELECT n.e164, s.* FROM tracking_numbers n LEFT JOIN assignments a ON a.number_id = n.id AND a.during @> CAST(:at AS timestamptz)"
    " LEFT JOIN lead_sources s ON s.id = a.source_id WHERE n.flow_id = :flow AND n.state = 'in_service' ORDER BY n.e164"
)


def known(session: Session, house: House, client: Client, flow_id: int | None, at: datetime) -> Known:
    """A client's hours, people and teams at a moment, and what the numbers of a flow tell."""
    rows = session.execute(_TOUCHES, {"flow": flow_id, "at": at}).all() if flow_id else []
    return Known(
        ZoneInfo(client.time_zone), Standings(session, house, client.id, at).tables(), people_of(session, house, client.id),
        teams_of(session, house, client.id), tuple(touch_of(row.e164, row if row.key else None) for row in rows),
    )  # fmt: skip


def setting(session: Session, house: House, client: Client, flow_id: int, names: Names, where: Whereabouts) -> Setting:
    """What the rehearsals that are kept with a flow run in: its client as it is now."""
    now = house.now()
    return Setting(known(session, house, client, flow_id, now), now, names, where, secret_of(house, client.id))
