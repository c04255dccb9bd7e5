"""Loads the demo world: clients, numbers and flows through the use cases, calls by COPY from the simulator."""

import json
import os
import random
import sys
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor, as_completed
from dataclasses import replace
from datetime import datetime, timedelta
from decimal import Decimal

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import Range
from sqlalchemy.orm import Session

from ..core.flows.model.document import FlowDocument
from ..core.flows.ready.fallback import resting_flow
from ..core.flows.running import engine
from ..core.hours.document import Exception_, Hours
from ..core.numbers import extensions, naming
from ..formats.call_control.records import CallRecord, FailSafeUse
from ..settings import Settings
from ..store.agency import Agency, Client, Mailbox, TestPhone, User
from ..store.database import ensure_months
from ..store.flows import CallFlow
from ..store.hours import ExceptionList, HoursSet
from ..store.numbers import Assignment, Carrier, LeadSource, TrackingNumber
from ..store.people import PersonRow, TeamRow, Verification
from ..store.places import ClientPlaces
from ..wiring import CarrierOverHttp, build, carrier_token
from ..work.agency.access import Actor
from ..work.agency.accounts import hash_password
from ..work.calls import reconciling
from ..work.calls.known_callers import touch_of
from ..work.flows.versions import spoken
from ..work.hours import switches
from ..work.hours.ready import EXCEPTIONS, shared_exceptions
from ..work.house.house import House
from ..work.house.ports import CarrierRefuses, FreeNumber
from ..work.numbers import porting
from ..work.numbers.numbers import CARRIER, naming_facts
from ..work.prompts import speech
from ..work.proof import nightly
from ..work.reports import spending
from ..work.reports.spending import Spent
from . import people, prompts
from .american import AMERICAN
from .british import BRITISH
from .jobs import DAYS, ClientJob, LineJob
from .opening import shared_lists
from .plan import CLIENT_SYSTEM, ClientPlan, SourcePlan
from .versions import SINCE, first_version, next_month, other_versions

BUSYNESS = 2.0
SEED = 20261124
RINGS_ON = 0.4
"""The part of its calls that a number still gets in its rest."""
NAMING = "{source}, {place}"

Progress = Callable[[float, str], None]


def is_loaded(house: House) -> bool:
    """Whether the demo agency is there already."""
    with house.begin() as session:
        return session.scalar(select(Agency.id).where(Agency.name == people.AGENCY)) is not None


def load(house: House, settings: Settings, progress: Progress) -> int:
    """Loads the world and gives the count of its calls. The carrier must be running."""
    now = house.now()
    plans = [make() for make in (*AMERICAN, *BRITISH)]
    progress(0.0, "clients, numbers and flows")
    numbers = _take(CarrierOverHttp(settings.carrier_url, carrier_token(house.secret)), plans)
    with house.begin() as session:
        ensure_months(
            session.connection(), (now - timedelta(days=DAYS + 40)).date(), (now + timedelta(days=100)).date()
        )
        jobs = _world(session, settings, plans, numbers, now)
    lengths = _speech(house, plans, progress)
    sounds = _messages(house)
    done, calls = 0, 0
    whole = sum(line.calls_a_day for job in jobs for line in job.lines)
    jobs = [_with(job, lengths, sounds) for job in jobs]
    with ProcessPoolExecutor(max_workers=min(4, os.cpu_count() or 1)) as pool:
        from .calls import make_calls

        weight = {pool.submit(make_calls, job): sum(line.calls_a_day for line in job.lines) for job in jobs}
        part = 0.0
        for finished in as_completed(weight):
            calls += finished.result()
            part += weight[finished]
            done += 1
            progress(0.15 + 0.85 * part / whole, f"{calls:,} calls of {done} of {len(jobs)} clients")
    _port(house)
    _switch(house)
    _spend(house, plans)
    prompts.load(house)
    _outage(house, settings)
    nightly.begin(house)
    with house.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.exec_driver_sql("ANALYZE")
    return calls


