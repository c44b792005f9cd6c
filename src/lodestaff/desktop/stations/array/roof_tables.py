"""The roof as rows: faces, what rises from them, and what stands around. All of it is typed here."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any

from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, words
from lodestaff.desktop.understood import as_number
from lodestaff.job import Change, Face, Job
from lodestaff.job.array import Obstacle, Surrounding
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number

UPRIGHT, ACROSS = "upright", "across"


@dataclass(frozen=True)
class Typed:
    """A column of numbers: its heading, the field, its unit, what it is kept as a share of, whether it may be
    empty."""

    heading: str
    field: str
    unit: str = "m"
    percent: bool = False
    may_be_none: bool = False


@dataclass(frozen=True)
class FaceRow:
    """A face, with the sheets that its modules can be of."""

    face: Face
    sheets: tuple[str, ...]


@dataclass(frozen=True)
class ThingRow:
    """Something that rises from a face."""

    face: Face
    thing: Obstacle


FACE = (
    Typed("Steep, °", "tilt_deg", "°"),
    Typed("Looks to, °", "azimuth_deg", "°"),
    Typed("Width, m", "width_m"),
    Typed("Up the slope, m", "height_m"),
)
PLACE = (Typed("East, m", "east_m"), Typed("North, m", "north_m"), Typed("Eaves, m", "eaves_m"))
THING = (
    Typed("From the left, m", "x_m"),
    Typed("From the eaves, m", "y_m"),
    Typed("Width, m", "w_m"),
    Typed("Depth, m", "h_m"),
    Typed("Rises, m", "height_m", may_be_none=True),
)
AROUND = (
    Typed("East, m", "east_m"),
    Typed("North, m", "north_m"),
    Typed("Width, m", "width_m"),
    Typed("Depth, m", "depth_m", may_be_none=True),
    Typed("Turned, °", "turned_deg", "°"),
    Typed("Top, m", "height_m"),
    Typed("Begins at, m", "base_m"),
    Typed("Light in leaf, %", "light_in_leaf", "%", percent=True),
    Typed("Light when bare, %", "light_bare", "%", percent=True),
)


class RoofTable(Table[Any]):
    """What the three have in common: numbers typed into fields of the job."""

    def refresh(self) -> None:
        """Show the job's rows."""
        raise NotImplementedError

    def __init__(self, store: Store, name: str, columns: Sequence[Column[Any]]) -> None:
        self.store = store
        super().__init__(name, tuple(columns), together=store.together)

    def numbers(
        self,
        typed: Sequence[Typed],
        holds: Callable[[Any], Any],
        path: Callable[[Any], str],
        name: Callable[[Any], str],
    ) -> list[Column[Any]]:
        """A column for each field of what a row holds."""
        return [
            words(
                each.heading,
                partial(_shown, each, holds),
                typed=partial(self._typed, each, path, name),
                reads=lambda _, unit=each.unit: as_number(unit),
                order=lambda row, field=each.field: getattr(holds(row), field, None),
                figures=True,
            )
            for each in typed
        ]

    def _typed(
        self, each: Typed, path: Callable[[Any], str], name: Callable[[Any], str], row: Any, text: str
    ) -> bool:
        value = self.read(each, name(row), text)
        if value is None and not (each.may_be_none and not text.strip()):
            return False
        shown = "none" if value is None else text.strip()
        words_ = f"Set {each.heading.partition(',')[0].lower()} of {name(row)} to {shown}"
        return self.store.edit(words_, Change(f"{path(row)}/{each.field}", value))

    def read(self, each: Typed, where: str, text: str) -> float | None:
        """What was typed; None, with a notice, where it is no number."""
        if not text.strip() and each.may_be_none:
            return None
        try:
            number = read_number(text, each.unit)
        except JobError as trouble:
            self.store.trouble.emit("edit", f"Not changed. {where}, {each.heading}: {trouble}.")
            return None
        return number / 100 if each.percent else number


