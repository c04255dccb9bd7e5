"""Walks over the graph of a flow: what is reached, which ways go round, where a silent caller goes."""

from collections.abc import Callable, Iterable

from .document import FlowDocument, destination_of, exits, successors
from .steps import Announcement, BackTo, HoldLine, Junction, Label, LookUp, Menu, Notify, Ring, Step, Voicemail
from .values import END

SILENT_EXITS: dict[type, tuple[str, ...]] = {
    Announcement: ("next",),
    Menu: ("nothing",),
    Ring: ("no_answer", "busy", "unreachable", "nobody"),
    HoldLine: ("waited", "full", "nobody"),
    Voicemail: ("no_message",),
    Label: ("next",),
    Notify: ("next",),
    LookUp: ("found", "not_found", "failed"),
    BackTo: ("to",),
}
"""The exits by which a caller leaves who does nothing and whom nobody answers; all of a junction’s are."""


def reached(document: FlowDocument) -> set[str]:
    """The ids of all steps that some way from the start or the rescue leads to."""
    return reached_from(document, [one for one in (document.start, document.rescue) if one])


def reached_from(
    document: FlowDocument, starts: Iterable[str], follow: Callable[[Step], Iterable[str]] = successors
) -> set[str]:
    """The ids of all steps that some way from `starts` leads to, these included. `follow` gives where a step leads."""
    steps = {step.id: step for step in document.steps}
    found: set[str] = set()
    waiting = list(starts)
    while waiting:
        one = waiting.pop()
        if one in found or one not in steps:
            continue
        found.add(one)
        waiting += follow(steps[one])
    return found


def silent_successors(step: Step) -> list[str]:
    """Where a silent caller may come from a step."""
    found: list[str] = []
    for exit_ in exits(step):
        target = destination_of(step, exit_)
        silent = isinstance(step, Junction) or exit_.id in SILENT_EXITS.get(type(step), ())
        if silent and target not in (None, END, *found):
            found.append(str(target))
    return found


def rounds(document: FlowDocument, follow: Callable[[Step], Iterable[str]] = successors) -> list[tuple[str, ...]]:
    """The sets of steps from which a way leads back to themselves (strongly connected parts), by Tarjan's algorithm.

    Each is given in the order of the document; a single step counts only when it leads straight to itself.
    Source: R. Tarjan, Depth-first search and linear graph algorithms, 1972. Written without recursion.
    """
    steps = {step.id: step for step in document.steps}
    index: dict[str, int] = {}
    low: dict[str, int] = {}
    stack: list[str] = []
    found: list[tuple[str, ...]] = []
    for root in steps:
        if root in index:
            continue
        work = [(root, iter(list(follow(steps[root]))))]
        index[root] = low[root] = len(index)
        stack.append(root)
        while work:
            node, following = work[-1]
            for other in following:
                if other not in steps:
                    continue
                if other not in index:
                    index[other] = low[other] = len(index)
                    stack.append(other)
                    work.append((other, iter(list(follow(steps[other])))))
                    break
                if other in stack:
                    low[node] = min(low[node], index[other])
            else:
                work.pop()
                if work:
                    low[work[-1][0]] = min(low[work[-1][0]], low[node])
                if low[node] == index[node]:
                    part = set(stack[stack.index(node) :])
                    del stack[stack.index(node) :]
                    if len(part) > 1 or node in follow(steps[node]):
                        found.append(tuple(one for one in steps if one in part))
    return found


def arrivals(document: FlowDocument) -> dict[str, list[tuple[str, str]]]:
    """For each step the (step, exit) pairs that lead to it; the start has ("", "start") among them."""
    found: dict[str, list[tuple[str, str]]] = {step.id: [] for step in document.steps}
    if document.start:
        found[document.start].append(("", "start"))
    for step in document.steps:
        for exit_ in exits(step):
            if exit_.target in found and not exit_.hear_again:
                found[str(exit_.target)].append((step.id, exit_.id))
    return found