def _port(house: House) -> None:
    """A main line on its way from another carrier, through the use case."""
    with house.begin() as session:
        user = session.scalars(select(User).where(User.email == people.USERS[1][0])).one()
        name, number, losing_carrier, account = people.PORT
        client = session.scalars(select(Client).where(Client.agency_id == user.agency_id, Client.name == name)).one()
        flow = session.scalars(select(CallFlow).where(CallFlow.client_id == client.id).order_by(CallFlow.id)).first()
    actor = Actor(user.id, user.agency_id, "specialist", None, user.name)
    porting.request(house, actor, client.id, number, losing_carrier, account, None, flow.id if flow else None)


def _outage(house: House, settings: Settings) -> None:
    """Calls that did not reach their flow, nine days ago, while Vokari did not answer: the carrier took them to the fail-safe."""
    at = (house.now() - timedelta(days=9)).replace(hour=15, minute=2, second=0, microsecond=0)
    with house.begin() as session:
        carrier_id = session.scalars(select(Carrier.id).where(Carrier.name == CARRIER)).one()
        query = select(TrackingNumber.e164, Client.fail_safe).join(Client, Client.id == TrackingNumber.client_id)
        called, fail_safe = session.execute(
            query.where(Client.name == people.OUTAGE, TrackingNumber.state == "in_service").order_by(TrackingNumber.id)
        ).first() or ("", "")
    records = []
    for index, talk in enumerate((84.0, 0.0, 46.0)):
        began = at + timedelta(seconds=70 * index)
        use = FailSafeUse(to=fail_safe, outcome="answered" if talk else "not_answered", talk_seconds=talk)
        records.append(CallRecord(
            number=1, call=f"outage-{index}", caller=people.CALLERS_US[index], called=called, at=began,
            ended_at=began + timedelta(seconds=talk + 18), by="carrier", reached=False, fail_safe=use,
        ))  # fmt: skip
        reconciling.record(house, carrier_id, records[-1])
    told = [(one, one.fail_safe is not None and one.fail_safe.talk_seconds > 0, False) for one in records]
    CarrierOverHttp(settings.carrier_url, carrier_token(house.secret)).load_calls(told)


def _switch(house: House) -> None:
    """One client is closed for the rest of today, by a switch."""
    with house.begin() as session:
        user = session.scalars(select(User).where(User.email == people.USERS[1][0])).one()
        query = select(Client.id).where(Client.agency_id == user.agency_id, Client.name == people.SWITCHED)
        client_id = session.scalars(query).one()
    actor = Actor(user.id, user.agency_id, "specialist", None, user.name)
    switches.start(house, actor, client_id, "closed", "tomorrow 9:00")


def _spend(house: House, plans: list[ClientPlan]) -> None:
    """What was spent on the campaigns of adverts that cost by the click or spot, until the day before yesterday, with a few days that
    nobody entered."""
    today, chance = house.now().date(), random.Random(SEED)
    with house.begin() as session:
        user = session.scalars(select(User).where(User.email == people.USERS[1][0])).one()
        clients = {
            one.name: one.id for one in session.scalars(select(Client).where(Client.agency_id == user.agency_id))
        }
    actor = Actor(user.id, user.agency_id, "specialist", None, user.name)
    for plan in plans:
        spent = [
            Spent(
                source.campaign,
                today - timedelta(days=ago),
                Decimal(round(100 * source.calls * (25 if source.medium == "audio" else 1) * chance.uniform(5, 9)))
                / 100,
            )
            for source in plan.sources
            if source.medium in PAID and source.campaign
            for ago in range(2, SPEND_DAYS)
            if not 11 <= ago <= 13
        ]
        if spent:
            spending.keep(house, actor, clients[plan.name], spent)


def _with(job: ClientJob, lengths: dict[str, float], sounds: tuple[tuple[str, float], ...]) -> ClientJob:
    return replace(job, lengths=lengths, sounds=sounds)


