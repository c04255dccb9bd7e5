"""What tests share: a PostgreSQL of their own, a clock that stands, and the carrier stand-in in the same process."""

import os
import tempfile
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import settings as hypothesis_settings
from starlette.testclient import TestClient

from tests.world import World, make_world
from vokari.decoder import FfmpegDecoder
from vokari.formats.call_control.signature import carrier_secret
from vokari.local.cluster import Cluster, free_port
from vokari.settings import Settings
from vokari.standins.carrier.app import Carrier, create
from vokari.standins.carrier.inventory import Inventory
from vokari.standins.carrier.script import Vokari
from vokari.standins.post import PostOffice
from vokari.standins.speech import EspeakSpeech
from vokari.standins.transcription import Transcriber
from vokari.store.database import connect, ensure_months, migrate
from vokari.webclient import WebOverHttp
from vokari.wiring import CarrierOverHttp, FilesInFolder, carrier_token
from vokari.work.house.house import House
from vokari.work.numbers.numbers import CARRIER

os.environ.setdefault("PYTHONTZPATH", "")
hypothesis_settings.register_profile("steady", derandomize=True, deadline=None, max_examples=60)
hypothesis_settings.register_profile("fresh", deadline=None, max_examples=60, print_blob=True)
hypothesis_settings.load_profile(os.environ.get("VOKARI_EXAMPLES", "steady"))

NOON = datetime(2026, 11, 24, 17, 0, tzinfo=UTC)
"""A Tuesday noon in New York."""


class StandingClock:
    """A clock that stands until it is moved."""

    def __init__(self) -> None:
        self.moment = NOON

    def now(self) -> datetime:
        return self.moment

    def move(self, **by: float) -> None:
        self.moment += timedelta(**by)


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    folder = Path(tempfile.mkdtemp(prefix="vokari-test-", dir="/var/tmp"))
    folder.chmod(0o755)
    made = Cluster(folder / "pg", free_port())
    made.start(fast=True)
    made.create_database("pattern")
    migrate(made.url("pattern"))
    pattern = connect(made.url("pattern"))
    with pattern.begin() as connection:
        ensure_months(connection, (NOON - timedelta(days=120)).date(), (NOON + timedelta(days=60)).date())
    pattern.dispose()
    yield made
    made.remove()


@pytest.fixture
def clock() -> StandingClock:
    return StandingClock()


_count = iter(range(10**9))


@pytest.fixture
def settings(cluster: Cluster, tmp_path: Path) -> Iterator[Settings]:
    """An empty database of its own, cut from a migrated pattern."""
    name = f"t{next(_count)}"
    cluster.create_database(name, template="pattern")
    yield Settings(8040, 8042, 8041, cluster.port, tmp_path, cluster.url(name))
    cluster.drop_database(name)


@pytest.fixture
def carrier(settings: Settings) -> Carrier:
    vokari = Vokari("http://127.0.0.1:9", CARRIER, carrier_secret(settings.secret(), CARRIER))
    return Carrier(Inventory(settings.data / "carrier.sqlite"), vokari, carrier_token(settings.secret()))


@pytest.fixture
def house(settings: Settings, clock: StandingClock, carrier: Carrier) -> Iterator[House]:
    port = CarrierOverHttp(settings.carrier_url, carrier.token)
    headers = {"Authorization": f"Bearer {carrier.token}"}
    with TestClient(create(carrier), base_url="http://carrier", headers=headers) as client:
        port.http = client
        made = House(
            engine=connect(settings.database_url, pool=5), clock=clock, carrier=port, speech=EspeakSpeech(),
            post=PostOffice(settings.data / "post"), files=FilesInFolder(settings.data / "files"), web=WebOverHttp(), decoder=FfmpegDecoder(), transcriber=Transcriber(),
                secret=settings.secret(),
        )  # fmt: skip
        yield made
        made.engine.dispose()


@pytest.fixture
def world(house: House) -> World:
    return make_world(house)
