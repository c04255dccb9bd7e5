"""Clients: taking one on, its settings, its mailboxes, and the agency's test phones."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError

from ...core.agency import defaults, zones
from ...core.agency.zones import zone_of
from ...core.numbers import choosing, naming, numbering
from ...store.agency import Client, TestPhone
from ..house import jobs, meanwhile
from ..house.house import House
from ..house.problems import Problem, Problems, Row
from ..house.views import ClientView, TestPhoneView
from .access import Actor, NotFound, allow, allow_agency, note

COUNTRIES = {"US": "United States", "GB": "United Kingdom"}
CLIENT_FIELDS = {
    "name": "the name", "country": "the country", "time_zone": "the time zone", "city": "the place",
    "fail_safe": "the fail-safe",
}  # fmt: skip
RULE_FIELDS = {
    "naming_pattern": "how numbers are named", "same_area": "whether they share an area code",
    "likeness": "how several are chosen", "rest_days": "how long they rest", "rest_words": "what callers hear then",
    "rest_to": "where they are sent then",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class ClientForm:
    """What is typed of a client; an empty time zone follows from the country and city."""

    name: str
    country: str
    time_zone: str
    city: str = ""
    fail_safe: str = ""


def zones_for(house: House, country: str, city: str) -> tuple[zones.Zone, ...]:
    """The time zones that a client may be in."""
    return zones.fitting(country if country in COUNTRIES else "", city, house.now().year)


@dataclass(frozen=True, slots=True)
class ClientName:
    """A client as the column of every page names it."""

    id: int
    name: str


def names(house: House, actor: Actor) -> list[ClientName]:
    """The names of the clients the actor may see, in order; lighter than the clients, since every page asks."""
    with house.begin() as session:
        query = select(Client.id, Client.name).where(Client.agency_id == actor.agency_id)
        if not actor.works:
            query = query.where(Client.id == actor.client_id)
        return [ClientName(*row) for row in session.execute(query.order_by(func.lower(Client.name)))]


def get(house: House, actor: Actor, client_id: int) -> ClientView:
    """One client, for whoever may read its results."""
    with house.begin() as session:
        return ClientView.of(allow(session, actor, client_id, "read_results"))


def take_on(house: House, actor: Actor, form: ClientForm, agreed: str = "") -> ClientView | Problems:
    """A new client; `agreed` is a time zone that was asked about because the place has another."""
    allow_agency(actor)
    checked = _check(house, form, agreed)
    if isinstance(checked, list):
        return checked
    try:
        with house.begin() as session:
            client = Client(agency_id=actor.agency_id, created_at=house.now(), **checked)
            session.add(client)
            session.flush()
            note(session, house, actor, client.id, f"took on {client.name}")
            return ClientView.of(client)
    except IntegrityError:
        return [Problem("name", "Another client has this name already.")]


def form_of(client: Client | ClientView) -> ClientForm:
    """A client's own settings as they stand."""
    return ClientForm(client.name, client.country, client.time_zone, client.city, client.fail_safe)


def change(
    house: House, actor: Actor, client_id: int, form: ClientForm, was: Row | None = None, agreed: str = ""
) -> ClientView | Problems:
    """Changes a client's own settings; `was` are the fields that the form was made of, `agreed` as in `take_on`."""
    try:
        with house.begin() as session:
            client = allow(session, actor, client_id, "work", changing=True)
            checked = _check(house, form, agreed)
            if isinstance(checked, list):
                return checked
            fields = meanwhile.laid(checked, was, asdict(form_of(client)), CLIENT_FIELDS)
            if isinstance(fields, list):
                return fields
            moved = client.fail_safe != fields["fail_safe"]
            for field, value in fields.items():
                setattr(client, field, value)
            session.flush()
            note(session, house, actor, client_id, "changed the client’s settings")
            if moved:
                jobs.defer(session, "tell_fail_safes", client_id=client_id)
            return ClientView.of(client)
    except IntegrityError:
        return [Problem("name", "Another client has this name already.")]


def _check(house: House, form: ClientForm, agreed: str) -> dict[str, str] | Problems:
    problems = []
    name = " ".join(form.name.split())
    if not 1 <= len(name) <= 80:
        problems.append(Problem("name", "A client has a name of 1 to 80 letters."))
    if form.country not in COUNTRIES:
        problems.append(Problem("country", "Choose one of the countries."))
    zone = _zone(form, zones_for(house, form.country, form.city), house.now().year, agreed)
    if isinstance(zone, Problem):
        problems.append(zone)
    fail_safe = ""
    if form.fail_safe.strip():
        read = numbering.parse(form.fail_safe, form.country if form.country in COUNTRIES else "US")
        if isinstance(read, numbering.Wrong):
            problems.append(Problem("fail_safe", read.sentence))
        else:
            fail_safe = read
    if problems or isinstance(zone, Problem):
        return problems
    return {
        "name": name, "country": form.country, "time_zone": zone, "city": form.city.strip()[:60],
        "fail_safe": fail_safe,
    }  # fmt: skip