def _world(
    session: Session, settings: Settings, plans: list[ClientPlan], numbers: dict[tuple[str, str], FreeNumber],
    now: datetime,
) -> list[ClientJob]:  # fmt: skip
    agency = Agency(name=people.AGENCY)
    session.add(agency)
    carrier = session.scalar(select(Carrier).where(Carrier.name == CARRIER))
    session.flush()
    if carrier is None:
        carrier = Carrier(name=CARRIER, stand_in=True, secret_version=1)
        session.add(carrier)
        session.flush()
    clients = {}
    for plan in plans:
        client = Client(
            agency_id=agency.id, name=plan.name, country=plan.country, time_zone=plan.zone, city=plan.city,
            fail_safe=sorted(plan.habits)[0], created_at=now - timedelta(days=DAYS + 30), naming_pattern=NAMING,
            extension_pattern=extensions.dump(plan.extensions),
            rest_words=f"This number of {plan.name} is no longer in use. Please look for our new number on our website.",
        )  # fmt: skip
        clients[plan.name] = client
        session.add(client)
    session.flush()
    users = []
    password = hash_password(people.PASSWORD)
    for email, name, role, of in people.USERS:
        user = User(agency_id=agency.id, email=email, name=name, role=role, password_hash=password)
        user.client_id = clients[of].id if of else None
        users.append(user)
    session.add_all(users)
    session.add_all(TestPhone(agency_id=agency.id, e164=e164, name=name) for e164, name in people.TEST_PHONES)
    session.flush()
    lists = {
        name: ExceptionList(
            agency_id=agency.id, name=name, revision=0, exceptions=EXCEPTIONS.dump_python(tuple(known), mode="json")
        )
        for name, known in shared_lists(now.year).items()
    }
    session.add_all(lists.values())
    session.flush()
    return [
        _client(session, settings, plan, clients[plan.name], carrier.id, users, numbers, lists, SEED + index, now)
        for index, plan in enumerate(plans)
    ]


def _take(carrier: CarrierOverHttp, plans: list[ClientPlan]) -> dict[tuple[str, str], FreeNumber]:
    """Takes a number at the carrier for every source that has calls."""
    chosen: dict[tuple[str, str], str] = {}
    used: set[str] = set()
    for plan in plans:
        for source in plan.sources:
            if source.calls <= 0:
                continue
            kind = "toll_free" if source.toll_free else "local"
            code = "" if source.toll_free else plan.code
            offers = carrier.search(country=plan.country, area_code=code, place="", kind=kind, contains="", limit=200)
            e164 = next(offer.e164 for offer in offers if offer.e164 not in used)
            used.add(e164)
            chosen[plan.name, source.name] = e164
        if plan.name == people.DUTY_LINE:
            offers = carrier.search(
                country=plan.country, area_code=plan.code, place="", kind="local", contains="", limit=200
            )
            chosen[plan.name, people.DUTY_LINE] = next(one.e164 for one in offers if one.e164 not in used)
            used.add(chosen[plan.name, people.DUTY_LINE])
    found = {}
    for plan in plans:
        mine = {key: e164 for key, e164 in chosen.items() if key[0] == plan.name}
        wanted = {e164: f"demo-{e164}" for e164 in mine.values()}
        taken = carrier.take_many(wanted, fail_safe=sorted(plan.habits)[0])
        for key, e164 in mine.items():
            free = taken[e164]
            if isinstance(free, str):
                raise CarrierRefuses(free)
            found[key] = free
    return found


PAID, SPEND_DAYS = ("cpc", "paid", "audio"), 70
"""Media whose cost is entered day by day, for so many days."""
VERIFIED_BUT = 4
"""Of so many phones one was never verified."""


