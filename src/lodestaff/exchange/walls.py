"""The walls as vectors on a page: what is on them, parts with their sizes, the ways of the cables."""

from typing import Any

from lodestaff.job import Job
from lodestaff.job.walls import Wall
from lodestaff.places import Body, Route, bodies, entries, numbered
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import visible
from lodestaff.reckoning import Reckoner

INK, SOFT, FAINT, WAY = "#1B232E", "#4A5260", "#CFCABC", "#0F6670"
MOST_HIGH_PT, MOST_PT_PER_M, HEAD_PT = 210.0, 110.0, 12.0
WORDS_PT, NUMBER_PT, NARROW_PT = 6.2, 5.4, 13.0


def walls_flowables(reckoner: Reckoner, job: Job, width_pt: float) -> list[Any]:
    """A drawing for each wall, to its own scale, no wider than the page."""
    topology = reckoner.wiring(job).topology
    every = numbered((*bodies(job, topology), *entries(job, topology)))
    routes = tuple(reckoner.routes(job).values())
    return [_flowable(wall, every, routes, width_pt) for wall in job.walls]


def _flowable(
    wall: Wall, every: tuple[tuple[int, Body], ...], routes: tuple[Route, ...], width_pt: float
) -> Any:
    from reportlab.platypus import Flowable

    k = min(width_pt / wall.width_m, MOST_HIGH_PT / wall.height_m, MOST_PT_PER_M)

    class Drawn(Flowable):  # type: ignore[misc,unused-ignore]
        def __init__(self) -> None:
            super().__init__()
            self.width, self.height = width_pt, wall.height_m * k + HEAD_PT + 8

        def draw(self) -> None:
            _draw(self.canv, wall, [pair for pair in every if pair[1].wall is wall], routes, k)

    return Drawn()


def _draw(canvas: Any, wall: Wall, mine: list[tuple[int, Body]], routes: tuple[Route, ...], k: float) -> None:
    from reportlab.lib.colors import HexColor

    canvas.setFont("B612", 7.5)
    canvas.setFillColor(HexColor(INK))
    size = f"{plain(wall.width_m)} × {plain(wall.height_m)} m"
    canvas.drawString(0, wall.height_m * k + 4, f"{wall.name}, {wall.room or 'outside'}, {size}")
    canvas.setLineWidth(0.5)
    canvas.setStrokeColor(HexColor(FAINT))
    outline = canvas.beginPath()
    outline.moveTo(wall.corners[0][0] * k, wall.corners[0][1] * k)
    for x, y in wall.corners[1:]:
        outline.lineTo(x * k, y * k)
    outline.close()
    canvas.drawPath(outline)
    canvas.setLineWidth(1.4)
    canvas.setStrokeColor(HexColor(INK))
    canvas.line(0, 0, wall.width_m * k, 0)
    canvas.setLineWidth(0.6)
    for feature in wall.features:
        canvas.setStrokeColor(HexColor(SOFT))
        canvas.setDash(2, 2)
        canvas.rect(feature.x_m * k, feature.y_m * k, feature.width_m * k, feature.height_m * k)
        canvas.setDash()
        _words(canvas, feature.name or feature.kind, (feature.x_m * k, feature.y_m * k), feature.width_m * k)
    canvas.setStrokeColor(HexColor(WAY))
    for route in routes:
        for (a, x, y), (b, to_x, to_y) in zip(route.points, route.points[1:]):
            if a == b == wall.id:
                canvas.lines([(x * k, y * k, to_x * k, y * k), (to_x * k, y * k, to_x * k, to_y * k)])
    canvas.setStrokeColor(HexColor(INK))
    for number, body in mine:
        rect = body.rect
        if rect is None:
            continue
        canvas.setFillColor(HexColor("#FFFFFF"))
        canvas.rect(rect.x * k, rect.y * k, rect.width * k, rect.height * k, fill=1)
        canvas.setFillColor(HexColor(INK))
        if rect.width * k < NARROW_PT:  # its number stands above it
            canvas.setFont("B612", NUMBER_PT)
            canvas.drawCentredString(rect.middle[0] * k, rect.top * k + 1.5, str(number))
            continue
        corner = (rect.x * k, rect.y * k + rect.height * k - WORDS_PT - 2)
        _words(canvas, f"{number} {body.name}", corner, rect.width * k, str(number))


def _words(canvas: Any, words: str, corner: tuple[float, float], wide: float, short: str = "") -> None:
    """Words in a box as far as they fit; only the short ones where hardly any do."""
    said = visible(words)
    while said and canvas.stringWidth(said, "B612", WORDS_PT) > wide - 3:
        said = said[:-1]
    canvas.setFont("B612", WORDS_PT)
    canvas.drawString(corner[0] + 1.5, corner[1] + 1.5, said if len(said) > len(short) + 4 else short or said)
