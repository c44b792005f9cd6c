"""The modules on their faces as vectors on a page, each with its name: a map to find a number's place by."""

from typing import Any

from lodestaff.job import Face, Job, ModuleString
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import visible

INK, SOFT, FAINT = "#1B232E", "#4A5260", "#CFCABC"
TINTS = ("#FFFFFF", "#E8E4D8", "#D5E3E4", "#EADFD0", "#DDD6E6", "#E3E9D6")
MOST_HIGH_PT, MOST_PT_PER_M, HEAD_PT, WORDS_PT = 230.0, 60.0, 12.0, 6.0


def roof_flowables(job: Job, width_pt: float) -> list[Any]:
    """A drawing for each face that carries modules, seen square on, no wider than the page."""
    return [_flowable(job, face, width_pt) for face in job.faces if face.modules]


def _flowable(job: Job, face: Face, width_pt: float) -> Any:
    from reportlab.platypus import Flowable

    k = min(width_pt / face.width_m, MOST_HIGH_PT / face.height_m, MOST_PT_PER_M)

    class Drawn(Flowable):  # type: ignore[misc,unused-ignore]
        def __init__(self) -> None:
            super().__init__()
            self.width, self.height = width_pt, face.height_m * k + HEAD_PT + 8

        def draw(self) -> None:
            _draw(self.canv, job, face, k)

    return Drawn()


def _named(job: Job, string: ModuleString) -> str:
    """A string by its name; the branch of units behind modules by its unit's."""
    unit = job.unit(string.unit)
    return unit.name if job.sheet_of(unit).module_level else f"string {string.name}"


def _draw(canvas: Any, job: Job, face: Face, k: float) -> None:
    from reportlab.lib.colors import HexColor

    canvas.setFont("B612", 7.5)
    canvas.setFillColor(HexColor(INK))
    looks = f"{plain(face.azimuth_deg)}° from north, {plain(face.tilt_deg)}° steep"
    canvas.drawString(0, face.height_m * k + 4, visible(f"{face.name}, {looks}, seen square on"))
    corners = face.corners
    outline = canvas.beginPath()
    outline.moveTo(corners[0][0] * k, corners[0][1] * k)
    for x, y in corners[1:]:
        outline.lineTo(x * k, y * k)
    outline.close()
    canvas.setLineWidth(0.6)
    canvas.setStrokeColor(HexColor(SOFT))
    canvas.drawPath(outline)
    strings = {string.id: _named(job, string) for string in job.strings}
    tints = {string: TINTS[place % len(TINTS)] for place, string in enumerate(strings)}
    sheet = job.sheets.modules[face.module]
    canvas.setStrokeColor(HexColor(INK))
    for module in face.modules:
        wide, high = face.size_of(module, sheet)
        canvas.setFillColor(HexColor(tints.get(module.string, "#FFFFFF")))
        canvas.rect(module.x_m * k, module.y_m * k, wide * k, high * k, fill=1)
        canvas.setFillColor(HexColor(INK))
        lines = [module.id, strings.get(module.string, "no string")]
        for row, words in enumerate(lines):
            said = visible(words)
            while said and canvas.stringWidth(said, "B612", WORDS_PT) > wide * k - 3:
                said = said[:-1]
            canvas.setFont("B612", WORDS_PT)
            canvas.drawString(
                module.x_m * k + 1.5, (module.y_m + high) * k - (row + 1) * (WORDS_PT + 1.2), said
            )
