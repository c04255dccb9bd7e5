"""The route map of a client: lead sources at the left, flows in the middle, fates at the right. Pure geometry.

Lines are as thick as the calls of the period, from a hair to a band; what is missing is a gap.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ..calls.fates import FATES

WIDTH = 1040.0
LABEL = 330.0
FLOW_X = 530.0
FLOW_WIDTH = 190.0
FATE_X = 880.0
ROW = 44.0
WIDEST_ROW = 62.0
FILLS = 540.0
"""A row is higher where there are few, so that the drawing fills about so many pixels."""
THICKEST = 34.0
TOP = 8.0


@dataclass(frozen=True, slots=True)
class Lane:
    """A source with one of its numbers (or none), and where that leads; ids are 0 where something is missing."""

    source_id: int
    number_id: int
    flow_id: int


@dataclass(frozen=True, slots=True)
class Band:
    """A line of calls as an SVG path to be stroked, with its width in pixels, what it carries, and its fate if any."""

    path: str
    width: float
    calls: int
    fate: str = ""
    lane: Lane | None = None
    flow_id: int = 0


@dataclass(frozen=True, slots=True)
class FlowBox:
    """A flow: its top left corner and height."""

    flow_id: int
    x: float
    y: float
    height: float
    calls: int


@dataclass(frozen=True, slots=True)
class FateSpot:
    """A fate: where its mark stands, and its calls."""

    fate: str
    x: float
    y: float
    calls: int


@dataclass(slots=True)
class RouteMap:
    """Everything drawn; `rows` gives the vertical middle of each lane, in the order given."""

    height: float = 0
    rows: list[tuple[Lane, float, int]] = field(default_factory=list)
    bands: list[Band] = field(default_factory=list)
    boxes: list[FlowBox] = field(default_factory=list)
    fates: list[FateSpot] = field(default_factory=list)


def draw(lanes: Sequence[Lane], routes: Sequence[tuple[int, int, int, str, int]]) -> RouteMap:
    """Lays out lanes (in their order) and the calls of a period as (source, number, flow, fate, count)."""
    by_lane: dict[tuple[int, int], int] = {}
    by_flow: dict[int, dict[str, int]] = {}
    for source, number, flow, fate, count in routes:
        by_lane[source, number] = by_lane.get((source, number), 0) + count
        fates = by_flow.setdefault(flow, {})
        fates[fate] = fates.get(fate, 0) + count
    most = max([*by_lane.values(), 1])
    scale = THICKEST / most
    result = RouteMap()
    y = TOP
    row = min(WIDEST_ROW, max(ROW, FILLS / max(len(lanes), 1)))
    for lane in lanes:
        calls = by_lane.get((lane.source_id, lane.number_id), 0)
        height = max(row, calls * scale + 12)
        result.rows.append((lane, y + height / 2, calls))
        y += height
    flows = list(dict.fromkeys(lane.flow_id for lane in lanes if lane.number_id))
    flows += [one for one in by_flow if one not in flows]
    _boxes(result, flows, by_flow, y)
    _left(result, scale)
    _right(result, by_flow, scale, y)
    result.height = (
        max([y, *(box.y + box.height for box in result.boxes), *(spot.y + 24 for spot in result.fates)]) + TOP
    )
    return result


def _boxes(result: RouteMap, flows: Sequence[int], by_flow: Mapping[int, Mapping[str, int]], height: float) -> None:
    """Each flow stands at the middle of the lanes that lead to it, pushed down where it would cover another."""
    wanted = []
    for flow in flows:
        places = [y for lane, y, _ in result.rows if lane.flow_id == flow and lane.number_id]
        middle = sum(places) / len(places) if places else height - ROW / 2
        wanted.append((middle, flow))
    free = TOP
    for middle, flow in sorted(wanted):
        calls = sum(by_flow.get(flow, {}).values())
        arriving = sum(count for lane, _, count in result.rows if lane.flow_id == flow)
        tall = max(52.0, THICKEST * max(calls, arriving) / max([*(c for _, _, c in result.rows), 1]) + 16)
        tall = min(tall, 120.0)
        y = max(free, middle - tall / 2)
        result.boxes.append(FlowBox(flow, FLOW_X, y, tall, calls))
        free = y + tall + 18


def _left(result: RouteMap, scale: float) -> None:
    """Bands from the lanes into the boxes, stacked at the box in the order of the lanes."""
    for box in result.boxes:
        lanes = [row for row in result.rows if row[0].flow_id == box.flow_id and (row[0].number_id or row[2])]
        widths = [max(1.5, calls * scale) for _, _, calls in lanes]
        shrink = min(1.0, (box.height - 8) / max(sum(widths), 1))
        at = box.y + box.height / 2 - sum(widths) * shrink / 2
        for (lane, y, calls), width in zip(lanes, widths, strict=True):
            end = at + width * shrink / 2
            at += width * shrink
            result.bands.append(
                Band(_curve(LABEL, y, box.x, end), round(width, 1), calls, lane=lane, flow_id=box.flow_id)
            )


def _right(result: RouteMap, by_flow: Mapping[int, Mapping[str, int]], scale: float, height: float) -> None:
    """Bands from the boxes to the fates, stacked at both ends."""
    totals = {fate: sum(fates.get(fate, 0) for fates in by_flow.values()) for fate in FATES}
    shown = [fate for fate in FATES if totals[fate]]
    if not shown:
        return
    gap = max(56.0, min(110.0, height / len(shown)))
    spots = {fate: TOP + gap * (index + 0.5) for index, fate in enumerate(shown)}
    result.fates += [FateSpot(fate, FATE_X, spots[fate], totals[fate]) for fate in shown]
    stacked = {fate: spots[fate] - min(THICKEST * 1.4, totals[fate] * scale) / 2 for fate in shown}
    for box in result.boxes:
        fates = by_flow.get(box.flow_id, {})
        widths = {fate: max(1.5, fates[fate] * scale) for fate in shown if fates.get(fate)}
        shrink = min(1.0, (box.height - 8) / max(sum(widths.values()), 1))
        at = box.y + box.height / 2 - sum(widths.values()) * shrink / 2
        for fate, width in widths.items():
            start = at + width * shrink / 2
            at += width * shrink
            whole = max(1.0, totals[fate] * scale)
            end = stacked[fate] + width * min(1.0, THICKEST * 1.4 / whole) / 2
            stacked[fate] += width * min(1.0, THICKEST * 1.4 / whole)
            path = _curve(box.x + FLOW_WIDTH, start, FATE_X - 16, end)
            result.bands.append(
                Band(path, round(min(width, THICKEST * 1.4), 1), fates[fate], fate=fate, flow_id=box.flow_id)
            )


def _curve(x1: float, y1: float, x2: float, y2: float) -> str:
    mid = (x1 + x2) / 2
    return f"M{x1:.1f} {y1:.1f}C{mid:.1f} {y1:.1f} {mid:.1f} {y2:.1f} {x2:.1f} {y2:.1f}"
