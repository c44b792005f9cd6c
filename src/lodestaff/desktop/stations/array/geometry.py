"""Faces to scale and the ladder of volts: where modules, slots and bars stand. Pure geometry."""

from dataclasses import dataclass, field, replace

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPolygonF

from lodestaff.catalogue import Tracker
from lodestaff.job import Face, Job, ModuleString, Unit
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.records.array import string_limits

Key = tuple[str, str]  # face id, module id
GAP, HEAD, FOOT = 22.0, 24.0, 6.0
SLOT_LEFT, SLOT_RIGHT = 150.0, 60.0
BETWEEN, APART = 8.0, 20.0  # slots of one unit, and of two
SKY_WIDTH, LEAST_WITH_SKY, SKY_SHAPE = 310.0, 700.0, 0.9


@dataclass(frozen=True)
class ModuleBox:
    """A module on its face, in pixels."""

    face: str
    id: str
    string: str
    rect: QRectF
    optimiser: bool = False


@dataclass(frozen=True)
class ThingBox:
    """Something that rises from a face or lies in it, in pixels."""

    id: str
    name: str
    height_m: float | None  # above the face
    rect: QRectF


@dataclass(frozen=True)
class FaceBox:
    """A face seen square on, with what is on it."""

    face: Face
    rect: QRectF
    scale: float  # pixels a metre
    outline: QPolygonF
    obstacles: tuple[ThingBox, ...]

    def point(self, x_m: float, y_m: float) -> QPointF:
        """A point of the face in pixels."""
        return QPointF(self.rect.left() + x_m * self.scale, self.rect.bottom() - y_m * self.scale)

    def place(self, x_m: float, y_m: float, w_m: float, h_m: float) -> QRectF:
        """What lies on the face from a lower left corner on."""
        return QRectF(self.point(x_m, y_m + h_m), self.point(x_m + w_m, y_m))


@dataclass(frozen=True)
class Bar:
    """A string in its tracker's slot, or one module of a branch: from hottest to coldest operating voltage,
    and open circuit at the record low."""

    string: ModuleString
    words: str
    rect: QRectF
    voc_x: float
    voc_v: float
    over: bool
    regulated: bool = False  # its optimisers set its volts: no triangle


@dataclass(frozen=True)
class Slot:
    """A tracker: its band to drop on, and its window."""

    unit: str
    tracker: str
    name: str
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
    sky: QRectF = field(default_factory=QRectF)  # empty where there is no room for it

    def x(self, volts: float) -> float:
        return self.ladder.left() + volts / self.most_v * self.ladder.width()

    def module_at(self, point: QPointF) -> ModuleBox | None:
        return next((box for box in self.modules if box.rect.contains(point)), None)

    def bar_at(self, point: QPointF) -> Bar | None:
        return next(
            (
                bar
                for slot in self.slots
                for bar in slot.bars
                if bar.rect.adjusted(-4, -4, 60, 4).contains(point)
            ),
            None,
        )

    def slot_at(self, point: QPointF) -> Slot | None:
        return next((slot for slot in self.slots if slot.band.contains(point)), None)


