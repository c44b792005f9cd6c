"""The diagram as a reportlab flowable, conductors lined by what makes them live."""

from typing import Any

from lodestaff.exchange.looks import DEAD_INK, SOURCE_DASH, SOURCE_INK, SOURCE_ORDER
from lodestaff.topology import Answer
from lodestaff.wiring import Drawing, Shape

LABEL_MM = 4.4


def diagram_flowable(drawing: Drawing, answer: Answer, width: float, most_height: float = 620.0) -> Any:
    """The drawing scaled to a width in points, or to the height that a page has."""
    from reportlab.platypus import Flowable

    scale = min(width / drawing.width, most_height / drawing.height)

    class Diagram(Flowable):  # type: ignore[misc,unused-ignore]
        def __init__(self) -> None:
            super().__init__()
            self.width, self.height = width, drawing.height * scale

        def draw(self) -> None:
            canvas: Any = self.canv
            for shape in drawing.shapes:
                draw_shape(canvas, shape, answer, scale, drawing)

    return Diagram()


def draw_shape(canvas: Any, shape: Shape, answer: Answer, scale: float, drawing: Drawing) -> None:
    """One shape of a drawing on a canvas of reportlab, its foot at 0, so many points for a millimetre."""
    from reportlab.lib.colors import HexColor

    height = drawing.height * scale
    points = [(x * scale, height - y * scale) for x, y in shape.points]
    canvas.setDash()
    canvas.setStrokeColor(HexColor("#1B232E"))
    canvas.setFillColor(HexColor("#1B232E"))
    canvas.setLineWidth(0.25 * scale if shape.style != "thin" else 0.15 * scale)
    if shape.kind == "text":
        size = LABEL_MM if shape.style == "label" else drawing.text_mm
        canvas.setFont("B612", size * scale)
        places = {"middle": canvas.drawCentredString, "right": canvas.drawRightString}
        place = places.get(shape.align, canvas.drawString)
        place(*points[0], shape.text)
    elif shape.kind == "circle":
        (x, y), (rim, _) = points
        canvas.circle(x, y, abs(rim - x), stroke=1, fill=int(shape.style == "fill"))
    elif shape.style == "conductor":
        _conductor(canvas, points, answer.live.get(shape.owner, frozenset()), scale, HexColor)
    else:
        path = canvas.beginPath()
        path.moveTo(*points[0])
        for point in points[1:]:
            path.lineTo(*point)
        if shape.kind == "polygon":
            path.close()
        if shape.style == "board":
            canvas.setFillColor(HexColor("#FFFFFF"))
        canvas.drawPath(path, stroke=1, fill=int(shape.kind == "polygon"))


def _conductor(
    canvas: Any, points: list[tuple[float, float]], sources: frozenset[str], scale: float, colour: Any
) -> None:
    kinds = [kind for kind in SOURCE_ORDER if kind in sources]
    canvas.setLineWidth(0.35 * scale)
    for index, kind in enumerate(kinds or ["dead"]):
        shift = (index - (len(kinds) - 1) / 2) * 0.55 * scale if kinds else 0.0
        canvas.setStrokeColor(colour(SOURCE_INK.get(kind, DEAD_INK)))
        canvas.setDash([length * scale for length in SOURCE_DASH.get(kind, ())])
        path = canvas.beginPath()
        path.moveTo(points[0][0], points[0][1] + shift)
        for x, y in points[1:]:
            path.lineTo(x + shift, y + shift)
        canvas.drawPath(path, stroke=1, fill=0)