def _zone(form: ClientForm, fitting: Sequence[zones.Zone], year: int, agreed: str) -> str | Problem:
    """The time zone that was typed or that follows from the place, if there is no doubt about it."""
    place = form.city.strip()[:60] or COUNTRIES.get(form.country, "this country")
    if not form.time_zone:
        if len(fitting) == 1:
            return fitting[0].key
        sentence = f"{place} may be in several time zones: choose one, or write the state too."
        return Problem("time_zone", sentence if fitting else "Choose a time zone.")
    if zone_of(form.time_zone) is None:
        return Problem("time_zone", "There is no such time zone. One looks like America/New_York.")
    if fitting and form.time_zone != agreed and not zones.fits(form.time_zone, fitting, year):
        where = " or ".join(zone.key for zone in fitting[:3])
        return Problem("time_zone", f"{place} is in {where}. Save again if {form.time_zone} is right.")
    return form.time_zone


@dataclass(frozen=True, slots=True)
class NumberRules:
    """A client's rules for its numbers: how they are named and chosen, how long they rest and what callers hear then."""

    naming_pattern: str = ""
    same_area: bool = defaults.SAME_AREA
    likeness: str = defaults.LIKENESS
    rest_days: int | None = defaults.REST_DAYS
    rest_words: str = ""
    rest_to: str = ""


LONGEST_REST = 730


def rules_of(client: Client | ClientView) -> NumberRules:
    """A client's rules for its numbers as they stand."""
    return NumberRules(**{field: getattr(client, field) for field in RULE_FIELDS})


def set_number_rules(
    house: House, actor: Actor, client_id: int, rules: NumberRules, was: Row | None = None
) -> Problems:
    """Changes a client's rules for its numbers; `was` are the fields that the form was made of."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        problems = []
        pattern, words = rules.naming_pattern.strip(), " ".join(rules.rest_words.split())
        if naming.problem_of(pattern):
            problems.append(Problem("naming_pattern", naming.problem_of(pattern)))
        if rules.likeness not in choosing.LIKENESSES:
            problems.append(Problem("likeness", "Choose one of the rules."))
        if rules.rest_days is None or not 0 <= rules.rest_days <= LONGEST_REST:
            problems.append(Problem("rest_days", f"A rest lasts 0 to {LONGEST_REST} days."))
        if len(words) > 500:
            problems.append(Problem("rest_words", "At most 500 letters."))
        sent_on = numbering.parse(rules.rest_to, client.country) if rules.rest_to.strip() else ""
        if isinstance(sent_on, numbering.Wrong):
            problems.append(Problem("rest_to", sent_on.sentence))
        if problems:
            return problems
        typed = NumberRules(pattern, rules.same_area, rules.likeness, rules.rest_days, words, str(sent_on))
        fields = meanwhile.laid(asdict(typed), was, asdict(rules_of(client)), RULE_FIELDS, field="rules_was")
        if isinstance(fields, list):
            return fields
        for field, value in fields.items():
            setattr(client, field, value)
        note(session, house, actor, client_id, "changed the rules for numbers")
    return []


# test phones


def test_phones(house: House, actor: Actor) -> list[TestPhoneView]:
    """The agency's phones whose calls count nowhere."""
    with house.begin() as session:
        allow_agency(actor)
        return TestPhoneView.all(
            session.scalars(select(TestPhone).where(TestPhone.agency_id == actor.agency_id).order_by(TestPhone.name))
        )


def add_test_phone(house: House, actor: Actor, typed: str, name: str, country: str) -> TestPhoneView | Problems:
    """Marks a phone as a test phone."""
    allow_agency(actor)
    read = numbering.parse(typed, country)
    if isinstance(read, numbering.Wrong):
        return [Problem("number", read.sentence)]
    try:
        with house.begin() as session:
            allow_agency(actor)
            phone = TestPhone(agency_id=actor.agency_id, e164=read, name=" ".join(name.split())[:60] or "Test phone")
            session.add(phone)
            session.flush()
            note(session, house, actor, None, f"marked {read} as a test phone")
            return TestPhoneView.of(phone)
    except IntegrityError:
        return [Problem("number", "This phone is marked already.")]


def remove_test_phone(house: House, actor: Actor, phone_id: int) -> None:
    """Calls from this phone count again."""
    with house.begin() as session:
        allow_agency(actor)
        phone = session.get(TestPhone, phone_id)
        if phone is None or phone.agency_id != actor.agency_id:
            raise NotFound
        session.delete(phone)
        note(session, house, actor, None, f"{phone.e164} is no test phone any more")


def local_now(client: Client, now: datetime) -> datetime:
    """The present in the client's own time."""
    return now.astimezone(ZoneInfo(client.time_zone))
