"""The diagram as shapes in millimetres: one list for the screen, the page and the vector file.

Symbols follow IEC 60617 in their general forms (from memory): a fuse is a box with its conductor
through it, a switch a hinged stroke, an inverter a box split between direct and alternating current.
"""

from dataclasses import dataclass
from typing import Literal

from lodestaff.topology import Topology
from lodestaff.wiring.layout import MM, TEXT_MM, Box, Layout, Point, label_lines, lay_out, line_mm

Style = Literal["conductor", "symbol", "thin", "fill", "label", "small", "board"]


@dataclass(frozen=True)
class Shape:
    """A line through points, a closed polygon, a circle (centre and a rim point), or a text at a point."""

    kind: Literal["line", "polygon", "circle", "text"]
    points: tuple[Point, ...]
    style: Style
    owner: str
    text: str = ""
    align: Literal["left", "middle"] = "left"


@dataclass(frozen=True)
class Drawing:
    """All shapes, and where each part stands (for the hand that clicks it)."""

    shapes: tuple[Shape, ...]
    boxes: dict[str, tuple[MM, MM, MM, MM]]
    width: MM
    height: MM
    text_mm: MM = TEXT_MM


def draw(topology: Topology, positions: dict[str, str], text_mm: MM = TEXT_MM) -> Drawing:
    """Draw a topology with its switches in the given positions, labels of a text height."""
    layout = lay_out(topology, text_mm)
    shapes: list[Shape] = []
    for conductor in topology.conductors:
        shapes.append(Shape("line", layout.routes[conductor.id], "conductor", conductor.id))
    for box in layout.boxes.values():
        shapes += _symbol(box, positions.get(box.part.id, ""))
        shapes += _labels(box, positions.get(box.part.id, ""), line_mm(text_mm))
    for part in topology.parts.values():
        if part.id not in layout.boxes:
            shapes += _inside_unit(part.id, part.name, positions.get(part.id, ""), layout, topology)
    boxes = {name: (box.x, box.y, box.w, box.h) for name, box in layout.boxes.items()}
    return Drawing(tuple(shapes), boxes, layout.width, layout.height, text_mm)


def _rect(x: MM, y: MM, w: MM, h: MM) -> tuple[Point, ...]:
    return ((x, y), (x + w, y), (x + w, y + h), (x, y + h))


def _switch(x: MM, y: MM, w: MM, closed: bool, owner: str) -> list[Shape]:
    """A hinged stroke between two stubs, lifted when open."""
    hinge, stop = x + w * 0.25, x + w * 0.75
    lift = 0.0 if closed else -2.6
    return [
        Shape("line", ((x, y), (hinge, y)), "symbol", owner),
        Shape("line", ((hinge, y), (stop, y + lift)), "symbol", owner),
        Shape("line", ((stop, y), (x + w, y)), "symbol", owner),
        Shape("circle", ((hinge, y), (hinge + 0.55, y)), "fill", owner),
        Shape("circle", ((stop, y), (stop + 0.4, y)), "symbol", owner),
    ]


