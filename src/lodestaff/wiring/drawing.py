"""The diagram as shapes in millimetres: one list for the screen, the page and the vector file."""

from dataclasses import dataclass

from lodestaff.topology import Conductor, Topology
from lodestaff.wiring.layout import CHARACTER, TEXT_MM, Box, Layout, label_lines, lay_out, line_mm
from lodestaff.wiring.shapes import MM, Shape
from lodestaff.wiring.spread import AS_IT_IS, Spread
from lodestaff.wiring.symbols import symbol

PLAIN_PORTS = ("line", "load", "in", "out", "ac", "dc")  # not worth a word


@dataclass(frozen=True)
class Drawing:
    """All shapes, and where each part stands (for the hand that clicks it)."""

    shapes: tuple[Shape, ...]
    boxes: dict[str, tuple[MM, MM, MM, MM]]
    width: MM
    height: MM
    text_mm: MM = TEXT_MM
    channels: int = 0


def draw(
    topology: Topology,
    positions: dict[str, str],
    text_mm: MM = TEXT_MM,
    terminals: bool = False,
    spread: Spread = AS_IT_IS,
) -> Drawing:
    """Draw a topology with its switches in the given positions, labels of a text height, drawn apart.

    With `terminals` each conductor has its port and cores written at the end that it feeds.
    """
    longest = (
        max((len(terminal_words(conductor)) for conductor in topology.conductors), default=0)
        if terminals
        else 0
    )
    layout = lay_out(topology, text_mm, longest * CHARACTER * text_mm, spread)
    shapes: list[Shape] = []
    for conductor in topology.conductors:
        shapes.append(Shape("line", layout.routes[conductor.id], "conductor", conductor.id))
    for box in layout.boxes.values():
        shapes += symbol(box, positions.get(box.part.id, ""), topology.symbols)
        shapes += _labels(box, positions.get(box.part.id, ""), line_mm(text_mm))
    for part in topology.parts.values():
        if part.id not in layout.boxes:
            shapes += _inside_unit(part.id, part.name, positions.get(part.id, ""), layout, topology)
    if terminals:
        for conductor in topology.conductors:
            x, y = layout.routes[conductor.id][-1]
            shapes.append(
                Shape(
                    "text",
                    ((x - 0.8, y - 0.9),),
                    style="small",
                    owner=conductor.id,
                    text=terminal_words(conductor),
                    align="right",
                )
            )
    boxes = {name: (box.x, box.y, box.w, box.h) for name, box in layout.boxes.items()}
    written = max((y for shape in shapes if shape.kind == "text" for _, y in shape.points), default=0.0)
    height = max(layout.height, written + text_mm)
    return Drawing(tuple(shapes), boxes, layout.width, height, text_mm=text_mm, channels=layout.channels)


def terminal_words(conductor: Conductor) -> str:
    """What stands at the terminal that a conductor feeds: the port where it says something, and the cores."""
    port = conductor.b[1]
    return conductor.name if port in PLAIN_PORTS else f"{port}: {conductor.name}"


def _labels(box: Box, position: str, line: MM) -> list[Shape]:
    part = box.part
    if part.kind == "circuit":
        return [Shape("text", ((box.x + box.w + 1.2, box.middle + 1.1),), "small", part.id, part.name)]
    if part.kind == "block":
        return []
    middle = box.x + box.w / 2
    if part.kind == "board":
        name = Shape(
            "text", ((middle, box.y - 1.6),), style="small", owner=part.id, text=part.name, align="middle"
        )
        below = Shape(
            "text",
            ((middle, box.y + box.h + line),),
            style="small",
            owner=part.id,
            text=part.rating,
            align="middle",
        )
        return [name, below] if part.rating else [name]
    lines = label_lines(part)
    if position and position != part.positions[0]:
        lines = [*lines, position.upper()]
    top = box.y + box.h + line
    if part.kind in ("fuse", "isolator") and part.decided_by.startswith("site/"):
        top = box.y - line * (len(lines) - 1) - 1.2  # every other label of the supply stands above its symbol
    return [
        Shape(
            "text", ((middle, top + line * index),), style="small", owner=part.id, text=words, align="middle"
        )
        for index, words in enumerate(lines)
    ]


def _inside_unit(part_id: str, name: str, position: str, layout: Layout, topology: Topology) -> list[Shape]:
    """A part that lives in a unit's case (its bond relay): a small switch to earth under the unit's
    middle."""
    unit = next((unit.unit for unit in topology.units if unit.bond_relay == part_id), None)
    if unit is None:
        return []
    box = layout.boxes[unit]
    x, y = box.x + box.w * 0.5, box.y + box.h * 0.56
    lift = 0.0 if position == "closed" else 1.5
    return [
        Shape("line", ((x, y), (x + lift, y + 2.6)), "symbol", part_id),
        Shape("line", ((x, y + 3), (x, y + 4.2)), "symbol", part_id),
        *(
            Shape("line", ((x - half, y + 4.2 + step), (x + half, y + 4.2 + step)), "symbol", part_id)
            for half, step in ((1.6, 0), (1.0, 0.7), (0.4, 1.4))
        ),
        Shape("text", ((x + 2.2, y + 4.6),), "small", part_id, "N-E"),
    ]
