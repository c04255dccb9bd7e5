"""What is known of whoever calls, for the conditions of a flow: looked up when a condition first asks, once an event.

The past are the calls that were over before this one began, so that it is the same whenever in a call it is asked for.
"""

import hashlib
import hmac
from datetime import UTC, datetime
from functools import cached_property

from sqlalchemy import RowMapping, text
from sqlalchemy.orm import Session

from ...core.callers.past import EarlierCall, Past
from ...core.flows.questions.facts import Touch
from ...core.flows.running.facts import Caller
from ...core.people.directory import Person
from ...core.places.whereabouts import Whereabouts
from ..house.house import House
from ..house.problems import Row
from ..people.ringers import people_of
from ..places.ready import whereabouts

_KNOWN = text("SELECT postal_code, past FROM callers WHERE client_id = :client AND caller = :caller")
_TAGS = text("SELECT key, source, medium, campaign, term, content FROM lead_sources WHERE id = :id")


def of_call(session: Session, house: House, live: Row | RowMapping) -> Caller:
    """What is known of the caller of a live call."""
    context = live["context"]
    facts = _Facts(session, house, live)
    return Caller(
        number=context["caller"], touch=lambda: facts.touch, past=lambda: facts.past,
        places=lambda: facts.whereabouts, earlier_code=lambda: facts.known["postal_code"],
        sign=context["caller"] or str(live["id"]), secret=secret_of(house, live["client_id"]),
    )  # fmt: skip


def secret_of(house: House, client_id: int) -> bytes:
    """The key by which a client's callers fall into shares; nobody can tell beforehand who falls where."""
    return hmac.new(house.secret, f"shares of client {client_id}".encode(), hashlib.sha256).digest()


class _Facts:
    def __init__(self, session: Session, house: House, live: Row | RowMapping) -> None:
        self.session, self.house, self.live = session, house, live
        self.values = {"client": live["client_id"], "caller": live["context"]["caller"]}

    @cached_property
    def known(self) -> Row:
        row = self.session.execute(_KNOWN, self.values).mappings().first() if self.values["caller"] else None
        return dict(row) if row else {"postal_code": "", "past": []}

    @cached_property
    def past(self) -> Past:
        at: datetime = self.live["started_at"]
        if not self.values["caller"]:
            return Past(at, known=False)
        earlier = [one for one in self.known["past"] if one[0] + one[1] <= at.timestamp()]
        people = (
            owners(people_of(self.session, self.house, self.live["client_id"]))
            if any(one[3] for one in earlier)
            else {}
        )
        calls = [EarlierCall(datetime.fromtimestamp(one[0], UTC), one[2], people.get(one[3], "")) for one in earlier]
        return Past(at, sorted(calls, key=lambda one: one.at, reverse=True))

    @cached_property
    def touch(self) -> Touch:
        context = self.live["context"]
        row = self.session.execute(_TAGS, {"id": context["source_id"]}).first() if context["source_id"] else None
        return touch_of(context["called"], row)

    @cached_property
    def whereabouts(self) -> Whereabouts:
        return whereabouts(self.session, self.house, self.live["client_id"])


def owners(people: dict[str, Person]) -> dict[str, str]:
    """Whose each phone is: the key of the person by number or SIP address."""
    return {phone.to: key for key, person in people.items() for phone in person.phones}


def touch_of(number: str, source: object) -> Touch:
    """The touch of a call to a number that has a lead source (a row with its key and tags; None for a number without one)."""
    tags = {"source": "source", "medium": "medium", "campaign": "campaign", "keyword": "term", "content": "content"}
    return Touch(
        number, str(getattr(source, "key", "")), {name: str(getattr(source, column, "") or "") for name, column in tags.items()}
    )  # fmt: skip
