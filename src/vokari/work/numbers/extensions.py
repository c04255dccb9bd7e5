"""Extensions as lead sources: how a client's codes are made, the grid of what is advertised where, and keys added to a menu."""

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
from ...core.numbers.extensions import Scheme
from ...core.reports.periods import latest
from ...store.agency import Client
from ...store.calls import CallDay
from ...store.flows import CallFlow
from ...store.numbers import LeadSource
from ..agency.access import Actor, allow, note
from ..flows import drafts, open_drafts
from ..flows.drafts import Conflict
from ..house.house import House
from ..house.problems import Problem, Problems, Withdrawn
from ..house.views import CallFlowView, ClientView, LeadSourceView
from .sources import SourceForm, add_source, check, sources_of

DAYS = 30
TRIES = 5


@dataclass(frozen=True, slots=True)
class Cell:
    """A lead source in the grid, with its calls."""

    source: LeadSourceView
    calls: int


@dataclass(frozen=True, slots=True)
class Grid:
    """What is advertised (`topics`, the campaigns) against the adverts (the sources): cells by (topic, advert), in small letters."""

    client: ClientView
    scheme: Scheme
    topics: list[str]
    adverts: list[str]
    cells: dict[tuple[str, str], Cell]

    def cell(self, topic: str, advert: str) -> Cell | None:
        """The lead source of something advertised in an advert."""
        return self.cells.get((topic.lower(), advert.lower()))

    def row(self, topic: str) -> int:
        """The calls for one thing that is advertised."""
        return sum(cell.calls for (one, _), cell in self.cells.items() if one == topic.lower())

    def column(self, advert: str) -> int:
        """The calls of one advert."""
        return sum(cell.calls for (_, one), cell in self.cells.items() if one == advert.lower())

    @property
    def calls(self) -> int:
        return sum(cell.calls for cell in self.cells.values())

    @property
    def missing(self) -> list[tuple[str, str]]:
        """What is not advertised everywhere: (topic, advert)."""
        return [(topic, advert) for topic in self.topics for advert in self.adverts if not self.cell(topic, advert)]


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
        scheme = extensions.load(client.extension_pattern)
        sources = sorted((one for one in sources_of(session, client_id) if one.extension), key=lambda one: one.id)
        calls = _calls(session, house, client) if counted is None and sources else counted or {}
    cells = {(one.campaign.lower(), one.source.lower()): Cell(one, calls.get(one.id, 0)) for one in sources}
    topics = {one.campaign.lower(): one.campaign for one in reversed(sources)}
    adverts = {one.source.lower(): one.source for one in reversed(sources)}
    return Grid(
        ClientView.of(client),
        scheme,
        sorted(topics.values(), key=str.lower),
        sorted(adverts.values(), key=str.lower),
        cells,
    )


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
        flows = session.scalars(select(CallFlow).where(CallFlow.of(client_id)).order_by(CallFlow.name)).all()
    return [
        MenuChoice(CallFlowView.of(flow), step)
        for flow in flows
        for step in FlowDocument.model_validate(flow.draft).steps
        if isinstance(step, Menu)
    ]


def shape(house: House, actor: Actor, client_id: int, typed: str) -> Problems:
    """Sets how the codes that are proposed from now on are made; those that are printed stay."""
    typed = "".join(typed.split())
    problem = extensions.problem_of(typed)
    if problem:
        return [Problem("scheme", problem)]
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        client.extension_pattern = extensions.dump(Scheme(typed))
        note(session, house, actor, client_id, "changed how extensions are made")
    return []


@dataclass(frozen=True, slots=True)
class Wanted:
    """Something advertised in an advert. Its medium is that of its advert; `medium` says which where the advert is new ("print"
    unless it does). `code` is typed, or empty for one that is proposed; `near`: it is printed already, however near to another."""

    topic: str
    advert: str
    medium: str = ""
    code: str = ""
    near: bool = False


