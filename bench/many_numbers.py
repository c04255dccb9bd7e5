"""(d) Numbers at the size of a large agency: 20,000 in 1,000 clients, 500 in the largest; and taking 200 in one go."""

import html
import statistics
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import timedelta

import psycopg
from fastapi import Request
from fastapi.responses import HTMLResponse
from sqlalchemy import text
from starlette.testclient import TestClient

from vokari.memory import settle
from vokari.standins.carrier.inventory import asks_for, catalogue
from vokari.web.app import create
from vokari.web.doors import Signed, house_of
from vokari.work.agency import search
from vokari.work.agency.access import Actor
from vokari.work.agency.accounts import hash_password
from vokari.work.calls import rollups
from vokari.work.house.views import NumberOrderView
from vokari.work.numbers import orders, plan
from vokari.work.numbers.orders import Row
from vokari.work.numbers.sources import SourceForm

from .pages import Timed
from .rounds import ROUNDS, Compared, compare
from .town import Town

CLIENTS, NUMBERS, LARGEST, TAKEN = 1000, 20_000, 500, 200
EMAIL, PASSWORD = "bench@example.com", "bench-many-numbers"
TIMES = 5


@dataclass(frozen=True, slots=True)
class Against:
    """A page against the same reads with a plain table: both in milliseconds, and the median of the ratios."""

    ours: float
    plain: float
    ratio: float


@dataclass(frozen=True, slots=True)
class Measured:
    """The plan of the largest client, finding over all numbers, and taking many: numbers a second against the carrier's."""

    plan: Against
    find: Against
    taking: Compared


def measure(town: Town) -> Measured:
    """Makes the agency, then measures by turns."""
    client_id = _agency(town)
    app = create(town.house, town.settings)

    @app.get("/bench/plan/{client_id}")
    def plain_plan(request: Request, signed: Signed, client_id: int) -> HTMLResponse:
        found = plan.view(house_of(request), signed.actor, client_id)
        rows = (
            (
                one.source.name if one.source else "", one.line.number.e164, one.line.number.place,
                one.line.flow.name if one.line.flow else "", one.since, one.calls, one.days_silent, one.line.number.rent,
            )
            for one in found.numbers
        )  # fmt: skip
        return HTMLResponse(_table(rows))

    @app.get("/bench/find")
    def plain_find(request: Request, signed: Signed, q: str) -> HTMLResponse:
        hits = search.find(house_of(request), signed.actor, q)
        return HTMLResponse(_table((hit.kind, hit.name, hit.client.name) for hit in hits))

    timed = Timed(app)
    browser = TestClient(timed, follow_redirects=True)
    browser.post("/sign-in", data={"email": EMAIL, "password": PASSWORD})
    part = {"HX-Request": "true"}
    found = _against(browser, timed, f"/clients/{client_id}/numbers?all=1", f"/bench/plan/{client_id}", {})
    return Measured(found, _against(browser, timed, "/find?q=0142", "/bench/find?q=0142", part), _taking(town))


def _table(rows: Iterator[tuple[object, ...]]) -> str:
    cells = ("".join(f"<td>{html.escape(str(cell))}</td>" for cell in row) for row in rows)
    return "<table>" + "".join(f"<tr>{row}</tr>" for row in cells) + "</table>"


def _against(browser: TestClient, timed: Timed, ours: str, plain: str, headers: dict[str, str]) -> Against:
    pairs = []
    for _ in range(ROUNDS):
        pairs.append([_median(browser, timed, path, headers) for path in (ours, plain)])
    return Against(
        statistics.median(one for one, _ in pairs) * 1000,
        statistics.median(other for _, other in pairs) * 1000,
        statistics.median(one / other for one, other in pairs),
    )


def _median(browser: TestClient, timed: Timed, path: str, headers: dict[str, str]) -> float:
    timed.seconds.clear()
    for _ in range(TIMES):
        answer = browser.get(path, headers=headers)
        assert answer.status_code == 200, (path, answer.text[:300])
    return statistics.median(timed.seconds)


def _taking(town: Town) -> Compared:
    """Orders of many numbers run by the use case, against the carrier's own time for as many."""
    house = town.house
    with house.engine.connect() as connection:
        user = connection.execute(text("SELECT id, agency_id, name FROM users WHERE email = :e"), {"e": EMAIL}).one()
        client = connection.scalar(text("SELECT min(id) FROM clients WHERE agency_id = :a"), {"a": user.agency_id})
    actor = Actor(user.id, user.agency_id, "owner", None, user.name)
    with house.engine.connect() as connection:
        used = set(connection.scalars(text("SELECT e164 FROM tracking_numbers")))
    free = iter(
        dict.fromkeys(offer.e164 for offer in catalogue() if not asks_for(offer.e164) and offer.e164 not in used)
    )
    names = iter(range(10**6))

    def ordered() -> int:
        rows = [Row(next(free), SourceForm(f"Bench source {next(names)}")) for _ in range(TAKEN)]
        order = orders.place(house, actor, int(client or 0), rows, None)
        assert isinstance(order, NumberOrderView), order
        orders.run(house, order.id)
        done = orders.progress(house, actor, int(client or 0), order.id)
        assert done.count("taken") == len(rows), [one.line.reason for one in done.lines]
        return len(rows)

    def carrier_alone() -> int:
        for _ in range(TAKEN):
            house.carrier.take(next(free), fail_safe="", key=f"bench-{next(names)}")
        return TAKEN

    settle()
    return compare(ordered, carrier_alone)