class FacesTable(RoofTable):
    """A row for each face; the place is typed as one, beginning from nothing."""

    def __init__(self, store: Store) -> None:
        self.store = store

        def held(row: FaceRow) -> Face:
            return row.face

        def path(row: FaceRow) -> str:
            return f"faces/{row.face.id}"

        def name(row: FaceRow) -> str:
            return row.face.name

        super().__init__(
            store,
            "Faces",
            (
                words("Face", name, typed=self._named),
                *self.numbers(FACE, held, path, name),
                words(
                    "Module",
                    lambda row: row.face.module,
                    typed=partial(self._chosen, "module"),
                    choices=lambda row: row.sheets,
                    standing=True,
                    spoken=lambda row: f"Module of {row.face.name}",
                ),
                words(
                    "Modules lie",
                    lambda row: UPRIGHT if row.face.portrait else ACROSS,
                    typed=self._lie,
                    choices=lambda _: (UPRIGHT, ACROSS),
                    standing=True,
                    spoken=lambda row: f"How modules lie on {row.face.name}",
                ),
                words(
                    "Mounting",
                    lambda row: row.face.mounting,
                    typed=partial(self._chosen, "mounting"),
                    choices=lambda _: ("close roof", "open rack"),
                    standing=True,
                    spoken=lambda row: f"Mounting on {row.face.name}",
                ),
                *(
                    words(
                        each.heading,
                        partial(_shown, each, lambda row: row.face.origin),
                        typed=partial(self._placed, each),
                        reads=lambda _: as_number("m"),
                        figures=True,
                    )
                    for each in PLACE
                ),
                words(
                    "Outline, m",
                    lambda row: outline_text(row.face),
                    typed=self._outline,
                    wide=True,
                    tip=lambda _: "Corners as x, y from the lower left; empty for the whole rectangle",
                ),
            ),
        )

    def refresh(self) -> None:
        """Show the job's faces."""
        job = self.store.job
        if job is not None:
            sheets = tuple(job.sheets.modules)
            self.show_rows([FaceRow(face, sheets) for face in job.faces])

    def _named(self, row: FaceRow, text: str) -> bool:
        return self.store.edit(f"Call {row.face.name} {text}", Change(f"faces/{row.face.id}/name", text))

    def _chosen(self, field: str, row: FaceRow, text: str) -> bool:
        return self.store.edit(
            f"Set {field} of {row.face.name} to {text}", Change(f"faces/{row.face.id}/{field}", text)
        )

    def _lie(self, row: FaceRow, text: str) -> bool:
        return self.store.edit(
            f"Lay modules of {row.face.name} {text}", Change(f"faces/{row.face.id}/portrait", text == UPRIGHT)
        )

    def _placed(self, each: Typed, row: FaceRow, text: str) -> bool:
        face = row.face
        if not text.strip():
            return self.store.edit(f"Take {face.name} off the plan", Change(f"faces/{face.id}/origin", None))
        value = self.read(each, face.name, text)
        if value is None:
            return False
        before = face.origin.model_dump() if face.origin else {"east_m": 0.0, "north_m": 0.0, "eaves_m": 0.0}
        return self.store.edit(
            f"Place {face.name}, {each.heading} {text.strip()}",
            Change(f"faces/{face.id}/origin", {**before, each.field: value}),
        )

    def _outline(self, row: FaceRow, text: str) -> bool:
        try:
            corners = read_outline(text)
        except JobError as trouble:
            self.store.trouble.emit("edit", f"Not changed. {row.face.name}: {trouble}.")
            return False
        return self.store.edit(f"Outline of {row.face.name}", Change(f"faces/{row.face.id}/outline", corners))


class ThingsTable(RoofTable):
    """What rises from the faces, or lies in them."""

    def __init__(self, store: Store) -> None:
        self.store = store

        def path(row: ThingRow) -> str:
            return f"faces/{row.face.id}/obstacles/{row.thing.id}"

        def name(row: ThingRow) -> str:
            return row.thing.name

        super().__init__(
            store,
            "On the faces",
            (
                words(
                    "What",
                    name,
                    typed=lambda row, text: store.edit(
                        f"Call {row.thing.name} {text}", Change(f"{path(row)}/name", text)
                    ),
                ),
                words("On", lambda row: row.face.name),
                *self.numbers(THING, lambda row: row.thing, path, name),
                words(
                    "",
                    lambda _: "Take out",
                    press=lambda row: store.edit(f"Take out {row.thing.name}", Change(path(row), None)),
                ),
            ),
        )

    def refresh(self) -> None:
        """Show what stands on the job's faces."""
        job = self.store.job
        if job is not None:
            self.show_rows([ThingRow(face, thing) for face in job.faces for thing in face.obstacles])


class AroundTable(RoofTable):
    """What stands around: buildings, walls, trees."""

    def __init__(self, store: Store) -> None:
        self.store = store

        def path(row: Surrounding) -> str:
            return f"surroundings/{row.id}"

        def name(row: Surrounding) -> str:
            return row.name

        super().__init__(
            store,
            "Around the roof",
            (
                words(
                    "What",
                    name,
                    typed=lambda row, text: store.edit(
                        f"Call {row.name} {text}", Change(f"{path(row)}/name", text)
                    ),
                ),
                words(
                    "Shape",
                    lambda row: row.shape,
                    choices=lambda _: ("box", "round"),
                    standing=True,
                    typed=lambda row, text: store.edit(
                        f"Make {row.name} {text}", Change(f"{path(row)}/shape", text)
                    ),
                    spoken=lambda row: f"Shape of {row.name}",
                ),
                *self.numbers(AROUND, lambda row: row, path, name),
                words(
                    "",
                    lambda _: "Take out",
                    press=lambda row: store.edit(f"Take out {row.name}", Change(path(row), None)),
                ),
            ),
        )

    def refresh(self) -> None:
        """Show what stands around."""
        job: Job | None = self.store.job
        if job is not None:
            self.show_rows(job.surroundings)


def _shown(each: Typed, holds: Callable[[Any], Any], row: Any) -> str:
    value = getattr(holds(row), each.field, None)
    return "" if value is None else plain(100 * value if each.percent else value)


def outline_text(face: Face) -> str:
    """Corners as they are typed."""
    return "; ".join(f"{plain(x)}, {plain(y)}" for x, y in face.outline)


def read_outline(text: str) -> list[list[float]]:
    """Corners from "x, y; x, y; ...". Raises JobError that names the corner that can't be read."""
    corners = []
    for number, part in enumerate((part for part in text.split(";") if part.strip()), start=1):
        cells = [cell for cell in part.replace(", ", " ").split() if cell]
        if len(cells) != 2:
            raise JobError(
                f"has {part.strip()!r}", f"corner {number}", "two numbers, as 0, 0; 7.6, 0; 3.8, 4.6"
            )
        corners.append([read_number(cell, "m") for cell in cells])
    return corners
