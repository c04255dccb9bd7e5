"""The map of a flow: the same outline drawn left to right by the program. Pure geometry in pixels, no markup.

A branch is a line, an exit a small sign on it, an end the shape of its fate; an exit to a step that is drawn
elsewhere is a flag that names it, and one that leads nowhere is a broken line.
"""

from dataclasses import dataclass, field
from typing import Literal, NamedTuple, assert_never

from ..model.document import FlowDocument
from ..model.exits import Exit
from ..model.steps import (
    Announcement,
    AnyStep,
    BackTo,
    ComeBack,
    ContinueIn,
    HangUp,
    HoldLine,
    Junction,
    KeypadEntry,
    Label,
    LookUp,
    Menu,
    Notify,
    Ring,
    Voicemail,
)
from ..model.values import END
from .outline import Row, outline
from .words import exit_name, target_words

LANE = 34
BOX = 26
BEND = 20
GAP = 12
PLATE = 22
MARGIN = 12
CHAR = 6.1
SIGN_CHAR = 5.5
LONGEST = 24

Shape = Literal["answered", "message_left", "served", "turned_away", "lost", "end"]


class Box(NamedTuple):
    """A step: its top left corner, width, the outline number and the name as it fits."""

    step: str
    number: int
    x: float
    y: float
    width: float
    label: str
    title: str
    kind: str


class Wire(NamedTuple):
    """A line from one step by one exit, as an SVG path; broken when it leads nowhere."""

    step: str
    exit: str
    path: str
    broken: bool = False


class Plate(NamedTuple):
    """The keys of a branch, standing on its line; centre and width."""

    x: float
    y: float
    width: float
    keys: str


class Sign(NamedTuple):
    """A few words on or at the end of a line; `flag` names the step that the words lead to."""

    x: float
    y: float
    words: str
    kind: Literal["exit", "flag", "nowhere", "entry"]
    target: str = ""
    width: float = 0


class EndMark(NamedTuple):
    """Where a way ends, in the shape of its fate; centre."""

    x: float
    y: float
    shape: Shape
    step: str


@dataclass(slots=True)
class Drawing:
    """All that is drawn, and the size of the whole."""

    width: float = 0
    height: float = 0
    boxes: list[Box] = field(default_factory=list)
    wires: list[Wire] = field(default_factory=list)
    plates: list[Plate] = field(default_factory=list)
    signs: list[Sign] = field(default_factory=list)
    ends: list[EndMark] = field(default_factory=list)


@dataclass(slots=True)
class _Node:
    """A row of the outline on its way into the drawing; `mark` is an end that hangs on a step, `right` where its box ends, `lead`
    how far its own sign keeps it from the bend, `widest` the most of that among its children."""

    row: Row | None
    parent: "_Node | None" = None
    mark: Shape | None = None
    children: list["_Node"] = field(default_factory=list)
    lanes: int = 1
    top: int = 0
    x: float = 0
    right: float = 0
    lane: float = 0
    y: float = 0
    lead: float = GAP
    widest: float = 0


def draw(document: FlowDocument) -> Drawing:
    """Draws the outline of a document."""
    order = _tree(document)
    places = {node.row.step.id: node.row.number for node in order if node.row and node.row.step}
    for node in reversed(order):
        node.lanes = max(1, sum(child.lanes for child in node.children))
    free = 0
    for node in order:
        if node.parent is None:
            node.top, free = free, free + node.lanes
        below = node.top
        for child in node.children:
            child.top, below = below, below + child.lanes
    for node in reversed(order):
        node.lane = _lane(node)
        node.y = MARGIN + node.lane * LANE + LANE / 2
        node.lead = _lead(node)
        if node.parent:
            node.parent.widest = max(node.parent.widest, node.lead)
    drawing = Drawing(height=MARGIN * 2 + max(free, 1) * LANE)
    for node in order:
        _place(node, drawing, document, places)
    drawing.width += MARGIN
    return drawing


def _tree(document: FlowDocument) -> list[_Node]:
    """The nodes in outline order, parents before children."""
    nodes: dict[str, _Node] = {}
    order: list[_Node] = []
    for row in outline(document):
        parent = nodes.get(row.parent.id) if row.parent else None
        node = _Node(row, parent)
        if parent:
            parent.children.append(node)
        order.append(node)
        if row.step:
            nodes[row.step.id] = node
            mark = _fate_mark(row.step)
            if mark:
                end = _Node(None, node, mark)
                node.children.append(end)
                order.append(end)
    return order


def _fate_mark(step: AnyStep) -> Shape | None:
    """The fate that a caller may get at a step."""
    match step:
        case Ring() | HoldLine():
            return "answered"
        case Voicemail():
            return "message_left"
        case HangUp():
            return "turned_away" if step.refusal else "end"
        case Announcement():
            ends = step.counts_as != "nothing" and step.next in (None, END)
            return step.counts_as if ends and step.counts_as != "nothing" else None
        case Menu() | KeypadEntry() | Junction() | Label() | Notify() | LookUp() | BackTo() | ContinueIn() | ComeBack():
            return None
    assert_never(step)


def _lane(node: _Node) -> float:
    """A menu or junction stands in the middle of its branches; all else goes straight on to what follows."""
    if not node.children:
        return node.top
    if node.row and isinstance(node.row.step, Menu | Junction):
        return (node.children[0].lane + node.children[-1].lane) / 2
    return node.children[0].lane