def lay_roof(job: Job, width: float, height: float, k: float = 1.0) -> Roof:
    """Faces at one scale above, the ladder below with the sky beside it; `k` is how large words are."""
    head, foot = HEAD * k, FOOT * k
    slots_needed = sum(len(job.sheet_of(unit).trackers) for unit in job.units)
    bars = max(1, len(job.strings))
    ladder_height = min(height * 0.56, (64.0 + slots_needed * 42 + bars * 24) * k)
    roof_height = height - ladder_height - head - foot - 8
    across = sum(face.width_m for face in job.faces) or 1.0
    tallest = max((face.height_m for face in job.faces), default=1.0)
    scale = min((width - GAP * max(0, len(job.faces) - 1) - 4) / across, roof_height / tallest)
    faces, modules, x = [], [], 2.0
    for face in job.faces:
        box = _face(face, QRectF(x, head, face.width_m * scale, face.height_m * scale), scale)
        faces.append(box)
        sheet = job.sheets.modules[face.module]
        modules += [
            ModuleBox(face.id, m.id, m.string, box.place(m.x_m, m.y_m, *face.size_of(m, sheet)), m.optimiser)
            for m in face.modules
        ]
        x = box.rect.right() + GAP
    top = head + tallest * scale + foot + 26 * k
    low = QRectF(0.0, top, width, height - top - 22 * k)
    sky_width = min(SKY_WIDTH * k, width * 0.38) if job.faces and width >= LEAST_WITH_SKY * k else 0.0
    sky = QRectF(width - sky_width, top, sky_width, min(low.height(), sky_width * SKY_SHAPE))
    right = low.right() - sky_width - (GAP if sky_width else 0.0)
    left = min(SLOT_LEFT * k, right * 0.36)
    ladder = QRectF(left, top, right - left - SLOT_RIGHT * k, low.height())
    return replace(_ladder(job, tuple(faces), tuple(modules), ladder), sky=sky)


def _face(face: Face, rect: QRectF, scale: float) -> FaceBox:
    box = FaceBox(face, rect, scale, outline=QPolygonF(), obstacles=())
    return replace(
        box,
        outline=QPolygonF([box.point(x, y) for x, y in face.corners]),
        obstacles=tuple(
            ThingBox(
                thing.id, thing.name, thing.height_m, box.place(thing.x_m, thing.y_m, thing.w_m, thing.h_m)
            )
            for thing in face.obstacles
        ),
    )


def _ladder(job: Job, faces: tuple[FaceBox, ...], modules: tuple[ModuleBox, ...], ladder: QRectF) -> Roof:
    sunny = [unit for unit in job.units if job.sheet_of(unit).trackers]
    strung = [unit for unit in sunny if not job.sheet_of(unit).module_level]
    limits = {string.id: string_limits(job, string) for string in job.strings}
    counts = {string.id: sum(n for _, n in job.modules_in(string.id)) for string in job.strings}
    max_dc = max((job.sheet_of(unit).max_dc_v for unit in strung or sunny), default=0.0)
    reached = [
        of_string[0].voc_cold_v * in_row(job, string, counts[string.id])
        for string in job.strings
        if (of_string := limits[string.id]) and job.optimisers_on(string) != "all"
    ]
    highest = max([max_dc * 1.12, 10.0, *(volts * 1.05 for volts in reached)])
    empty = Roof(faces, modules, ladder=ladder, most_v=highest, max_dc_v=max_dc, slots=(), loose=())
    weights = [
        max(1, sum(limits[s.id] is not None for s in job.strings_on(unit.id, t.name)))
        for unit in sunny
        for t in job.sheet_of(unit).trackers
    ]
    gaps = BETWEEN * len(weights) + (APART - BETWEEN) * max(0, len(sunny) - 1)
    unit_height = (ladder.height() - gaps) / max(1, sum(weights))
    slots, y, index = [], ladder.top(), 0
    for unit in sunny:
        for tracker in job.sheet_of(unit).trackers:
            height = unit_height * weights[index]
            window = QRectF(
                empty.x(tracker.v_min), y, empty.x(tracker.v_max) - empty.x(tracker.v_min), height
            )
            strings = [s for s in job.strings_on(unit.id, tracker.name) if limits[s.id] is not None]
            bars = tuple(
                _bar(
                    empty,
                    job,
                    string=string,
                    count=counts[string.id],
                    middle=y + (row + 0.5) * height / len(strings),
                    room=unit_height,
                )
                for row, string in enumerate(strings)
            )
            band = QRectF(0, y - 5, ladder.right() + SLOT_RIGHT, height + 10)
            name, lines = _slot_words(job, unit, tracker, strings, len(sunny) > 1)
            slots.append(
                Slot(
                    unit.id,
                    tracker.name,
                    name=name,
                    band=band,
                    window=window,
                    start_x=empty.x(tracker.v_start),
                    lines=lines,
                    bars=bars,
                )
            )
            y += height + BETWEEN
            index += 1
        y += APART - BETWEEN
    loose = tuple(string.id for string in job.strings if limits[string.id] is None)
    return Roof(
        faces, modules, ladder=ladder, most_v=highest, max_dc_v=max_dc, slots=tuple(slots), loose=loose
    )


