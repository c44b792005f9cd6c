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
class ThingRow:
    """Something that rises from a face."""

    face: Face
    thing: Obstacle


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
                partial(shown, each, holds),
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


def shown(each: Typed, holds: Callable[[Any], Any], row: Any) -> str:
    value = getattr(holds(row), each.field, None)
    return "" if value is None else plain(100 * value if each.percent else value)
