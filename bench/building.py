"""Building a flow: what an edit takes by the size of the flow, whole answers of the sheet against a plain page of their size, and a
plan of 2,000 lines pasted."""

import os
import statistics
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime

import structlog
from fastapi import Request
from fastapi.responses import HTMLResponse
from sqlalchemy import text
from starlette.testclient import TestClient

from vokari.core.checks.finding import Surroundings
from vokari.core.checks.flows import findings
from vokari.core.flows.drafting import edits
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.steps import AnyStep
from vokari.core.flows.model.values import Prompt
from vokari.core.flows.shown.differences import differences
from vokari.core.flows.shown.drawing import draw
from vokari.core.flows.shown.outline import outline
from vokari.demo.people import PASSWORD, USERS
from vokari.memory import settle
from vokari.web.app import create
from vokari.web.doors import Signed, house_of
from vokari.work.agency import clients
from vokari.work.agency.access import Actor
from vokari.work.flows import client_flows, drafts, texts
from vokari.work.flows.open_drafts import OpenDraft
from vokari.work.flows.texts import Text
from vokari.work.house.house import House

from .kept import keep
from .pages import Timed
from .rounds import ROUNDS
from .town import Town, town

HEADING = "## Building flows"
SIZES = (50, 100, 200, 400, 800)
MIDDLE, LINES, TIMES = 200, 2000, 6
PLAIN = (
    '{% extends "base.html" %}{% block work %}<table>{% for row in rows %}<tr><td>{{ row }}</td><td class="clip">{{ client.name }}</td>'
    '<td><a href="/clients/{{ client.id }}">{{ client.city }}</a></td></tr>{% endfor %}</table>{% endblock %}'
)
"""A page in the frame with as many rows of a table as it takes to be as large as another."""
FRAME, ROW = 9000, 105
"""About the bytes of the frame and of a row."""


@dataclass(frozen=True, slots=True)
class Answer:
    """A whole answer: its milliseconds, its kilobytes, and its ratio to a plain authenticated page of as many."""

    name: str
    milliseconds: float
    kilobytes: float
    ratio: float


@dataclass(frozen=True, slots=True)
class Measured:
    """`by_size` is the milliseconds of an edit with outline, findings and drawing by the count of steps; `pasted` the seconds of the
    long plan, and `steps` how many steps it became; `compared` is the milliseconds in which two versions of the middle size are
    compared, between which the words of every prompt are others."""

    by_size: dict[int, float]
    answers: list[Answer]
    pasted: float
    steps: int
    compared: float

    @property
    def uneven(self) -> float:
        """By how much the time for a step at one size differs at most from their mean: 0.2 is 20 %."""
        each = [taken / size for size, taken in self.by_size.items()]
        return max(abs(one / statistics.mean(each) - 1) for one in each)