def _symbol(box: Box, position: str) -> list[Shape]:
    part, x, y, w, h, m = box.part, box.x, box.y, box.w, box.h, box.middle
    frame = Shape("polygon", _rect(x, y, w, h), "board", part.id)
    closed = position == "closed"
    match part.kind:
        case "supply":
            return [
                Shape("circle", ((x + w / 2, m), (x + w, m)), "symbol", part.id),
                Shape("text", ((x + w / 2, m + 1.5),), "label", part.id, "∼", "middle"),
            ]
        case "fuse":
            return [
                Shape("polygon", _rect(x + 2, m - 1.6, w - 4, 3.2), "board", part.id),
                Shape("line", ((x, m), (x + w, m)), "symbol", part.id),
            ]
        case "meter":
            return [frame, Shape("text", ((x + w / 2, m + 1.3),), "small", part.id, "kWh", "middle")]
        case "isolator":
            return [
                *_switch(x, m, w, closed, part.id),
                Shape("line", ((x + w * 0.75, m - 1.2), (x + w * 0.75, m + 1.2)), "symbol", part.id),
            ]
        case "breaker":
            cross = (
                ((x + w * 0.75 - 0.8, m - 0.8), (x + w * 0.75 + 0.8, m + 0.8)),
                ((x + w * 0.75 - 0.8, m + 0.8), (x + w * 0.75 + 0.8, m - 0.8)),
            )
            return _switch(x, m, w, closed, part.id) + [Shape("line", line, "symbol", part.id) for line in cross]
        case "rcd":
            ring = Shape("circle", ((x + w * 0.88, m), (x + w * 0.88 + 1.2, m)), "symbol", part.id)
            return [
                *_switch(x, m, w, closed, part.id),
                ring,
                Shape("line", ((x + w * 0.88, m - 1.2), (x + w * 0.88, m - 3), (x + w * 0.5, m - 3)), "thin", part.id),
            ]
        case "block":
            return [Shape("polygon", _rect(x, y, w, h), "fill", part.id)]
        case "unit":
            return [
                frame, Shape("line", ((x, y + h), (x + w, y)), "thin", part.id),
                Shape("text", ((x + w * 0.12, y + h * 0.3),), "label", part.id, "="), Shape("text", ((x + w * 0.72, y + h * 0.86),), "label", part.id, "∼"),
            ]  # fmt: skip
        case "bypass":
            return _double_throw(box, position)
        case "battery":
            return [
                frame,
                *(
                    Shape("line", ((x + a, m - b), (x + a, m + b)), "symbol", part.id)
                    for a, b in ((4.5, 3), (6, 1.5), (7.5, 3), (9, 1.5))
                ),
            ]
        case "array":
            return [frame, Shape("line", ((x, y), (x + w / 2, y + h * 0.45), (x + w, y)), "thin", part.id)]
        case "circuit":
            return [Shape("polygon", ((x, m - 1.5), (x + w, m), (x, m + 1.5)), "fill", part.id)]
        case _:
            return [frame]


def _double_throw(box: Box, position: str) -> list[Shape]:
    part, x, y, w, h, m = box.part, box.x, box.y, box.w, box.h, box.middle
    tops = {"unit": y + h / 3, "grid": y + 2 * h / 3, "off": m}
    hinge = (x + w * 0.72, m)
    tip = (x + w * 0.28, tops.get(position, m))
    return [
        Shape("line", ((x, tops["unit"]), (x + w * 0.28, tops["unit"])), "symbol", part.id),
        Shape("line", ((x, tops["grid"]), (x + w * 0.28, tops["grid"])), "symbol", part.id),
        Shape("line", (hinge, tip), "symbol", part.id),
        Shape("line", (hinge, (x + w, m)), "symbol", part.id),
        Shape("circle", (hinge, (hinge[0] + 0.55, m)), "fill", part.id),
    ]


def _labels(box: Box, position: str, line: MM) -> list[Shape]:
    part = box.part
    if part.kind == "circuit":
        return [Shape("text", ((box.x + box.w + 1.2, box.middle + 1.1),), "small", part.id, part.name)]
    if part.kind == "block":
        return []
    middle = box.x + box.w / 2
    if part.kind == "board":
        return [Shape("text", ((middle, box.y - 1.6),), "small", part.id, part.name, "middle")]
    lines = label_lines(part)
    if position not in ("", "closed", "on", "unit"):
        lines = [*lines, position.upper()]
    top = box.y + box.h + line
    if part.kind in ("fuse", "isolator") and part.decided_by.startswith("site/"):
        top = box.y - line * (len(lines) - 1) - 1.2  # every other label of the supply stands above its symbol
    return [
        Shape("text", ((middle, top + line * index),), "small", part.id, words, "middle")
        for index, words in enumerate(lines)
    ]


def _inside_unit(part_id: str, name: str, position: str, layout: Layout, topology: Topology) -> list[Shape]:
    """A part that lives in a unit's case (its bond relay): a small switch to earth under the unit's middle."""
    unit = next((unit.unit for unit in topology.units if unit.bond_relay == part_id), None)
    if unit is None:
        return []
    box = layout.boxes[unit]
    x, y = box.x + box.w * 0.5, box.y + box.h * 0.56
    lift = 0.0 if position == "closed" else 1.5
    return [
        Shape("line", ((x, y), (x + lift, y + 2.6)), "symbol", part_id),
        Shape("line", ((x, y + 3), (x, y + 4.2)), "symbol", part_id),
        *(Shape("line", ((x - half, y + 4.2 + step), (x + half, y + 4.2 + step)), "symbol", part_id)
          for half, step in ((1.6, 0), (1.0, 0.7), (0.4, 1.4))),
        Shape("text", ((x + 2.2, y + 4.6),), "small", part_id, "N-E"),
    ]  # fmt: skip
