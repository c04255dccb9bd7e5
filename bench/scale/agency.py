"""A large agency beside the demo world: clients, people, numbers, sources and flows, with the logs of who edited them."""

import itertools
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

import psycopg

from vokari.work.agency.accounts import hash_password

from ..town import Town

CLIENTS, NUMBERS, LARGEST, FLOWS, EDITS = 1000, 20_000, 500, 12, 3000
"""How many clients and numbers in all; numbers and flows of the largest client, and edits of its first flow."""
EMAIL, PASSWORD = "scale@example.com", "bench-large-agency"
ZONES = ("America/New_York", "America/Chicago", "America/Denver", "America/Los_Angeles", "Europe/London")
PLACES = (
    "Alder",
    "Basin",
    "Cove",
    "Dunmore",
    "Ember",
    "Fallow",
    "Granary",
    "Harbor",
    "Islet",
    "Juniper",
    "Kiln",
    "Lantern",
)
TRADES = (
    "Plumbing",
    "Dental",
    "Roofing",
    "Veterinary",
    "Glazing",
    "Storage",
    "Tutoring",
    "Gardens",
    "Heating",
    "Optics",
)
MEDIA = ("print", "cpc", "organic", "email", "outdoor", "radio")


@dataclass(frozen=True, slots=True)
class Held:
    """A number with what its calls are written down under, and how many of all calls come on it."""

    number_id: int
    client_id: int
    source_id: int | None
    flow_id: int | None
    version_id: int | None
    weight: float


@dataclass(frozen=True, slots=True)
class LargeAgency:
    """The agency: its largest and a small client, and every number."""

    id: int
    largest: int
    small: int
    held: tuple[Held, ...]


def make(town: Town, connection: psycopg.Connection[Any]) -> LargeAgency:
    """Makes it, all clients on the flow, hours, people and mailboxes of the demo client with the most steps in a flow."""
    pattern = _one(
        connection,
        "SELECT client_id FROM flows WHERE live_version_id IS NOT NULL ORDER BY length(draft::text) DESC LIMIT 1",
    )
    agency = _one(connection, "INSERT INTO agencies (name) VALUES ('Large agency') RETURNING id")
    user = _one(
        connection,
        "INSERT INTO users (agency_id, email, name, role, password_hash) VALUES (%s, %s, 'Scale', 'owner', %s) RETURNING id",
        agency, EMAIL, hash_password(PASSWORD),
    )  # fmt: skip
    since = town.house.now() - timedelta(days=1125)
    names = [f"{place} {trade} {n}" for n in range(1, 10) for place in PLACES for trade in TRADES][:CLIENTS]
    clients = [
        _one(
            connection,
            "INSERT INTO clients (agency_id, name, country, time_zone, city, fail_safe, created_at, naming_pattern, same_area,"
            " likeness, rest_days, rest_words, rest_to, extension_pattern) SELECT %s, %s, %s, %s, %s, %s, %s, naming_pattern,"
            " same_area, likeness, rest_days, rest_words, rest_to, '{}' FROM clients WHERE id = %s RETURNING id",
            agency, name, "GB" if zone.startswith("Europe") else "US", zone, name.split()[0],
            "" if n % 40 == 7 else "+12125550160", since, pattern,
        )
        for n, (name, zone) in enumerate(zip(names, itertools.cycle(ZONES), strict=False))
    ]  # fmt: skip
    for table in ("hours_sets", "people", "teams", "mailboxes"):
        _copied(connection, table, pattern, agency, "client_id", "SELECT unnest(%s::bigint[])", clients)
    owners = [clients[0]] * (FLOWS - 1) + clients
    connection.execute(
        "INSERT INTO flows (agency_id, client_id, key, draft, revision, stated) SELECT %s, o.id, 'fl_' || o.n, f.draft || jsonb_build_object('name',"
        " CASE WHEN o.n < %s THEN 'Line ' || o.n ELSE 'Main line' END), 0, '{}' FROM unnest(%s::bigint[]) WITH ORDINALITY o(id, n),"
        " (SELECT draft FROM flows WHERE client_id = %s AND live_version_id IS NOT NULL ORDER BY length(draft::text) DESC LIMIT 1) f",
        (agency, FLOWS, owners, pattern),
    )
    connection.execute(
        "INSERT INTO flow_versions (agency_id, flow_id, number, document, revision, made_by, made_at)"
        " SELECT agency_id, id, n, draft, 0, %s, %s::timestamptz + n * interval '30 days' FROM flows, generate_series(1, 3) n"
        " WHERE agency_id = %s",
        (user, since, agency),
    )
    connection.execute(
        "UPDATE flows f SET live_version_id = v.id FROM flow_versions v WHERE v.flow_id = f.id AND v.number = 3 AND f.agency_id = %s",
        (agency,),
    )
    connection.execute(
        "INSERT INTO put_lives (agency_id, flow_id, version_id, user_id, at) SELECT agency_id, flow_id, id, made_by, made_at"
        " FROM flow_versions WHERE agency_id = %s", (agency,),
    )  # fmt: skip
    _numbers(connection, agency, clients, since)
    _logs(connection, agency, user, clients[0])
    return LargeAgency(agency, clients[0], clients[-1], tuple(_held(connection, agency, clients[0])))


