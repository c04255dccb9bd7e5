"""The proof of small flows against everything that can happen, counted one by one; and against what a graph library says can be reached."""

from collections.abc import Iterator, Mapping
from datetime import datetime, timedelta
from itertools import product
from typing import Any

import networkx
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.core.proof.test_walk import claims, end_of
from tests.flows import document, phone
from tests.random_flows import random_flows
from tests.worlds import NOW, TABLES, UNTIL, ZONE
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.questions.kinds import Answer, Question, WhatHolds, WhoIsFree
from vokari.core.flows.running import engine
from vokari.core.flows.running.events import Event, Gone, Recorded
from vokari.core.flows.running.flow import Flow
from vokari.core.flows.running.inputs import inputs
from vokari.core.flows.running.state import State
from vokari.core.proof.claims import Claims
from vokari.core.proof.walk import Walk
from vokari.core.proof.world import Client, World

CLIENT = Client(ZONE, {"yard": TABLES["yard"]})
FIRST, SECOND = phone("Dana", "+14105550160"), phone("Joel", "+14105550161")
IDS = ("a", "b", "c", "d", "e")
MOST = 40_000
"""Situations, counters and all, that are looked at in one flow."""


@st.composite
def small_flows(draw: st.DrawFn) -> FlowDocument:
    """Flows of at most six steps, three keys, two phones and one set of hours, in which a call enters a step twice at most."""
    to = st.sampled_from([*IDS, "vm", "end"])
    steps: list[dict[str, Any]] = []
    for id_ in IDS[: draw(st.integers(1, 5))]:
        match draw(st.sampled_from(["say", "ask", "ring", "sort"])):
            case "say":
                steps.append({"kind": "announcement", "id": id_, "prompt": {"say": "Words"}, "next": draw(to)})
            case "ask":
                keys = draw(st.lists(st.sampled_from("123"), min_size=1, max_size=3, unique=True))
                branches = [{"id": f"k{key}", "keys": key, "to": draw(to)} for key in keys]
                ways = {"nothing": draw(to), "wrong": draw(to), "tries": draw(st.integers(1, 2))}
                steps.append({"kind": "menu", "id": id_, "prompt": {"say": "Press"}, "branches": branches, **ways})
            case "ring":
                phones = [FIRST, SECOND][: draw(st.integers(1, 2))]
                ring = {
                    "strategy": draw(st.sampled_from(["in_order", "all_at_once"])),
                    "machine_detection": draw(st.booleans()),
                }
                steps.append({"kind": "ring", "id": id_, "to": phones, "no_answer": draw(to), "busy": draw(to), **ring})
            case "sort":
                when = {"test": "period", "of": "yard", "any_of": [draw(st.sampled_from(["desk", "shop"]))]}
                branch = {"id": "k", "when": when, "to": draw(to)}
                steps.append({"kind": "junction", "id": id_, "branches": [branch], "otherwise": draw(to)})
    known = {step["id"] for step in steps} | {"vm", "end"}
    for step in steps:
        for name in ("next", "nothing", "wrong", "no_answer", "busy", "otherwise"):
            if step.get(name, "end") not in known:
                step[name] = "vm"
        for branch in step.get("branches", ()):
            branch["to"] = branch["to"] if branch["to"] in known else "vm"
    box = {"kind": "voicemail", "id": "vm", "mailbox": "mb", "message_left": "end", "no_message": "end"}
    return document(*steps, box, rescue="vm", entry_limit=2)


def moments(client: Client) -> list[tuple[datetime, datetime]]:
    """Just before and just after each moment at which the hours say something else, as far as before it as a call can last."""
    edges = [begins for begins, _, _ in client.hours["yard"].stretches(NOW, UNTIL)]
    return [(at - timedelta(seconds=1), at + timedelta(seconds=1)) for at in edges if NOW < at < UNTIL]


Holds = Mapping[str, tuple[str, bool]]