def flow_of(steps: int) -> FlowDocument:
    """A flow of about so many steps: menus of up to eight keys, behind each last one an announcement, a ring and a voicemail."""
    made: list[dict[str, object]] = []

    def box(key: str) -> dict[str, object]:
        return {
            "kind": "voicemail",
            "id": key,
            "name": f"Box {key}",
            "greeting": {"say": "Leave word"},
            "message_left": "end",
            "no_message": "end",
        }

    def way() -> str:
        at = len(made)
        phone = {
            "kind": "number",
            "id": "d1",
            "name": f"Desk {at}",
            "number": f"+1410555{100 + at % 100:04d}",
            "seconds": 20,
        }
        made.append(
            {
                "kind": "announcement",
                "id": f"a{at}",
                "name": f"Words {at}",
                "prompt": {"say": "One moment"},
                "next": f"r{at}",
            }
        )
        made.append(
            {
                "kind": "ring",
                "id": f"r{at}",
                "name": f"Desk {at}",
                "to": [phone],
                "no_answer": f"v{at}",
                "accept": {"key": "1"},
            }
        )
        made.append(box(f"v{at}"))
        return f"a{at}"

    def menu(ways: int) -> str:
        at = f"m{len(made)}"
        row: dict[str, object] = {"kind": "menu", "id": at, "name": f"Menu {at}", "nothing": "vm", "wrong": "vm"}
        made.append(row)
        parts = min(8, -(-ways // 8))
        led = (
            [way() for _ in range(ways)]
            if ways <= 8
            else [menu(ways // parts + (n < ways % parts)) for n in range(parts)]
        )
        row["branches"] = [
            {"id": f"{at}k{n}", "keys": str(n + 1), "name": f"Way {n}", "to": to} for n, to in enumerate(led)
        ]
        return at

    start = menu(max(1, round((steps - 2) / 3.14)))
    made.append(box("vm"))
    return FlowDocument.model_validate(
        {"name": f"Of {steps}", "mark": "OF", "start": start, "rescue": "vm", "steps": made}
    )


def measure(town: Town) -> Measured:
    """Sizes by turns, each round on documents of their own; then the answers over HTTP, then the plan."""
    documents = {size: flow_of(size) for size in SIZES}
    found: dict[int, list[float]] = {len(one.steps): [] for one in documents.values()}
    settle()
    for _ in range(ROUNDS + 1):
        for one in documents.values():
            found[len(one.steps)].append(_edited(one))
    by_size = {size: statistics.median(times[1:]) for size, times in found.items()}
    actor, client = _who(town)
    pasted, steps = _pasted(town.house, actor, client)
    return Measured(by_size, _answers(town, actor, client), pasted, steps, _compared(documents[MIDDLE]))


def _compared(document: FlowDocument) -> float:
    """Milliseconds from two documents to the sentences about them, the median of five."""

    def other(step: AnyStep) -> AnyStep:
        prompt = getattr(step, "prompt", None)
        return step.model_copy(update={"prompt": Prompt(say=f"{prompt.say} now")}) if prompt else step

    times = []
    for _ in range(5):
        newer = FlowDocument.model_validate(
            document.with_steps(tuple(map(other, document.steps))).model_dump(mode="json")
        )
        older = FlowDocument.model_validate(document.model_dump(mode="json"))
        began = time.perf_counter()
        found = differences(older, newer)
        times.append((time.perf_counter() - began) * 1000)
        assert found
    return statistics.median(times)


def _edited(document: FlowDocument) -> float:
    """Milliseconds from an edit to all that is drawn of it, the median of three."""
    raw, times = document.model_dump(mode="json"), []
    change = edits.SetStep(step=document.steps[len(document.steps) // 2].model_copy(update={"name": "Other"}))
    for _ in range(3):
        fresh = FlowDocument.model_validate(raw)
        began = time.perf_counter()
        after = edits.apply(fresh, change)
        assert isinstance(after, edits.Applied)
        outline(after.document)
        findings(after.document, Surroundings({}, ()))
        draw(after.document)
        times.append((time.perf_counter() - began) * 1000)
    return statistics.median(times)


def _who(town: Town) -> tuple[Actor, int]:
    with town.house.engine.connect() as connection:
        user = connection.execute(
            text("SELECT id, agency_id, name FROM users WHERE email = :e"), {"e": USERS[1][0]}
        ).one()
        client = connection.scalar(text("SELECT min(id) FROM clients WHERE agency_id = :a"), {"a": user.agency_id})
    return Actor(user.id, user.agency_id, "specialist", None, user.name), int(client or 0)


def _made(house: House, actor: Actor, client: int, name: str, mark: str, document: FlowDocument | None) -> int:
    flow = client_flows.create(house, actor, client, name, mark)
    assert not isinstance(flow, list), flow
    if document is not None:
        rewrite = edits.Rewrite(steps=document.steps, start=document.start, rescue=document.rescue)
        assert isinstance(drafts.edit(house, actor, client, flow.id, [rewrite]), OpenDraft)
    return flow.id


def _answers(town: Town, actor: Actor, client: int) -> list[Answer]:
    document = flow_of(MIDDLE)
    flow = _made(town.house, actor, client, "Bench middle", "BQ", document)
    app = create(town.house, town.settings)

    pages = app.state.pages
    template = pages.environment.from_string(PLAIN)

    @app.get("/bench-plain/{client_id}/{size}")
    def plain(request: Request, signed: Signed, client_id: int, size: int) -> HTMLResponse:
        found = clients.get(house_of(request), signed.actor, client_id)
        around = pages.around(request, signed, found)
        signs = pages.environment.get_template("signs.html").make_module(around)
        rows = range(max(0, size - FRAME) // ROW)
        return HTMLResponse(template.render({**around, "signs": signs, "section": "flows", "errors": {}, "rows": rows}))

    timed = Timed(app)
    browser = TestClient(timed, follow_redirects=True)
    browser.post("/sign-in", data={"email": USERS[1][0], "password": PASSWORD})
    sheet = f"/clients/{client}/flows/{flow}"
    step = next(one for one in document.steps if one.kind == "announcement")
    token = browser.get(sheet).text.split('"X-Form-Token": "')[1].split('"')[0]
    names = iter(range(10**6))

    def keep() -> int:
        form = {
            "name": f"Other {next(names)}",
            "prompt": "One moment",
            "times": "1",
            "next": getattr(step, "next", ""),
            "form_token": token,
        }
        answer = browser.post(f"{sheet}/rows/{step.id}", data=form, headers={"HX-Request": "true"})
        assert answer.status_code == 200, answer.text[:200]
        return len(answer.content)

    def get(path: str) -> Callable[[], int]:
        def asked() -> int:
            answer = browser.get(path)
            assert answer.status_code == 200, (path, answer.text[:200])
            return len(answer.content)

        return asked

    works = {
        "the sheet": get(sheet),
        "the sheet with a row open": get(f"{sheet}?row={step.id}"),
        "a row kept": keep,
        "the flow as text": get(f"{sheet}/text"),
    }
    settle()
    return [
        _against(name, work, lambda size: get(f"/bench-plain/{client}/{size}"), timed) for name, work in works.items()
    ]


def _against(name: str, work: Callable[[], int], plain: Callable[[int], Callable[[], int]], timed: Timed) -> Answer:
    size = work()
    other = plain(size)
    assert abs(other() / size - 1) < 0.1, "the plain page is as large"
    pairs = list(_rounds(work, other, timed))
    times = statistics.median(ours for ours, _ in pairs) * 1000
    return Answer(name, times, size / 1000, statistics.median(ours / base for ours, base in pairs))


def _rounds(work: Callable[[], int], other: Callable[[], int], timed: Timed) -> Iterator[tuple[float, float]]:
    for _ in range(ROUNDS):
        pair = []
        for one in (work, other):
            timed.seconds.clear()
            for _ in range(TIMES):
                one()
            pair.append(statistics.median(timed.seconds))
        yield pair[0], pair[1]


def _pasted(house: House, actor: Actor, client: int) -> tuple[float, int]:
    """Seconds to paste the plan into an empty flow, the median of three; and the steps that it becomes."""
    lines, times, steps = ["ask"], [], 0
    for n in range(1, 9):
        lines.append(f"    {n} part {n}")
        for m in range(1, 9):
            lines.append(f"        {m} matter {n} {m}")
            lines += [f"            {k} answer {n} {m} {k}: “The answer is {k}”" for k in range(1, 10)]
            lines += [f'            say "More of {n} {m} {k}"' for k in range(20)]
    lines = lines[: LINES - 1] + ["Everyone else: voicemail Bench, tell desk@example.com"]
    for n in range(3):
        flow = _made(house, actor, client, f"Bench pasted {n}", f"B{n}", None)
        began = time.perf_counter()
        kept = texts.type_in(house, actor, client, flow, "\n".join(lines), None)
        times.append(time.perf_counter() - began)
        assert isinstance(kept, Text), kept
        steps = len(kept.draft.document.steps)
    return statistics.median(times), steps


def report(found: Measured) -> list[str]:
    """The part of docs/measures.md."""
    middle = min(found.by_size, key=lambda size: abs(size - MIDDLE))
    return [
        HEADING,
        f"Printed by `script/bench --building` on {datetime.now(UTC):%Y-%m-%d}, on {os.cpu_count()} cores. An edit with the outline, the findings "
        f"and the drawing after it, by the count of steps (at {middle}: goal 40 ms at most; the time for a step differs from their mean by "
        f"{found.uneven:.0%} at most, goal 20 %):",
        "",
        "| steps | ms |",
        "| ---: | ---: |",
        *(f"| {size} | {taken:.1f} |" for size, taken in found.by_size.items()),
        "",
        f"Whole answers of a flow of {middle} steps, against a page of the application with a table of as many bytes:",
        "",
        "| answer | ms | kB | times that page (goal: 3) |",
        "| --- | ---: | ---: | ---: |",
        *(f"| {one.name} | {one.milliseconds:.0f} | {one.kilobytes:.0f} | {one.ratio:.1f} |" for one in found.answers),
        "",
        f"A plan of {LINES:,} lines is pasted, read and kept as {found.steps:,} steps in {found.pasted:.2f} s (goal: under 2 s).",
        "",
        f"Two versions of {middle} steps, between which all prompts have other words, are compared in {found.compared:.0f} ms (at most 50 ms).",
    ]


if __name__ == "__main__":
    structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(40))
    with town() as made:
        lines = report(measure(made))
    print("\n".join(lines))
    if "--keep" in sys.argv:
        keep(HEADING, lines)
