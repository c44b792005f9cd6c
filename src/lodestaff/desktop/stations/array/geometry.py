"""Faces to scale and the ladder of volts: where modules, slots and bars stand. Pure geometry."""

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF

from lodestaff.job import Face, Job, ModuleString
from lodestaff.reckoning.records.array import string_limits

GAP, HEAD, FOOT = 22.0, 18.0, 18.0
SLOT_LEFT, SLOT_RIGHT = 150.0, 60.0


@dataclass(frozen=True)
class ModuleBox:
    """A module on its face, in pixels."""

    face: str
    id: str
    string: str
    rect: QRectF


@dataclass(frozen=True)
class FaceBox:
    """A face seen square on, with what is on it."""

    face: Face
    rect: QRectF
    obstacles: tuple[tuple[str, QRectF], ...]


@dataclass(frozen=True)
class Bar:
    """A string in its tracker's slot: from hottest to coldest operating voltage, and open circuit at the record low."""

    string: ModuleString
    count: int
    rect: QRectF
    voc_x: float
    voc_v: float
    over: bool


@dataclass(frozen=True)
class Slot:
    """A tracker: its band to drop on, and its window."""

    unit: str
    tracker: str
    band: QRectF
    window: QRectF
    start_x: float
    lines: tuple[str, ...]
    bars: tuple[Bar, ...]


@dataclass(frozen=True)
class Roof:
    """Everything on the surface."""

    faces: tuple[FaceBox, ...]
    modules: tuple[ModuleBox, ...]
    ladder: QRectF
    most_v: float
    max_dc_v: float
    slots: tuple[Slot, ...]
    loose: tuple[str, ...]  # strings without modules

    def x(self, volts: float) -> float:
        return self.ladder.left() + volts / self.most_v * self.ladder.width()

    def module_at(self, point: QPointF) -> ModuleBox | None:
        return next((box for box in self.modules if box.rect.contains(point)), None)

    def bar_at(self, point: QPointF) -> Bar | None:
        return next(
            (bar for slot in self.slots for bar in slot.bars if bar.rect.adjusted(-4, -4, 60, 4).contains(point)), None
        )

    def slot_at(self, point: QPointF) -> Slot | None:
        return next((slot for slot in self.slots if slot.band.contains(point)), None)


def lay_roof(job: Job, width: float, height: float) -> Roof:
    """Lay faces out at one scale in the upper part, the ladder below."""
    slots_needed = sum(len(job.sheet_of(unit).trackers) for unit in job.units)
    bars = max(1, len(job.strings))
    ladder_height = min(height * 0.56, 64.0 + slots_needed * 42 + bars * 24)
    roof_height = height - ladder_height - HEAD - FOOT - 8
    across = sum(face.width_m for face in job.faces) or 1.0
    tallest = max((face.height_m for face in job.faces), default=1.0)
    scale = min((width - GAP * max(0, len(job.faces) - 1) - 4) / across, roof_height / tallest)
    faces, modules, x = [], [], 2.0
    for face in job.faces:
        rect = QRectF(x, HEAD, face.width_m * scale, face.height_m * scale)
        sheet = job.sheets.modules[face.module]
        w, h = (sheet.width_m, sheet.length_m) if face.portrait else (sheet.length_m, sheet.width_m)

        def place(ox: float, oy: float, ow: float, oh: float, rect: QRectF = rect) -> QRectF:
            return QRectF(rect.left() + ox * scale, rect.bottom() - (oy + oh) * scale, ow * scale, oh * scale)

        faces.append(
            FaceBox(face, rect, tuple((one.name, place(one.x_m, one.y_m, one.w_m, one.h_m)) for one in face.obstacles))
        )
        modules += [ModuleBox(face.id, one.id, one.string, place(one.x_m, one.y_m, w, h)) for one in face.modules]
        x = rect.right() + GAP
    top = HEAD + tallest * scale + FOOT + 26
    return _ladder(
        job, tuple(faces), tuple(modules), QRectF(SLOT_LEFT, top, width - SLOT_LEFT - SLOT_RIGHT, height - top - 22)
    )


def _ladder(job: Job, faces: tuple[FaceBox, ...], modules: tuple[ModuleBox, ...], ladder: QRectF) -> Roof:
    max_dc = max(job.sheet_of(unit).max_dc_v for unit in job.units)
    found = {string.id: string_limits(job, string) for string in job.strings}
    counts = {string.id: sum(n for _, n in job.modules_in(string.id)) for string in job.strings}
    highest = max([max_dc * 1.12, *(counts[name] * one[0].voc_cold_v * 1.05 for name, one in found.items() if one)])
    empty = Roof(faces, modules, ladder, highest, max_dc, (), ())
    weights = [
        max(1, sum(found[s.id] is not None for s in job.strings_on(unit.id, t.name)))
        for unit in job.units
        for t in job.sheet_of(unit).trackers
    ]
    unit_height = (ladder.height() - 10.0 * len(weights)) / sum(weights)
    slots, y, index = [], ladder.top(), 0
    for unit in job.units:
        sheet = job.sheet_of(unit)
        for tracker in sheet.trackers:
            height = unit_height * weights[index]
            window = QRectF(empty.x(tracker.v_min), y, empty.x(tracker.v_max) - empty.x(tracker.v_min), height)
            bars = []
            strings = [s for s in job.strings_on(unit.id, tracker.name) if found[s.id] is not None]
            for row, string in enumerate(strings):
                limits = found[string.id]
                assert limits is not None
                volts, count = limits[0], counts[string.id]
                bar_height = min(22.0, unit_height - 6)
                top = y + (row + 0.5) * height / len(strings) - bar_height / 2
                rect = QRectF(
                    empty.x(count * volts.vmp_hot_v),
                    top,
                    empty.x(count * volts.vmp_cold_v) - empty.x(count * volts.vmp_hot_v),
                    bar_height,
                )
                voc = count * volts.voc_cold_v
                bars.append(Bar(string, count, rect, empty.x(voc), voc, voc > sheet.max_dc_v))
            modules_on = [job.sheets.modules[job.modules_in(s.id)[0][0].module] for s in strings]
            isc = job.pack.value("isc_factor").value * sum(m.isc_a for m in modules_on)
            lines = (
                f"operating {sum(m.imp_a for m in modules_on):.1f} of {tracker.imp_max_a:g} A",
                f"short circuit {isc:.1f} of {tracker.isc_max_a:g} A",
            )
            band = QRectF(0, y - 5, ladder.right() + SLOT_RIGHT, height + 10)
            slots.append(Slot(unit.id, tracker.name, band, window, empty.x(tracker.v_start), lines, tuple(bars)))
            y += height + 10.0
            index += 1
    loose = tuple(string.id for string in job.strings if found[string.id] is None)
    return Roof(faces, modules, ladder, highest, max_dc, tuple(slots), loose)