def _one(connection: psycopg.Connection[Any], query: str, *values: object) -> int:
    row = connection.execute(query.encode(), values).fetchone()
    assert row
    return int(row[0])


def _copied(
    connection: psycopg.Connection[Any], table: str, pattern: int, agency: int, by: str, into: str, values: list[int]
) -> None:
    """The rows of one client for many others."""
    query = (
        "SELECT column_name FROM information_schema.columns WHERE table_name = %s AND is_generated = 'NEVER'"
        " AND column_name NOT IN ('id', 'agency_id', 'client_id') ORDER BY ordinal_position"
    )
    columns = ", ".join(f't."{name}"' for (name,) in connection.execute(query, (table,)))
    connection.execute(
        f"INSERT INTO {table} (agency_id, {by}, {columns.replace('t.', '')}) SELECT %s, c.id, {columns}"
        f" FROM {table} t, ({into}) c(id) WHERE t.client_id = %s",
        (agency, values, pattern),
    )


def _numbers(connection: psycopg.Connection[Any], agency: int, clients: list[int], since: object) -> None:
    """Numbers with a source each, one in 200 without, one in 400 without a flow, one in 50 at rest; and an earlier holder."""
    owners = [clients[0]] * LARGEST + [clients[1 + n % (len(clients) - 1)] for n in range(NUMBERS - LARGEST)]
    used = {row[0] for row in connection.execute("SELECT e164 FROM tracking_numbers")}
    fresh = (e164 for n in range(10**6) if (e164 := f"+1{210 + n // 100}55501{n % 100:02d}") not in used)
    columns = "agency_id, client_id, key, name, source, medium, campaign, term, content, placement, online, extension"
    with connection.cursor().copy(f"COPY lead_sources ({columns}) FROM STDIN") as copy:
        for n, owner in enumerate(owners):
            copy.write_row((
                agency, owner, f"k{n}", f"{PLACES[n % 12]} advert {n}", "paper", MEDIA[n % 6], f"campaign {n % 40}", "", "", "p",
                n % 2 == 0, "",
            ))  # fmt: skip
        for n, owner in enumerate(clients[::9]):
            copy.write_row((agency, owner, f"w{n}", f"Without {n}", "paper", "print", "", "", "", "", False, ""))
    columns = (
        "agency_id, client_id, carrier_id, e164, place, kind, state, fail_safe, fail_safe_told, fail_safe_said, taken_at, name,"
        " whisper, rent, set_up, rest_since, rest_until, ended_how, asked_for"
    )
    carrier = _one(connection, "SELECT id FROM carriers LIMIT 1")
    with connection.cursor().copy(f"COPY tracking_numbers ({columns}) FROM STDIN") as copy:
        for n, (owner, e164) in enumerate(zip(owners, fresh, strict=False)):
            rests = n % 50 == 49
            copy.write_row((
                agency, owner, carrier, e164, f"{PLACES[n % 12]}, MD", "local", "resting" if rests else "in_service", "",
                "+12125550160", "", since, f"{PLACES[n % 12]} advert {n}", "", 3, 0, since if rests else None,
                "2099-01-01T00:00Z" if rests else None, "", "{}",
            ))  # fmt: skip
    connection.execute(
        "UPDATE tracking_numbers n SET flow_id = g.ids[1 + n.id %% cardinality(g.ids)] FROM (SELECT client_id, array_agg(id ORDER BY id)"
        " AS ids FROM flows WHERE agency_id = %s GROUP BY client_id) g WHERE g.client_id = n.client_id AND n.id %% 400 <> 0",
        (agency,),
    )
    given = (
        "INSERT INTO assignments (agency_id, client_id, number_id, source_id, during) SELECT n.agency_id, n.client_id, n.id, s.id,"
        " tstzrange(%s::timestamptz + interval {} FROM tracking_numbers n JOIN lead_sources s ON s.client_id = n.client_id AND"
        " s.name = n.name WHERE n.agency_id = %s"
    )
    connection.execute(
        given.format("'90 days', CASE WHEN n.state = 'resting' THEN now() END)").encode() + b" AND n.id %% 200 <> 0",
        (since, agency),
    )
    connection.execute(
        given.format("'0 days', %s::timestamptz + interval '80 days')").encode() + b" AND n.id %% 4 = 0",
        (since, since, agency),
    )