def _client(
    session: Session, settings: Settings, plan: ClientPlan, client: Client, carrier_id: int, users: list[User],
    numbers: dict[tuple[str, str], FreeNumber], lists: dict[str, ExceptionList], seed: int, now: datetime,
) -> ClientJob:  # fmt: skip
    ids = {"agency_id": client.agency_id, "client_id": client.id}
    tables = _hours(session, plan, client, lists)
    for key, one in plan.people.items():
        raw = one.model_dump(mode="json")
        session.add(PersonRow(**ids, key=key, document=raw, revision=0))
    phones = [phone.to for one in plan.people.values() for phone in one.phones] + sorted(plan.habits)
    for n, to in enumerate(dict.fromkeys(phones)):
        if n % VERIFIED_BUT != 3:
            at = now - timedelta(days=40 + n)
            session.add(Verification(**ids, destination=to, ref=f"demo-{to}", asked_at=at, state="pressed", done_at=at))
    for key, team in plan.teams.items():
        session.add(TeamRow(**ids, key=key, document=team.model_dump(mode="json"), revision=0))
    for key, (name, tell) in plan.mailboxes.items():
        session.add(Mailbox(**ids, key=key, name=name, tell=tell))
    sources = {}
    for source in plan.sources:
        row = LeadSource(
            **ids, key=_key(source), name=source.name, source=source.source, medium=source.medium, campaign=source.campaign,
            placement=source.placement, online=source.online, term="", content="", extension=source.extension,
        )  # fmt: skip
        sources[source.name] = row
        session.add(row)
    session.flush()
    flows = [
        FlowDocument.model_validate_json(one.model_dump_json().replace(CLIENT_SYSTEM, settings.carrier_url))
        for one in plan.flows
    ]
    if plan.places.places:
        session.add(ClientPlaces(**ids, document=plan.places.model_dump(mode="json"), revision=0))
    within = {
        key: first_version(session, client, one, users, now, -1, key=key)[1].id for key, one in plan.inner.items()
    }
    live = [first_version(session, client, document, users, now, index) for index, document in enumerate(flows)]
    before = other_versions(session, client, plan, live[0][0], users, now) if live else None
    for document in plan.drafts:
        raw = document.model_dump(mode="json")
        session.add(CallFlow(**ids, revision=0, draft=raw))
    lines = []
    if plan.name == people.DUTY_LINE:
        free = numbers[plan.name, people.DUTY_LINE]
        client.duty_number = free.e164
        session.add(TrackingNumber(
            **ids, carrier_id=carrier_id, e164=free.e164, place=plan.city, kind="local", state="in_service", fail_safe="", fail_safe_told=client.fail_safe,
            name="Duty line", taken_at=now - timedelta(days=DAYS), rent=Decimal(free.rent), set_up=Decimal(free.set_up),
        ))  # fmt: skip
    for source in plan.sources:
        if source.calls <= 0:
            continue
        flow = live[source.flow][0] if source.flow is not None else None
        since = now - timedelta(days=DAYS + 5)
        free = numbers[plan.name, source.name]
        number = TrackingNumber(
            **ids, carrier_id=carrier_id, e164=free.e164, place=plan.city,
            kind="toll_free" if source.toll_free else "local", state="in_service", flow_id=flow.id if flow else None,
            fail_safe="", fail_safe_told=client.fail_safe, taken_at=since, rent=Decimal(free.rent), set_up=Decimal(free.set_up), whisper=source.whisper,
        )  # fmt: skip
        facts = naming_facts(client, number, sources[source.name])
        number.name = naming.fill(NAMING, facts)
        rested = now - timedelta(days=source.rests) if source.rests else None
        if rested:
            number.state, number.rest_since, number.rest_until = "resting", rested, rested + timedelta(days=90)
        session.add(number)
        session.flush()
        holdings = [(since, sources[source.name].id)]
        if source.was:
            holdings = [(since, sources[source.was].id), (now - timedelta(days=40), sources[source.name].id)]
        planned = [(next_month(now, plan.zone), sources[source.then].id)] if source.then else []
        for (begins, source_id), after in zip([*holdings, *planned], [*holdings[1:], *planned, None], strict=True):
            during = Range(begins, after[0] if after else rested)
            session.add(Assignment(**ids, number_id=number.id, source_id=source_id, during=during))
        runs = plan.flows[source.flow] if source.flow is not None else None
        job = LineJob(
            number.e164, number.id, flow.id if flow else None, flow.live_version_id if flow else None, runs, tuple(holdings),
            source.calls * BUSYNESS, last_ago=max(source.silent, source.rests),
            pins={key: within[key] for key in engine.prepare(runs).continues_in} if runs else {},
        )  # fmt: skip
        if before is not None and source.flow == 0:
            lines.append(
                replace(
                    job, version_id=before.id, document=plan.earlier[0] if plan.earlier else None, last_ago=SINCE + 1
                )
            )
            job = replace(job, first_ago=SINCE)
        lines.append(job)
        if rested:
            resting = resting_flow(client.rest_words, "", "en-GB" if client.country == "GB" else "en-US")
            quieter = replace(job, flow_id=None, version_id=None, pins={}, document=resting, late=True)
            calls = job.calls_a_day * RINGS_ON
            lines.append(replace(quieter, calls_a_day=calls, first_ago=source.rests - 1, last_ago=0))
    session.flush()
    return ClientJob(
        settings, seed, client.agency_id, client.id, carrier_id, users[1].id, plan.country, plan.zone, tuple(lines),
        {row.key: row.id for row in sources.values()}, dict(plan.habits), tables, plan.people, plan.teams, {}, (), now,
        plan.inner, plan.places, {row.id: touch_of("", row) for row in sources.values()},
    )  # fmt: skip


