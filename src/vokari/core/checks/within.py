"""What is wrong between a flow and the flows that it continues in: none to run, ways back that nobody names, rings of flows."""

from collections.abc import Iterator, Mapping

from ..flows.model.document import FlowDocument
from ..flows.model.steps import ComeBack, ContinueIn
from ..flows.model.steps.come_back import way_named
from .finding import Finding, Inner, Surroundings


def findings(document: FlowDocument, around: Surroundings) -> Iterator[Finding]:
    """All findings about inner flows."""
    for step in document.steps:
        if isinstance(step, ContinueIn) and step.flow:
            yield from _of_step(document, step, around)


def pointed_at(document: FlowDocument, around: Surroundings) -> Iterator[Finding]:
    """A flow that comes back, and that numbers reach with nothing around it to come back to: such callers go to its rescue."""
    back = next((step for step in document.steps if isinstance(step, ComeBack)), None)
    if back is None or not around.pointed:
        return
    some = "A number reaches" if around.pointed == 1 else f"{around.pointed} numbers reach"
    if document.rescue is None:
        words = f"{some} this flow directly, where nothing is around it to come back to: name a rescue, or take the numbers off it."
        yield Finding("back_to_nothing", words, back.id)
    else:
        words = f"{some} this flow directly: callers who come back go to its rescue."
        yield Finding("back_to_nothing", words, back.id, weight="asks")


def _of_step(document: FlowDocument, step: ContinueIn, around: Surroundings) -> Iterator[Finding]:
    other = around.flows.get(step.flow)
    if other is None:
        yield Finding("no_flow", f"{step.begins} continues in a flow that is gone: choose another.", step.id)
        return
    if ring := ring_through(document, step.flow, around):
        words = f"{step.begins} would go round for ever: {', which continues in '.join(ring)}."
        yield Finding("flow_ring", words, step.id)
        return
    if other.live is None:
        words = f"{step.begins} continues in {other.name}, of which nothing is live: put that live first."
        yield Finding("no_live_flow", words, step.id)
        return
    ways = ways_of(other.live)
    named = {one.named for one in step.returns}
    for way, said in ways.items():
        if way not in named:
            words = f"{other.name} comes back “{said}”, and {step.quoted} does not say what happens then."
            yield Finding("unnamed_way", words, step.id, mends=(f"name_way:{said}",))
    for one in step.returns:
        if one.named not in ways:
            words = f"{step.begins} waits for “{one.name}”, by which {other.name} does not come back: nobody takes that exit."
            yield Finding("gone_way", words, step.id, one.id, "asks")


def ways_of(document: FlowDocument) -> dict[str, str]:
    """The ways by which a flow comes back, as they are compared, each with its name."""
    return {step.named: step.way for step in document.steps if isinstance(step, ComeBack) and step.named}


def ring_through(document: FlowDocument, key: str, around: Surroundings) -> list[str]:
    """The names of the flows of a ring that continuing in a flow would close, this one first and last; empty where there is none."""
    way = _way_to(key, around.own, around.flows, ())
    return [document.name, *(around.flows[one].name for one in way[:-1]), document.name] if way and around.own else []


def _way_to(at: str, wanted: str, flows: Mapping[str, Inner], seen: tuple[str, ...]) -> tuple[str, ...]:
    """The keys of the flows by which one leads to another, these included; empty where it does not. A ring among others counts too."""
    if at == wanted:
        return (*seen, at)
    live = flows[at].live if at in flows and at not in seen else None
    for step in live.steps if live else ():
        if isinstance(step, ContinueIn) and step.flow:
            found = _way_to(step.flow, wanted, flows, (*seen, at))
            if found:
                return found
    return ()


def outer_flows(key: str, flows: Mapping[str, Inner]) -> dict[str, FlowDocument]:
    """What is live of the flows that continue in one, by their keys."""
    found = {}
    for other, one in flows.items():
        if one.live is not None and any(isinstance(step, ContinueIn) and step.flow == key for step in one.live.steps):
            found[other] = one.live
    return found


def broken_outside(document: FlowDocument, own: str, flows: Mapping[str, Inner]) -> Iterator[Finding]:
    """What putting a flow live would break in those that continue in it: ways back that they do not name."""
    ways = ways_of(document)
    for key, outer in outer_flows(own, flows).items():
        for step in outer.steps:
            if isinstance(step, ContinueIn) and step.flow == own:
                named = {way_named(one.name) for one in step.returns}
                for way, said in ways.items():
                    if way not in named:
                        words = f"{flows[key].name} continues in this flow and does not say what happens when it comes back “{said}”."
                        yield Finding("breaks_outer", words)