def _width(name: str) -> float:
    return max(44, len(name) * CHAR + 42)


def _fit(text: str, longest: int = LONGEST) -> str:
    return text if len(text) <= longest else text[: longest - 1].rstrip() + "…"


def _lead(node: _Node) -> float:
    """How far a row's own sign or plate keeps it from the bend."""
    if node.row is None or node.row.exit is None or node.parent is None:
        return GAP
    if node.row.parent and node.row.parent.linear:
        return GAP
    if node.row.exit.keys:
        return PLATE / 2 + len(node.row.exit.keys) * 7 + GAP
    return len(_exit_words(node.row.exit)) * SIGN_CHAR + GAP


def _exit_words(exit_: Exit) -> str:
    return _fit(exit_name(exit_), 18)


def _place(node: _Node, drawing: Drawing, document: FlowDocument, places: dict[str, int]) -> None:
    parent = node.parent
    if parent is None:
        node.x = MARGIN + 8
    else:
        straight = len(parent.children) == 1 and node.lane == parent.lane
        node.x = parent.right + (GAP if straight and parent.widest == GAP else BEND + parent.widest)
        _wire(node, parent, drawing)
    if node.row is None:
        _end(node, drawing)
    elif node.row.step:
        _box(node, node.row.step, drawing)
        if isinstance(node.row.step, BackTo):
            _back_flag(node, node.row.step, drawing, document, places)
    else:
        _leaf(node, node.row, drawing, places)


def _box(node: _Node, step: AnyStep, drawing: Drawing) -> None:
    name = step.called
    label = _fit(name)
    width = _width(label)
    number = node.row.number if node.row else 0
    node.right = node.x + width
    drawing.boxes.append(Box(step.id, number, node.x, node.y - BOX / 2, width, label, name, step.kind))
    drawing.width = max(drawing.width, node.right)


def _wire(node: _Node, parent: _Node, drawing: Drawing) -> None:
    row, right = node.row, parent.right
    here = parent.row.step if parent.row else None
    exit_id = row.exit.id if row and row.exit else "fate"
    broken = bool(row and row.exit and not row.step and not row.leads_to and row.exit.is_open)
    end = node.x - (5 if row is None else 0)
    if abs(node.y - parent.y) < 0.5:
        path = f"M{right:.1f} {node.y:.1f}H{end:.1f}"
    else:
        mid = right + BEND / 2
        bend = right + BEND
        path = f"M{right:.1f} {parent.y:.1f}C{mid:.1f} {parent.y:.1f} {mid:.1f} {node.y:.1f} {bend:.1f} {node.y:.1f}H{end:.1f}"
    drawing.wires.append(Wire(here.id if here else "", exit_id, path, broken))
    if row is None or row.exit is None or (here and here.linear):
        return
    if row.exit.keys:
        width = max(PLATE, len(row.exit.keys) * 8 + 10)
        drawing.plates.append(Plate(right + BEND + width / 2 - 4, node.y, width, row.exit.keys))
    else:
        drawing.signs.append(Sign(right + BEND, node.y - 5, _exit_words(row.exit), "exit"))


def _end(node: _Node, drawing: Drawing) -> None:
    step = node.parent.row.step if node.parent and node.parent.row else None
    if node.mark and step:
        drawing.ends.append(EndMark(node.x + 3, node.y, node.mark, step.id))
        drawing.width = max(drawing.width, node.x + 12)


def _leaf(node: _Node, row: Row, drawing: Drawing, places: dict[str, int]) -> None:
    """An exit whose step is drawn elsewhere, or that ends, or leads nowhere."""
    exit_ = row.exit
    if exit_ is None:
        return
    if exit_.hear_again:
        words, kind, target = "hear again", "flag", row.parent.id if row.parent else ""
    elif row.leads_to:
        words, kind, target = row.leads_to.called, "flag", row.leads_to.id
    elif exit_.target == END:
        drawing.ends.append(EndMark(node.x + 3, node.y, "end", row.parent.id if row.parent else ""))
        drawing.width = max(drawing.width, node.x + 12)
        return
    else:
        words, kind, target = target_words(exit_.target, None), "nowhere", ""
        drawing.ends.append(EndMark(node.x + 4, node.y, "lost", row.parent.id if row.parent else ""))
        node.x += 16
    _sign(node.x, node.y, words, kind, target, drawing, places)


def _back_flag(node: _Node, step: BackTo, drawing: Drawing, document: FlowDocument, places: dict[str, int]) -> None:
    target = document.step(step.to) if step.to else None
    if target is None:
        drawing.ends.append(EndMark(node.right + 10, node.y, "lost", step.id))
        drawing.width = max(drawing.width, node.right + 20)
        return
    _sign(node.right + 6, node.y, target.called, "flag", target.id, drawing, places)


def _sign(x: float, y: float, words: str, kind: str, target: str, drawing: Drawing, places: dict[str, int]) -> None:
    number = places.get(target, 0)
    text = _fit(words, 22)
    if kind == "flag" and words != "hear again" and number:
        text = f"{number} {text}"
    width = len(text) * SIGN_CHAR + 18
    drawing.signs.append(Sign(x, y, text, "flag" if kind == "flag" else "nowhere", target, width))
    drawing.width = max(drawing.width, x + width)
