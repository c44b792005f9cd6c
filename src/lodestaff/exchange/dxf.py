"""The diagram as DXF in millimetres: layers by what feeds a conductor, blocks of symbols, text as text."""

import io
from typing import TYPE_CHECKING

from lodestaff import __version__
from lodestaff.exchange.looks import DEAD_INK, SOURCE_DASH, SOURCE_INK, SOURCE_ORDER
from lodestaff.quantities.errors import visible
from lodestaff.topology import Answer, Topology
from lodestaff.wiring import Drawing, Shape
from lodestaff.wiring.shapes import MM, Point

if TYPE_CHECKING:
    from ezdxf.document import Drawing as Document
    from ezdxf.layouts.base import BaseLayout

LABEL_MM = 4.4
PARTS, TEXTS, TITLE, DEAD = "PARTS", "TEXTS", "TITLE", "CONDUCTORS DEAD"
BESIDE = 0.7  # mm between the lines of a conductor that several sources feed
LINE = 5.0  # of the title block


def dxf(drawing: Drawing, answer: Answer, topology: Topology, title: tuple[str, ...]) -> bytes:
    """The drawing as a DXF document (R2010). `title` are the lines of its title block."""
    from ezdxf import units
    from ezdxf.filemanagement import new

    document = new("R2010", setup=False)
    document.units = units.MM
    document.header.custom_vars.append("Creator", f"Lodestaff {__version__}")
    _layers(document)
    space = document.modelspace()
    symbols: dict[str, list[Shape]] = {}
    for shape in drawing.shapes:
        if shape.style == "conductor":
            _conductor(space, shape, drawing, answer)
        elif shape.kind == "text":
            _text(space, shape.points[0], shape, drawing)
        else:
            symbols.setdefault(shape.owner, []).append(shape)
    names: dict[tuple[object, ...], str] = {}
    for owner, shapes in symbols.items():
        part = topology.parts.get(owner)
        x, y = shapes[0].points[0]
        key = (part.kind if part else "", *(_moved(shape, x, y) for shape in shapes))
        if key not in names:
            kind = str(key[0] or "symbol").upper()
            names[key] = f"{kind} {1 + sum(name.startswith(f'{kind} ') for name in names.values())}"
            block = document.blocks.new(names[key])
            for shape in shapes:
                _outline(block, shape, x, y)
        space.add_blockref(names[key], (x, drawing.height - y), dxfattribs={"layer": PARTS})
    for line, words in enumerate(title):
        at = (5.0, -LINE * (line + 1))
        space.add_text(visible(words), height=2.8, dxfattribs={"layer": TITLE, "insert": at})
    buffer = io.StringIO()
    document.write(buffer)
    return buffer.getvalue().encode(document.output_encoding, errors="replace")


def _layers(document: "Document") -> None:
    for name in (PARTS, TEXTS, TITLE):
        document.layers.add(name)
    for kind in SOURCE_ORDER:
        layer = document.layers.add(_layer(kind))
        layer.rgb = _rgb(SOURCE_INK[kind])
        if dash := SOURCE_DASH[kind]:
            lengths = [length if at % 2 == 0 else -length for at, length in enumerate(dash)]
            document.linetypes.add(kind.upper(), [sum(dash), *lengths], description=kind)
            layer.dxf.linetype = kind.upper()
    document.layers.add(DEAD).rgb = _rgb(DEAD_INK)


def _layer(kind: str) -> str:
    return f"CONDUCTORS {kind.upper()}" if kind else DEAD


def _rgb(ink: str) -> tuple[int, int, int]:
    return int(ink[1:3], 16), int(ink[3:5], 16), int(ink[5:7], 16)


def _conductor(space: "BaseLayout", shape: Shape, drawing: Drawing, answer: Answer) -> None:
    """A line for each source that makes it live, side by side, on that source's layer."""
    kinds = [kind for kind in SOURCE_ORDER if kind in answer.live.get(shape.owner, ())] or [""]
    last = len(shape.points) - 1
    for index, kind in enumerate(kinds):
        shift = (index - (len(kinds) - 1) / 2) * BESIDE
        points = [
            (x + (shift if 0 < at < last else 0), drawing.height - y - shift)
            for at, (x, y) in enumerate(shape.points)
        ]
        space.add_lwpolyline(points, dxfattribs={"layer": _layer(kind)})


def _text(space: "BaseLayout", at: Point, shape: Shape, drawing: Drawing) -> None:
    from ezdxf.enums import TextEntityAlignment as Align

    size = LABEL_MM if shape.style == "label" else drawing.text_mm
    align = {"middle": Align.CENTER, "right": Align.RIGHT}.get(shape.align, Align.LEFT)
    made = space.add_text(visible(shape.text), height=size * 0.72, dxfattribs={"layer": TEXTS})
    made.set_placement((at[0], drawing.height - at[1]), align=align)


def _moved(shape: Shape, x: MM, y: MM) -> tuple[object, ...]:
    """A shape as seen from a point, so that symbols that are alike are one block."""
    points = tuple((round(px - x, 3), round(py - y, 3)) for px, py in shape.points)
    return shape.kind, shape.style, points


def _outline(block: "BaseLayout", shape: Shape, x: MM, y: MM) -> None:
    points = [(px - x, y - py) for px, py in shape.points]
    if shape.kind == "circle":
        block.add_circle(points[0], abs(points[1][0] - points[0][0]), dxfattribs={"layer": PARTS})
        return
    block.add_lwpolyline(points, close=shape.kind == "polygon", dxfattribs={"layer": PARTS})
