"""Extensions as lead sources: a client's pattern, the grid of what is advertised where, and keys added to a menu."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from zoneinfo import ZoneInfo

from sqlalchemy import Integer, cast, func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.flows.drafting.edits import SetStep
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import Branch, Menu
from ...core.numbers import extensions
from ...core.numbers.extensions import Meaning, Pattern
from ...core.reports.periods import latest
from ...store.agency import Client
from ...store.calls import CallDay
from ...store.flows import CallFlow
from ...store.numbers import LeadSource
from ..agency.access import Actor, allow, note
from ..flows import drafts
from ..flows.drafts import Conflict
from ..house.house import House
from ..house.problems import Problem, Problems
from ..house.views import CallFlowView, ClientView, LeadSourceView
from .sources import SourceForm, add_source, check, sources_of

DAYS = 30
TRIES = 5


@dataclass(frozen=True, slots=True)
class Cell:
    """A lead source in the grid, with its calls."""

    source: LeadSourceView
    meaning: Meaning
    calls: int


@dataclass(frozen=True, slots=True)
class Grid:
    """What is advertised (rows) against the adverts (columns): cells by (topic code, advert code)."""

    client: ClientView
    pattern: Pattern
    cells: dict[tuple[str, str], Cell]

    def row(self, topic: str) -> int:
        """The calls for one thing that is advertised."""
        return sum(cell.calls for (one, _), cell in self.cells.items() if one == topic)

    def column(self, advert: str) -> int:
        """The calls of one advert."""
        return sum(cell.calls for (_, one), cell in self.cells.items() if one == advert)

    @property
    def calls(self) -> int:
        return sum(cell.calls for cell in self.cells.values())


@dataclass(frozen=True, slots=True)
class MenuChoice:
    """A menu of a draft to which a key can be added."""

    flow: CallFlowView
    step: Menu

    @property
    def id(self) -> str:
        return f"{self.flow.id}:{self.step.id}"

    @property
    def words(self) -> str:
        return f"{self.flow.name}, {self.step.called}"


def grid(house: House, actor: Actor, client_id: int, counted: Mapping[int, int] | None = None) -> Grid:
    """The grid with the calls of each lead source, by its id (those of the last 30 days unless they were `counted`), for whoever
    reads the client's results."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "read_results")
        pattern = extensions.load(client.extension_pattern)
        sources = [one for one in sources_of(session, client_id) if one.extension]
        calls = _calls(session, house, client) if counted is None and sources else counted or {}
    cells = {}
    for source in sources:
        meaning = extensions.read(pattern, source.extension)
        if meaning:
            cells[meaning.topic, meaning.advert] = Cell(source, meaning, calls.get(source.id, 0))
    return Grid(ClientView.of(client), pattern, cells)


def _calls(session: Session, house: House, client: Client) -> dict[int, int]:
    """Calls of the last days by lead source."""
    wanted = latest(DAYS, house.now().astimezone(ZoneInfo(client.time_zone)).date())
    rows = session.execute(
        select(CallDay.source_id, cast(func.sum(CallDay.calls), Integer))
        .where(CallDay.client_id == client.id, CallDay.day.between(wanted.first, wanted.last))
        .group_by(CallDay.source_id)
    )
    return dict(rows.all())


def menus(house: House, actor: Actor, client_id: int) -> list[MenuChoice]:
    """The menus of a client's drafts."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        flows = session.scalars(select(CallFlow).where(CallFlow.client_id == client_id).order_by(CallFlow.name)).all()
    return [
        MenuChoice(CallFlowView.of(flow), step)
        for flow in flows
        for step in FlowDocument.model_validate(flow.draft).steps
        if isinstance(step, Menu)
    ]


def shape(house: House, actor: Actor, client_id: int, topic_digits: int, advert_digits: int) -> Problems:
    """Sets how many digits each part has; only while no extension is given."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        problem = extensions.problem_of(topic_digits, advert_digits)
        if problem:
            return [Problem("digits", problem)]
        pattern = extensions.load(client.extension_pattern)
        given = session.scalar(
            select(func.count()).where(LeadSource.client_id == client_id, LeadSource.extension != "")
        )
        if given and (topic_digits, advert_digits) != (pattern.topic_digits, pattern.advert_digits):
            return [Problem("digits", "Extensions are printed already, so their length cannot change.")]
        client.extension_pattern = extensions.dump(
            Pattern(topic_digits, advert_digits, pattern.topics, pattern.adverts)
        )
        note(session, house, actor, client_id, "changed the pattern of extensions")
    return []


