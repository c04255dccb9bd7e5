"""What of a client bears on a flow: as long as it stays the same, a proof of the flow stands."""

from typing import Any

from ..flows.running.flow import Flow
from ..hours.timetable import Timetable
from .interest import interests
from .world import Client, asked_of, by_extension, rung


def bears_on(flow: Flow, client: Client) -> dict[str, Any]:
    """The hours that a flow asks or that those have whom it can ring, these with their teams, whether anybody has
    an extension (and who, where it rings whoever was dialed), and its numbers, as JSON-ready values."""
    extensions = sorted(key for key, one in client.people.items() if one.extension)
    asked = asked_of(flow, client, interests(flow))
    people, teams = rung(flow, client)
    return {
        "zone": client.zone.key,
        "hours": {key: _told(table) for key, table in sorted({**asked.duty, **asked.hours}.items())},
        "people": {key: one.model_dump(mode="json") for key, one in sorted(people.items())},
        "teams": {key: one.model_dump(mode="json") for key, one in sorted(teams.items())},
        "extensions": extensions if any(map(by_extension, flow.steps.values())) else bool(extensions),
        "numbers": [repr(one) for one in client.numbers],
    }


def _told(table: Timetable) -> list[Any]:
    exceptions = [one.model_dump(mode="json") for one in table.exceptions]
    return [table.zone.key, table.hours.model_dump(mode="json"), exceptions, [repr(one) for one in table.switches]]