def _logs(connection: psycopg.Connection[Any], agency: int, user: int, client: int) -> None:
    """The edits of the largest client's flows by one person, and an audit trail."""
    connection.execute(
        "INSERT INTO draft_edits (flow_id, seq, agency_id, user_id, at, kind, words, rows, changes)"
        " SELECT f.id, n, %s, %s, now() - interval '1 hour' * (%s - n), 'edit', 'changed the words', ARRAY['flow'],"
        " jsonb_build_array(jsonb_build_object('row', 'flow', 'before', jsonb_build_object('name', f.name), 'after',"
        " jsonb_build_object('name', f.name))) FROM flows f, generate_series(1, %s) n WHERE f.client_id = %s",
        (agency, user, EDITS, EDITS, client),
    )
    connection.execute("UPDATE flows SET revision = %s WHERE client_id = %s", (EDITS, client))
    connection.execute(
        "INSERT INTO audit_entries (agency_id, client_id, user_id, at, words, detail) SELECT %s, c.id, %s, now() - interval"
        " '1 hour' * n, 'changed the words', '{}' FROM clients c, generate_series(1, 50) n WHERE c.agency_id = %s",
        (agency, user, agency),
    )


def _held(connection: psycopg.Connection[Any], agency: int, largest: int) -> list[Held]:
    """Every number in use with its source and flow; the largest client has about a twenty-third of all calls."""
    rows = connection.execute(
        "SELECT n.id, n.client_id, a.source_id, n.flow_id, f.live_version_id FROM tracking_numbers n LEFT JOIN assignments a ON"
        " a.number_id = n.id AND upper_inf(a.during) LEFT JOIN flows f ON f.id = n.flow_id"
        " WHERE n.agency_id = %s AND n.state = 'in_service' ORDER BY n.id",
        (agency,),
    ).fetchall()
    return [
        Held(
            number,
            client,
            source,
            flow,
            version,
            (1.7 if client == largest else 1.0) * (0.2 + 1.6 * (n * 7919 % 1000) / 1000),
        )
        for n, (number, client, source, flow, version) in enumerate(rows)
    ]