def add(house: House, actor: Actor, client_id: int, *wanted: Wanted) -> list[LeadSourceView] | Problems:
    """Lead sources for what is advertised in adverts, each under an extension of its own; all of them or none."""
    try:
        with house.begin() as session:
            client = allow(session, actor, client_id, "work", changing=True)
            everything = sources_of(session, client_id)
            others = [one for one in everything if one.extension]
            keys = _single_keys(session, client_id)
            made: list[LeadSource] = []
            for one in wanted:
                source = _made(
                    session, actor, client, one, [*others, *map(LeadSourceView.of, made)], len(everything), keys
                )
                if isinstance(source, list):
                    raise Withdrawn(source)
                made.append(source)
                session.flush()
                note(session, house, actor, client_id, f"gave {source.name} the extension {source.extension}")
            return [LeadSourceView.of(one) for one in made]
    except Withdrawn as stopped:
        return stopped.problems
    except IntegrityError:
        return [Problem("topic", "A lead source of this name is there already.")]


def _made(
    session: Session, actor: Actor, client: Client, wanted: Wanted, others: Sequence[LeadSourceView], sources: int,
    keys: set[str],
) -> LeadSource | Problems:  # fmt: skip
    topic, advert = " ".join(wanted.topic.split()), " ".join(wanted.advert.split())
    problems = [
        Problem(name, "Write what it is, in 1 to 36 letters.")
        for name, words in (("topic", topic), ("advert", advert))
        if not 1 <= len(words) <= 36
    ]
    if problems:
        return problems
    twin = next((one for one in others if _is_for(one, topic, advert)), None)
    if twin is not None:
        return [Problem("topic", f"{topic} in {advert} has the extension {twin.extension} already.")]
    code = _code(client, wanted, others, sources, keys)
    if isinstance(code, Problem):
        return [code]
    alike = next((one.medium for one in others if one.source.lower() == advert.lower()), "")
    medium = alike or wanted.medium.strip() or "print"
    form = SourceForm(f"{topic} in {advert}", advert, medium, topic, placement=f"extension {code}")
    if wrong := check(form):
        return wrong
    source = add_source(session, actor, client.id, form)
    source.extension = code
    return source


def _is_for(source: LeadSourceView, topic: str, advert: str) -> bool:
    return (source.campaign.lower(), source.source.lower()) == (topic.lower(), advert.lower())


def _code(
    client: Client, wanted: Wanted, others: Sequence[LeadSourceView], sources: int, keys: set[str]
) -> str | Problem:
    """The code that is typed, if it can be used, or one that is proposed."""
    by_code = {one.extension: one for one in others}
    code = "".join(wanted.code.split())
    if not code:
        found = extensions.propose(extensions.load(client.extension_pattern), sources, by_code, keys)
        return found or Problem("scheme", "No code is left that is far enough from all others: make the scheme longer.")
    if not (code.isascii() and code.isdigit() and 2 <= len(code) <= extensions.LONGEST):
        return Problem("code", f"An extension has 2 to {extensions.LONGEST} digits.")
    if code in by_code:
        return Problem("code", f"{code} is the extension of {by_code[code].name} already.")
    near = extensions.nearest(code, by_code)
    if near and not wanted.near:
        words = f"{code} is one slip of the finger from {near}, {by_code[near].name}. Choose another; or say that it is printed."
        return Problem("code", words)
    return code


def _single_keys(session: Session, client_id: int) -> set[str]:
    """The single keys that menus of the client's drafts listen for."""
    drafted = session.scalars(select(CallFlow.draft).where(CallFlow.of(client_id)))
    menus = (step for raw in drafted for step in raw["steps"] if step["kind"] == "menu")
    return {branch["keys"] for menu in menus for branch in menu["branches"] if len(branch["keys"]) == 1}


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
    draft = open_drafts.opened(house, actor, client_id, flow_id)
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
    branches = list(menu.branches)
    for source in new:
        topic = source.campaign.lower()
        alike = {one.key for one in draft.sources if one.extension and one.campaign.lower() == topic}
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