def everything(flow: Flow, client: Client) -> set[tuple[Any, ...]] | None:
    """Every end that a call can come to, with the hours passing on at each point of it, or never; None for a flow of too many."""
    found: set[tuple[Any, ...]] = set()
    tables = client.hours
    pairs = {
        tuple((key, tuple((standing.period, standing.is_exception) for standing in (table.at(before), table.at(after)))) for key, table in tables.items())
        for before, after in moments(client)
    }  # fmt: skip
    looked_at = 0
    for pair in pairs:
        held = [{key: states[side] for key, states in pair} for side in (0, 1)]
        seen: set[tuple[State, int]] = set()
        todo = [(State(), side) for side in (0, 1)]
        while todo:
            state, side = todo.pop()
            if state.ended:
                found.add(end_of(state))
                continue
            plain = state._replace(serial=0, steps=0) if state.phase == "new" else state
            if (plain, side) in seen:
                continue
            seen.add((plain, side))
            looked_at += 1
            if looked_at > MOST:
                return None
            sides = (0, 1) if side == 0 else (1,)
            for event in happenings(flow, state):
                for now in sides:
                    todo += [(after, now) for after in outcomes(flow, state, event, held[now])]
    return found


def happenings(flow: Flow, state: State) -> list[Event]:
    """What can happen while the caller stays."""
    return [
        one for one in inputs(flow, state) if not isinstance(one, Gone) and not (isinstance(one, Recorded) and one.gone)
    ]


def outcomes(flow: Flow, state: State, event: Event, held: Holds) -> Iterator[State]:
    """Where an event can lead: every phone is free or on a call."""
    todo: list[dict[Question, Answer]] = [{}]
    while todo:
        known = todo.pop()
        result = engine.step(flow, state, event, known)
        if isinstance(result, engine.Next):
            yield result.state
            continue
        asked = result.question
        if isinstance(asked, WhatHolds):
            todo.append({**known, asked: held.get(asked.hours, ("closed", False))})
        elif isinstance(asked, WhoIsFree):
            states = product(("free", "on_call"), repeat=len(asked.destinations))
            todo += [{**known, asked: tuple(one)} for one in states]  # type: ignore[misc]
        else:
            todo.append({**known, asked: False})


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much])
@given(small_flows())
def test_the_claim_is_everything_that_can_happen(raw: FlowDocument) -> None:
    flow = Flow(raw, {})
    shown = Claims(Walk(flow, World(flow, CLIENT, NOW, UNTIL)))
    assert shown.proven
    real = everything(flow, CLIENT)
    if real is not None:
        assert {(one.came.fate, one.came.reason, one.at, one.by) for one in shown.ends} == real


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(random_flows())
def test_what_is_reached_is_what_a_graph_library_reaches(flow: Flow) -> None:
    walk = claims(flow).walk
    graph = networkx.DiGraph()
    graph.add_nodes_from(range(len(walk.situations)))
    graph.add_edges_from((edge.source, edge.target) for edges in walk.edges for edge in edges)
    assert networkx.descendants(graph, 0) | {0} == set(range(len(walk.situations)))
    steps = networkx.DiGraph()
    steps.add_nodes_from(flow.steps)
    rescues = ((one, rescue) for one in flow.steps if (rescue := flow.rescue(one)))
    ways = ((one.id, target) for one in flow.steps.values() for target in flow.onward(one) if target in flow.steps)
    steps.add_edges_from([*rescues, *ways])
    start = flow.document.start
    led_to = networkx.descendants(steps, start) | {start} if start else set()
    assert walk.entered <= led_to
    rounds = [part for part in networkx.strongly_connected_components(_by_events(walk)) if len(part) > 1]
    if not walk.unwalked:
        assert {frozenset(one) for one in rounds} <= {
            frozenset(one) for one in walk.rounds if len(one) > 1
        } or not rounds


def _by_events(walk: Walk) -> networkx.DiGraph:
    graph = networkx.DiGraph()
    graph.add_edges_from(
        (edge.source, edge.target)
        for edges in walk.edges
        for edge in edges
        if edge.event is not None and not edge.limit
    )
    return graph