def add(
    house: House, actor: Actor, client_id: int, topic: str, advert: str, medium: str = ""
) -> LeadSourceView | Problems:
    """A lead source for something advertised in an advert, under the next free extension. Its medium is that of its advert;
    `medium` says which where the advert is new ("print" unless it does)."""
    topic, advert = " ".join(topic.split()), " ".join(advert.split())
    try:
        with house.begin() as session:
            client = allow(session, actor, client_id, "work", changing=True)
            problems = [
                Problem(name, "Write what it is, in 1 to 36 letters.")
                for name, words in (("topic", topic), ("advert", advert))
                if not 1 <= len(words) <= 36
            ]
            if problems:
                return problems
            others = [one for one in sources_of(session, client_id) if one.extension]
            taken = {one.extension for one in others}
            proposed = extensions.propose(extensions.load(client.extension_pattern), topic, advert, taken)
            if isinstance(proposed, str):
                return [Problem("topic", proposed)]
            alike = next((one.medium for one in others if one.source.lower() == advert.lower()), "")
            form = SourceForm(
                f"{topic} in {advert}", advert, alike or medium.strip() or "print", topic, placement=f"extension {proposed[1]}"
            )  # fmt: skip
            if check(form):
                return check(form)
            source = add_source(session, actor, client_id, form)
            source.extension = proposed[1]
            client.extension_pattern = extensions.dump(proposed[0])
            session.flush()
            note(session, house, actor, client_id, f"gave {source.name} the extension {source.extension}")
            return LeadSourceView.of(source)
    except IntegrityError:
        return [Problem("topic", "A lead source of this name is there already.")]


def add_keys(
    house: House, actor: Actor, client_id: int, source_ids: Sequence[int], flow_id: int, step_id: str
) -> Problems:
    """Lets a menu of a draft listen for the extensions of some sources, as one edit: they are printed, never spoken, and state
    the source.

    Each branch leads where others of the same topic lead, else where silence leads. A menu that somebody else changes at this
    moment is read again.
    """
    for _ in range(TRIES):
        result = _add_keys(house, actor, client_id, source_ids, flow_id, step_id)
        if not isinstance(result, Conflict):
            return result
    return [Problem("menu", "Somebody is changing this menu. Try again in a moment.")]


def _add_keys(
    house: House, actor: Actor, client_id: int, source_ids: Sequence[int], flow_id: int, step_id: str
) -> Problems | Conflict:
    draft = drafts.opened(house, actor, client_id, flow_id)
    wired = sorted(
        (one for one in draft.sources if one.id in source_ids and one.extension), key=lambda one: one.extension
    )
    menu = draft.document.step(step_id)
    if not wired or not isinstance(menu, Menu):
        return [Problem("menu", "Choose a menu.")]
    heard = {branch.keys for branch in menu.branches}
    new = [one for one in wired if one.extension not in heard]
    if not new:
        return [Problem("menu", f"This menu listens for {wired[0].extension} already.")]
    pattern = extensions.load(draft.client.extension_pattern)
    branches = list(menu.branches)
    for source in new:
        topic = source.extension[: pattern.topic_digits]
        alike = {one.key for one in draft.sources if one.extension.startswith(topic)}
        to = next((one.to for one in branches if one.source in alike and one.to), menu.nothing)
        branches.append(
            Branch(
                id=f"x{source.extension}", keys=source.extension, name=source.name[:60], to=to, elsewhere=True,
                source=source.key,
            )
        )  # fmt: skip
    wanted = SetStep.model_construct(step=menu.model_copy(update={"branches": tuple(branches)}))
    result = drafts.edit(house, actor, client_id, flow_id, [wanted], draft.flow.revision)
    if isinstance(result, list):
        return [Problem("menu", one.sentence) for one in result]
    return result if isinstance(result, Conflict) else []