def _hours(
    session: Session, plan: ClientPlan, client: Client, lists: dict[str, ExceptionList]
) -> dict[str, tuple[Hours, tuple[Exception_, ...]]]:
    """Stores a client's hours; gives each with what its shared lists bring, by key."""
    found = {}
    for one in plan.hours:
        shared = [lists[name] for name in one.lists]
        session.add(
            HoursSet(
                agency_id=client.agency_id, client_id=client.id, key=one.key, purpose=one.purpose,
                is_main=one.purpose == "client", document=one.hours.model_dump(mode="json"),
                lists=[entry.id for entry in shared], revision=0,
            )
        )  # fmt: skip
        found[one.key] = (one.hours, shared_exceptions(session, [entry.id for entry in shared]))
    return found


def _key(source: SourcePlan) -> str:
    """The key that flows name a source by; the demo flows state two sources by key."""
    return source.key or f"ls_{source.source.replace(' ', '_').lower()}"


def _speech(house: House, plans: list[ClientPlan], progress: Progress) -> dict[str, float]:
    """Makes the sound of every prompt once; gives the lengths by the names of sounds."""
    wanted = [
        (*one, plan.country)
        for plan in plans
        for document in (*plan.flows, *plan.inner.values())
        for one in spoken(document)
    ]
    lengths = {}
    for done, (words, language, voice, country) in enumerate(wanted):
        made = speech.sound(house, words, language, voice, country)
        if made:
            lengths[made.name] = made.seconds
        progress(0.02 + 0.13 * done / len(wanted), "the sound of prompts")
    return lengths


def _messages(house: House) -> tuple[tuple[str, float], ...]:
    """The sounds of a few messages that callers leave, each with its length."""
    sounds = []
    for words in people.MESSAGES:
        made = speech.sound(house, words, "en-US")
        wav = speech.wav(house, made.name) if made else None
        if made and wav:
            sounds.append((house.files.put(wav, ".wav"), made.seconds))
    return tuple(sounds)


def run(settings: Settings) -> int:
    """Loads the world with a progress bar on the terminal; does nothing when it is there."""
    house = build(settings)
    if is_loaded(house):
        return 0
    return load(house, settings, bar)


def bar(part: float, words: str) -> None:
    """One line that is written over, or plain lines where the output is no terminal."""
    width = 30
    full = int(width * part)
    text = f"[{'#' * full}{'.' * (width - full)}] {part:4.0%}  {words}"
    if sys.stderr.isatty():
        print(f"\r{text:<90}", end="\n" if part >= 1 else "", file=sys.stderr, flush=True)
    elif part >= 1 or json.dumps(words) != getattr(bar, "last", ""):
        bar.last = json.dumps(words)  # type: ignore[attr-defined]
        print(text, file=sys.stderr, flush=True)
