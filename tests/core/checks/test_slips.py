"""Each slip of the trade, planted into each flow of the demo world and each example where it can be made, is found."""

from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from zoneinfo import ZoneInfo

import pytest

from tests.conftest import NOON
from tests.slips import planted
from vokari.core.checks import proof
from vokari.core.checks.finding import Inner, Surroundings
from vokari.core.checks.flows import findings
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.running.flow import Flow
from vokari.core.hours.timetable import Timetable
from vokari.core.places.whereabouts import Whereabouts
from vokari.core.proof.claims import Claims
from vokari.core.proof.walk import Walk
from vokari.core.proof.world import AHEAD, Client, World
from vokari.demo.american import AMERICAN
from vokari.demo.british import BRITISH
from vokari.demo.plan import ClientPlan
from vokari.formats import flow_file
from vokari.reading import country_of, tables_of

EXAMPLES = sorted((Path(__file__).parents[3] / "examples").glob("*.json"))
Case = tuple[FlowDocument, dict[str, FlowDocument], Surroundings, Client]


def of_plan(plan: ClientPlan) -> Iterator[Case]:
    zone = ZoneInfo(plan.zone)
    tables = {one.key: Timetable(one.hours, zone) for one in plan.hours}
    client = Client(zone, tables, plan.people, plan.teams)
    around = Surroundings(
        dict.fromkeys(plan.mailboxes, True), (), (), tables, NOON, plan.people, plan.teams, country=plan.country,
        where=Whereabouts(plan.places, plan.country), flows={key: Inner(one.name, one) for key, one in plan.inner.items()},
    )  # fmt: skip
    yield from ((flow, plan.inner, around, client) for flow in plan.flows)


def of_file(path: Path) -> Iterator[Case]:
    file, zone = flow_file.read(path.read_text()), ZoneInfo("America/New_York")
    assert not isinstance(file, list)
    known, tables = file.materials, tables_of(file, zone)
    around = Surroundings(
        dict.fromkeys(known.mailboxes, True), set(known.sources), (), tables, NOON, known.people, known.teams, country=country_of(file),
        where=Whereabouts(known.places, country_of(file)), flows={key: Inner(one.name, one) for key, one in known.flows.items()},
    )  # fmt: skip
    yield file.flow, dict(known.flows), around, Client(zone, tables, known.people, known.teams)


CASES = [case for make in (*AMERICAN, *BRITISH) for case in of_plan(make())] + [case for path in EXAMPLES for case in of_file(path)]  # fmt: skip


def structural(flow: FlowDocument, around: Surroundings) -> Counter[tuple[str, str]]:
    return Counter((one.kind, one.weight) for one in findings(flow, around))


def proven(flow: FlowDocument, inner: dict[str, FlowDocument], client: Client) -> Counter[tuple[str, str]]:
    runs = Flow(flow, inner)
    claims = Claims(Walk(runs, World(runs, client, NOON, NOON + AHEAD)))
    return Counter((one.finding.kind, one.finding.weight) for one in proof.findings(flow, claims))


@pytest.fixture(scope="module")
def tally() -> Iterator[Counter[tuple[str, str]]]:
    """Found and planted by slip, printed for docs/measures.md."""
    counts: Counter[tuple[str, str]] = Counter()
    yield counts
    for slip in sorted({slip for slip, _ in counts}, key=lambda one: (int(one.split()[0]), one)):
        print(f"| {slip} | {counts[slip, 'planted']} | {counts[slip, 'found']} |")


@pytest.mark.parametrize("case", CASES, ids=lambda case: case[0].name)
def test_every_slip_is_found_and_an_untouched_flow_stops_nothing(case: Case, tally: Counter[tuple[str, str]]) -> None:
    flow, inner, around, client = case
    before = structural(flow, around)
    untouched = proven(flow, inner, client)
    assert not [kind for kind, weight in before if weight == "stops" and kind != "unknown_source"]
    assert not [kind for kind, weight in untouched if weight == "stops"]
    for one in planted(flow, around):
        after = structural(one.flow, one.around) - before
        if one.proof and not {kind for kind, _ in after} & one.kinds:
            after += proven(one.flow, inner, client) - untouched
        tally[one.slip, "planted"] += 1
        assert {kind for kind, _ in after} & one.kinds, (one.slip, after)
        tally[one.slip, "found"] += 1
