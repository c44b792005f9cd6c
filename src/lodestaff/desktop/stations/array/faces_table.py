"""The faces of the roof as rows: how they lie, where they stand, what they are made of and mounted with."""

from dataclasses import dataclass
from functools import partial
from typing import Any

from lodestaff.desktop.stations.array.roof_tables import RoofTable, Typed, shown
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import words
from lodestaff.desktop.understood import as_number
from lodestaff.job import Change, Face
from lodestaff.job.facts import Known
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number

UPRIGHT, ACROSS, NONE = "upright", "across", "none"
BONDED = ("unknown", "every rail", "by the clamps", "not bonded")
COVERINGS = ("unknown", "tiles", "slates", "metal", "membrane", "ground")


@dataclass(frozen=True)
class FaceRow:
    """A face, with the sheets that its modules and its mounting can be of."""

    face: Face
    sheets: tuple[str, ...]
    mountings: tuple[str, ...]


FACE = (
    Typed("Steep, °", "tilt_deg", "°"),
    Typed("Looks to, °", "azimuth_deg", "°"),
    Typed("Width, m", "width_m"),
    Typed("Up the slope, m", "height_m"),
)
MEASURED = (
    Typed("Rafters, m", "rafter_m", may_be_none=True),
    Typed("Bond, mm²", "bond_mm2", "mm²", may_be_none=True),
)
PLACE = (Typed("East, m", "east_m"), Typed("North, m", "north_m"), Typed("Eaves, m", "eaves_m"))


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
                    choices=lambda _: ("close roof", "open rack", "in the roof"),
                    standing=True,
                    spoken=lambda row: f"Mounting on {row.face.name}",
                ),
                *(
                    words(
                        each.heading,
                        partial(shown, each, lambda row: row.face.origin),
                        typed=partial(self._placed, each),
                        reads=lambda _: as_number("m"),
                        figures=True,
                    )
                    for each in PLACE
                ),
                words(
                    "Mounted with",
                    lambda row: row.face.mounting_sheet or NONE,
                    typed=lambda row, text: self._chosen("mounting_sheet", row, "" if text == NONE else text),
                    choices=lambda row: row.mountings,
                    standing=True,
                    spoken=lambda row: f"Mounting's sheet on {row.face.name}",
                ),
                words(
                    "Covered with",
                    lambda row: row.face.covering.value or COVERINGS[0],
                    typed=lambda row, text: self._known(
                        "covering", row, None if text == COVERINGS[0] else text
                    ),
                    choices=lambda _: COVERINGS,
                    standing=True,
                    spoken=lambda row: f"Covering of {row.face.name}",
                ),
                words(
                    "Metal bonded",
                    lambda row: row.face.bonded.value or BONDED[0],
                    typed=self._bond,
                    choices=lambda _: BONDED,
                    standing=True,
                    spoken=lambda row: f"How the metal on {row.face.name} is bonded",
                ),
                *(
                    words(
                        each.heading,
                        partial(shown, Typed("", "value"), partial(_fact, each.field)),
                        typed=partial(self._measured, each),
                        reads=lambda _, unit=each.unit: as_number(unit),
                        figures=True,
                    )
                    for each in MEASURED
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
            mountings = (NONE, *job.sheets.mountings)
            self.show_rows([FaceRow(face, sheets, mountings) for face in job.faces])

    def _named(self, row: FaceRow, text: str) -> bool:
        return self.store.edit(f"Call {row.face.name} {text}", Change(f"faces/{row.face.id}/name", text))

    def _chosen(self, field: str, row: FaceRow, text: str) -> bool:
        return self.store.edit(
            f"Set {field} of {row.face.name} to {text}", Change(f"faces/{row.face.id}/{field}", text)
        )

    def _known(self, field: str, row: FaceRow, value: object) -> bool:
        """A fact of the face, as it was read there."""
        fact = {"value": value, "known": Known.READ.value if value is not None else Known.ASSUMED.value}
        return self.store.edit(
            f"Set {field} of {row.face.name}", Change(f"faces/{row.face.id}/{field}", fact)
        )

    def _cover(self, row: FaceRow, text: str) -> bool:
        return self._known("covering", row, None if text == COVERINGS[0] else text)

    def _bond(self, row: FaceRow, text: str) -> bool:
        return self._known("bonded", row, None if text == BONDED[0] else text)

    def _measured(self, each: Typed, row: FaceRow, text: str) -> bool:
        value = self.read(each, row.face.name, text)
        return (value is not None or not text.strip()) and self._known(each.field, row, value)

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


def _fact(field: str, row: FaceRow) -> Any:
    return getattr(row.face, field)


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