def _agency(town: Town) -> int:
    """The agency with its clients, sources, numbers, assignments and the days of their calls; gives the largest client."""
    now = town.house.now()
    since = now - timedelta(days=200)
    with psycopg.connect(town.settings.database_url.replace("+psycopg", "")) as connection:

        def one(query: str, *values: object) -> int:
            row = connection.execute(query.encode(), values).fetchone()
            assert row
            return int(row[0])

        agency = one("INSERT INTO agencies (name) VALUES ('Bench agency') RETURNING id")
        one(
            "INSERT INTO users (agency_id, email, name, role, password_hash) VALUES (%s, %s, 'Bench', 'owner', %s) RETURNING id",
            agency, EMAIL, hash_password(PASSWORD),
        )  # fmt: skip
        connection.execute(
            "INSERT INTO clients (agency_id, name, country, time_zone, city, fail_safe, created_at, naming_pattern, same_area,"
            " likeness, rest_days, rest_words, rest_to, extension_pattern) SELECT %s, 'Client ' || n, 'US', 'America/New_York',"
            " 'Somewhere', '+12125550160', %s, '{source}', true, 'unlike', 90, '', '', '{}' FROM generate_series(1, %s) n",
            (agency, since, CLIENTS),
        )
        clients = [
            row[0] for row in connection.execute("SELECT id FROM clients WHERE agency_id = %s ORDER BY id", (agency,))
        ]
        owners = [clients[0]] * LARGEST
        owners += [clients[1 + n % (CLIENTS - 1)] for n in range(NUMBERS - LARGEST)]
        connection.execute(
            "INSERT INTO flows (agency_id, client_id, key, draft, revision, stated)"
            """ SELECT %s, id, 'fl_main', '{"name": "Main line", "mark": "ML"}', 0, '{}' FROM"""
            "  clients WHERE agency_id = %s",
            (agency, agency),
        )
        carrier = one("SELECT id FROM carriers LIMIT 1")
        used = {row[0] for row in connection.execute("SELECT e164 FROM tracking_numbers")}
        fresh = (e164 for n in range(10**5) if (e164 := f"+1{210 + n // 100}55501{n % 100:02d}") not in used)
        columns = (
            "agency_id, client_id, key, name, source, medium, campaign, term, content, placement, online, extension"
        )
        with connection.cursor().copy(f"COPY lead_sources ({columns}) FROM STDIN") as copy:
            for n, owner in enumerate(owners):
                copy.write_row((agency, owner, f"k{n}", f"Source {n}", "s", "cpc", "c", "", "", "p", n % 2 == 0, ""))
        columns = (
            "agency_id, client_id, carrier_id, e164, place, kind, state, fail_safe, fail_safe_told, fail_safe_said, taken_at,"
            " name, whisper, rent, set_up, ended_how, asked_for"
        )
        with connection.cursor().copy(f"COPY tracking_numbers ({columns}) FROM STDIN") as copy:
            for n, (owner, e164) in enumerate(zip(owners, fresh, strict=False)):
                copy.write_row(
                    (
                        agency,
                        owner,
                        carrier,
                        e164,
                        "Somewhere",
                        "local",
                        "in_service",
                        "",
                        "",
                        "",
                        since,
                        f"Source {n}",
                        "",
                        3,
                        0,
                        "",
                        "{}",
                    )
                )
        connection.execute(
            "UPDATE tracking_numbers n SET flow_id = f.id FROM flows f WHERE f.client_id = n.client_id AND n.agency_id = %s",
            (agency,),
        )
        connection.execute(
            "INSERT INTO assignments (agency_id, client_id, number_id, source_id, during)"
            " SELECT n.agency_id, n.client_id, n.id, s.id, tstzrange(%s, NULL) FROM tracking_numbers n"
            " JOIN lead_sources s ON s.client_id = n.client_id AND s.name = n.name WHERE n.agency_id = %s",
            (since, agency),
        )
        connection.execute(
            "INSERT INTO call_days (client_id, day, number_id, source_id, flow_id, fate, reason, agency_id, calls, seconds, talk_seconds,"
            " new_callers) SELECT n.client_id, %s::date - d, n.id, s.id, 0, f.fate, '', n.agency_id, 1 + d %% 3, 60, 40, 1"
            " FROM tracking_numbers n JOIN lead_sources s ON s.client_id = n.client_id AND s.name = n.name,"
            " generate_series(0, 90, 3) d, (VALUES ('answered'), ('lost')) f(fate) WHERE n.agency_id = %s",
            (now.date(), agency),
        )
        for adding in rollups.totals("agency_id = %s"):
            connection.execute(adding, (agency,))
        connection.commit()
        connection.autocommit = True
        connection.execute("ANALYZE")
    return int(clients[0])
