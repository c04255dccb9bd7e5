"""What is usual in the trade and otherwise in a flow: advice, never more. Each rule is common practice, no source."""

from collections import deque
from collections.abc import Iterator

from ..flows.model.document import FlowDocument
from ..flows.model.steps import Announcement, AnyStep, BackTo, HoldLine, Menu, Ring
from ..flows.model.values import END, SAME
from ..flows.shown.words import speaking_seconds
from .finding import Finding

MOST_CHOICES, MOST_DEEP = 5, 3
LONGEST_GREETING = 20.0
"""Seconds that callers listen to before they hear their first choice."""
SHORTEST_RING, LONGEST_RING = 10, 60
SHORTEST_WAIT = 3
LONGEST_HOLD = 15 * 60
SAID = "common practice"


def findings(document: FlowDocument) -> Iterator[Finding]:
    """What is unusual: long, deep and blind menus, long greetings, waits that are too short or too long."""
    depths = _depths(document)
    for step in document.steps:
        if isinstance(step, Menu):
            yield from _of_menu(document, step, depths.get(step.id, 0))
        elif isinstance(step, Ring):
            yield from _of_ring(step)
        elif isinstance(step, HoldLine) and step.longest_wait > LONGEST_HOLD:
            words = (
                f"{step.begins} lets callers wait {step.longest_wait // 60} minutes: most hang up long before ({SAID})."
            )
            yield Finding("long_hold", words, step.id, weight="advises")
    yield from _greeting(document)


def _of_menu(document: FlowDocument, menu: Menu, depth: int) -> Iterator[Finding]:
    choices = [one for one in menu.branches if not (one.elsewhere or one.hear_again or _is_back(document, one.to))]
    if len(choices) > MOST_CHOICES:
        words = f"{menu.begins} offers {len(choices)} choices: more than {MOST_CHOICES} lose callers ({SAID})."
        yield Finding("menu_too_long", words, menu.id, weight="advises")
    if depth > MOST_DEEP:
        words = f"{menu.begins} is the {_nth(depth)} menu in a row: more than {MOST_DEEP} lose callers ({SAID})."
        yield Finding("menu_too_deep", words, menu.id, weight="advises")
    if depth > 1 and choices and not any(_goes_back(document, menu, one) for one in menu.branches):
        words = f"{menu.begins} has no way back: who pressed the wrong key before it is caught there ({SAID})."
        yield Finding("no_way_back", words, menu.id, weight="advises")
    if menu.wait is not None and menu.wait < SHORTEST_WAIT:
        words = f"{menu.begins} waits {menu.wait} s for a key: callers need some seconds to choose ({SAID})."
        yield Finding("short_wait", words, menu.id, weight="advises")


def _is_back(document: FlowDocument, to: str | None) -> bool:
    return isinstance(document.by_id.get(to or ""), BackTo)


def _goes_back(document: FlowDocument, menu: Menu, branch: object) -> bool:
    """Whether a key leads to where the caller came from: a way back, or a step from which this menu is come to."""
    to = getattr(branch, "to", None)
    return _is_back(document, to) or (to in document.by_id and menu.id in _from(document, to))


def _from(document: FlowDocument, step_id: str) -> set[str]:
    """The steps that keys and plain ways lead to from a step, without going on in a ring."""
    seen, todo = set[str](), [step_id]
    while todo:
        here = document.by_id.get(todo.pop())
        for to in _led(here) if here is not None else ():
            if to not in seen:
                seen.add(to)
                todo.append(to)
    return seen


def _led(step: AnyStep) -> list[str]:
    return (
        []
        if isinstance(step, Ring | HoldLine)
        else [one.target for one in step.exits if one.target not in (None, END, SAME)]
    )


def _depths(document: FlowDocument) -> dict[str, int]:
    """For each menu the fewest menus that callers come through, itself included."""
    if document.start is None:
        return {}
    found: dict[str, int] = {}
    todo = deque([(document.start, 0)])
    while todo:
        step_id, depth = todo.popleft()
        step = document.by_id.get(step_id)
        if step is None:
            continue
        depth += isinstance(step, Menu)
        if found.get(step_id, depth + 1) <= depth:
            continue
        found[step_id] = depth
        todo.extend((to, depth) for to in _led(step))
    return found


def _nth(number: int) -> str:
    return {4: "fourth", 5: "fifth", 6: "sixth"}.get(number, f"{number}th")


def _of_ring(step: Ring) -> Iterator[Finding]:
    seconds = [int(value) for one in step.to if (value := getattr(one, "seconds", None))]
    if seconds and max(seconds) > LONGEST_RING:
        words = f"{step.begins} rings a phone for {max(seconds)} s: callers rarely wait longer than a minute ({SAID})."
        yield Finding("long_ring", words, step.id, weight="advises")
    if seconds and min(seconds) < SHORTEST_RING:
        words = (
            f"{step.begins} rings a phone for {min(seconds)} s: that is one or two rings, too few to reach it ({SAID})."
        )
        yield Finding("short_ring", words, step.id, weight="advises")


def _greeting(document: FlowDocument) -> Iterator[Finding]:
    """What is said from the first step up to the first that is none of those that only say something."""
    seconds, first, seen = 0.0, None, set[str]()
    here = document.by_id.get(document.start or "")
    while isinstance(here, Announcement) and here.id not in seen:
        seen.add(here.id)
        first = first or here
        seconds += speaking_seconds(here.prompt.say, document.voice.rate)
        here = document.by_id.get(here.next or "")
    if first is not None and isinstance(here, Menu) and seconds > LONGEST_GREETING:
        words = f"Callers listen for {seconds:.0f} s before they hear their first choice: more than {LONGEST_GREETING:.0f} lose some ({SAID})."
        yield Finding("long_greeting", words, first.id, weight="advises")