def _unit_of(job: Job, string: ModuleString) -> Unit:
    return job.unit(string.unit)


def string_word(job: Job, string: ModuleString) -> str:
    """What a group of modules is called: each behind a unit of its own they are a branch, and there is no
    string."""
    return "branch" if job.sheet_of(_unit_of(job, string)).module_level else "string"


def only_units_behind_modules(job: Job) -> bool:
    """Whether every module here has a unit of its own."""
    return bool(job.strings) and all(string_word(job, string) == "branch" for string in job.strings)


def in_row(job: Job, string: ModuleString, count: int) -> int:
    """Modules whose volts add up: all of a string, one alone where each has a unit of its own."""
    return 1 if job.sheet_of(_unit_of(job, string)).module_level else count


def _bar(roof: Roof, job: Job, string: ModuleString, count: int, middle: float, room: float) -> Bar:
    """A string's bar, or one module's where each has a unit of its own."""
    limits, most = string_limits(job, string), job.sheet_of(_unit_of(job, string)).max_dc_v
    assert limits is not None
    volts, row = limits[0], in_row(job, string, count)
    height, hot, cold, voc = (
        min(22.0, room - 6),
        row * volts.vmp_hot_v,
        row * volts.vmp_cold_v,
        row * volts.voc_cold_v,
    )
    if job.optimisers_on(string) == "all" and row == count:
        tracker = next(t for t in job.sheet_of(_unit_of(job, string)).trackers if t.name == string.tracker)
        low, high = roof.x(tracker.v_min), roof.x(min(tracker.v_max, most))
        rect = QRectF(low + 4, middle - height / 2, high - low - 8, height)
        words = f"set by {count} optimisers"
        return Bar(string, words, rect=rect, voc_x=rect.right() - 4, voc_v=0.0, over=False, regulated=True)
    rect = QRectF(roof.x(hot), middle - height / 2, roof.x(cold) - roof.x(hot), height)
    words = f"{text_of(voc, 'V')} · {count}" if row == count else f"{text_of(voc, 'V')} of {plain(most)} V"
    return Bar(string, words, rect=rect, voc_x=roof.x(voc), voc_v=voc, over=voc > most)


def _slot_words(
    job: Job, unit: Unit, tracker: Tracker, strings: list[ModuleString], several: bool
) -> tuple[str, tuple[str, ...]]:
    """A slot's name and its currents: of the tracker, or of one module on its unit."""
    modules = [job.sheets.modules[job.modules_in(s.id)[0][0].module] for s in strings]
    factor = job.pack.value("isc_factor").value
    if job.sheet_of(unit).module_level:
        own = job.sheets.microinverters[unit.sheet]
        imp, isc = max((m.imp_a for m in modules), default=0.0), max((m.isc_a for m in modules), default=0.0)
        return unit.name, (
            f"{unit.count} modules, each alone",
            f"a module {plain(imp, 1)} of {plain(own.max_in_a)} A",
            f"short circuit {plain(factor * isc, 1)} A",
        )
    name = f"{unit.name}, {tracker.name}" if several else f"Tracker {tracker.name}"
    return name, (
        f"operating {plain(sum(m.imp_a for m in modules), 1)} of {plain(tracker.imp_max_a)} A",
        f"short circuit {plain(factor * sum(m.isc_a for m in modules), 1)} of {plain(tracker.isc_max_a)} A",
    )
