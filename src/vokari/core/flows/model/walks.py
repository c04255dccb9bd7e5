"""Walks over the graph of a flow: what is reached, which ways go round, where a silent caller goes."""

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping
from typing import TypeVar

from .document import FlowDocument
from .exits import Named, NamedKind
from .steps import AnyStep

Node = TypeVar("Node", bound=Hashable)


def onward(step: AnyStep) -> Iterable[str]:
    """Where any caller may come from a step."""
    return step.successors


def silently(step: AnyStep) -> Iterable[str]:
    """Where a silent caller may come from a step."""
    return step.silent_successors


def reached(document: FlowDocument) -> set[str]:
    """The ids of all steps that some way from the start or the rescue leads to."""
    return reached_from(document.by_id, [one for one in (document.start, document.rescue) if one])


def reached_from(
    steps: Mapping[str, AnyStep], starts: Iterable[str], follow: Callable[[AnyStep], Iterable[str]] = onward
) -> set[str]:
    """The ids of all steps, of some by id, that some way from `starts` leads to, these included. `follow` gives where a step leads."""
    found: set[str] = set()
    waiting = list(starts)
    while waiting:
        one = waiting.pop()
        if one in found or one not in steps:
            continue
        found.add(one)
        waiting += follow(steps[one])
    return found


def rounds(document: FlowDocument, follow: Callable[[AnyStep], Iterable[str]] = onward) -> list[tuple[str, ...]]:
    """The sets of steps from which a way leads back to themselves, each in the order of the document."""
    steps = document.by_id
    return parts(steps, lambda one: [other for other in follow(steps[one]) if other in steps])


def parts(nodes: Iterable[Node], follow: Callable[[Node], Iterable[Node]]) -> list[tuple[Node, ...]]:
    """The sets of nodes from which a way leads back to themselves (strongly connected parts), by Tarjan's algorithm.

    Each is given in the order of the nodes; a single one counts only when it leads straight to itself.
    Source: R. Tarjan, Depth-first search and linear graph algorithms, 1972. Written without recursion.
    """
    order = {node: place for place, node in enumerate(nodes)}
    index: dict[Node, int] = {}
    low: dict[Node, int] = {}
    stack: list[Node] = []
    on_stack: set[Node] = set()
    found: list[tuple[Node, ...]] = []
    for root in order:
        if root in index:
            continue
        work = [(root, iter(follow(root)))]
        index[root] = low[root] = len(index)
        stack.append(root)
        on_stack.add(root)
        while work:
            node, following = work[-1]
            for other in following:
                if other not in index:
                    index[other] = low[other] = len(index)
                    stack.append(other)
                    on_stack.add(other)
                    work.append((other, iter(follow(other))))
                    break
                if other in on_stack:
                    low[node] = min(low[node], index[other])
            else:
                work.pop()
                if work:
                    low[work[-1][0]] = min(low[work[-1][0]], low[node])
                if low[node] == index[node]:
                    part: list[Node] = []
                    while not part or part[-1] != node:
                        part.append(stack.pop())
                    on_stack -= set(part)
                    if len(part) > 1 or node in follow(node):
                        found.append(tuple(sorted(part, key=order.__getitem__)))
    return found


def names_in(document: FlowDocument, *kinds: NamedKind) -> Iterator[tuple[AnyStep, Named]]:
    """Every place in a flow that names something of some kinds, with the step it is in."""
    for step in document.steps:
        for named in step.names():
            if named.kind in kinds:
                yield step, named
