"""The diagram as SVG in millimetres, text as text."""

import xml.etree.ElementTree as ET

from lodestaff import __version__
from lodestaff.exchange.looks import DEAD_INK, SOURCE_DASH, SOURCE_INK, SOURCE_ORDER
from lodestaff.quantities.errors import visible
from lodestaff.topology import Answer
from lodestaff.wiring import Drawing, Shape

INK = "#1B232E"
LABEL_MM = 4.4


def svg(drawing: Drawing, answer: Answer, title: str) -> bytes:
    """The drawing as a document of its own. Fonts are named, not embedded."""
    root = ET.Element(
        "svg",
        {
            "xmlns": "http://www.w3.org/2000/svg",
            "width": f"{drawing.width:.2f}mm",
            "height": f"{drawing.height:.2f}mm",
            "viewBox": f"0 0 {drawing.width:.2f} {drawing.height:.2f}",
            "font-family": "B612, sans-serif",
        },
    )
    ET.SubElement(root, "title").text = visible(title)
    ET.SubElement(root, "desc").text = f"Lodestaff {__version__}"
    for shape in drawing.shapes:
        _shape(root, shape, drawing, answer)
    made: bytes = ET.tostring(root, encoding="utf-8", xml_declaration=True)
    return made


def _shape(root: ET.Element, shape: Shape, drawing: Drawing, answer: Answer) -> None:
    stroke = {"stroke": INK, "stroke-width": "0.16" if shape.style == "thin" else "0.34", "fill": "none"}
    if shape.style == "fill":
        stroke["fill"] = INK
    elif shape.style == "board":
        stroke["fill"] = "#FFFFFF"
    points = " ".join(f"{x:.2f},{y:.2f}" for x, y in shape.points)
    if shape.kind == "text":
        size = LABEL_MM if shape.style == "label" else drawing.text_mm
        (x, y), anchor = shape.points[0], {"middle": "middle", "right": "end"}.get(shape.align, "start")
        words = {
            "x": f"{x:.2f}",
            "y": f"{y:.2f}",
            "font-size": f"{size:.2f}",
            "text-anchor": anchor,
            "fill": INK,
        }
        ET.SubElement(root, "text", words).text = visible(shape.text)
    elif shape.kind == "circle":
        (x, y), (rim, _) = shape.points
        ET.SubElement(
            root, "circle", {"cx": f"{x:.2f}", "cy": f"{y:.2f}", "r": f"{abs(rim - x):.2f}", **stroke}
        )
    elif shape.style == "conductor":
        _conductor(root, shape, answer)
    elif shape.kind == "polygon":
        ET.SubElement(root, "polygon", {"points": points, **stroke})
    else:
        ET.SubElement(root, "polyline", {"points": points, **stroke})


def _conductor(root: ET.Element, shape: Shape, answer: Answer) -> None:
    """A line for each source that makes it live, side by side."""
    kinds = [kind for kind in SOURCE_ORDER if kind in answer.live.get(shape.owner, ())] or [""]
    for index, kind in enumerate(kinds):
        shift = (index - (len(kinds) - 1) / 2) * 0.7
        last = len(shape.points) - 1
        moved = [(x + (shift if 0 < at < last else 0), y + shift) for at, (x, y) in enumerate(shape.points)]
        line = {
            "points": " ".join(f"{x:.2f},{y:.2f}" for x, y in moved),
            "fill": "none",
            "stroke": SOURCE_INK.get(kind, DEAD_INK),
            "stroke-width": "0.45",
            "data-conductor": shape.owner,
        }
        if dash := SOURCE_DASH.get(kind):
            line["stroke-dasharray"] = " ".join(f"{length:g}" for length in dash)
        ET.SubElement(root, "polyline", line)
