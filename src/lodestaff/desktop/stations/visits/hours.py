"""The person's own library of hours, typed in rows: once and for each, with what was booked."""

from collections.abc import Callable
from dataclasses import dataclass

from lodestaff.desktop.stations.visits.kept import own_hours
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, number, words
from lodestaff.desktop.understood import as_number
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.visits import Library, save_own


@dataclass(frozen=True)
class Rate:
    """A kind of work with its hours as they are planned with."""

    kind: str
    name: str
    by: str
    fixed_h: float
    each_h: float
    factor: float
    whence: str


def rates() -> list[Rate]:
    """Every kind but one's own tasks."""
    library = Library(own_hours())
    return [
        Rate(
            work.id,
            work.name,
            by=work.by,
            fixed_h=library.rates(work.id)[0],
            each_h=library.rates(work.id)[1],
            factor=library.own.factor(work.id),
            whence=library.whence(work.id),
        )
        for work in library.kinds.values()
        if work.id != "own"
    ]


def hours_table(store: Store, changed: Callable[[], object]) -> Table[Rate]:
    """Typed hours are yours, for every job; an emptied cell goes back to what shipped."""

    def typed(field: str) -> Callable[[Rate, str], bool]:
        def keep(row: Rate, text: str) -> bool:
            own = own_hours()
            held = dict(getattr(own, field))
            try:
                if text.strip():
                    held[row.kind] = read_number(text, "h")
                else:
                    held.pop(row.kind, None)
                made = type(own).model_validate({**own.model_dump(), field: held})
                save_own(made)
            except (JobError, ValueError) as trouble:
                store.trouble.emit("hours", f"Not kept. {row.name}: {text!r} are no hours. {trouble}")
                return False
            own_hours(anew=True)
            changed()
            return True

        return keep

    columns: tuple[Column[Rate], ...] = (
        words("Work", lambda row: row.name, wide=True),
        number("Once, h", lambda row: row.fixed_h, typed=typed("fixed_h"), reads=lambda _: as_number("h"),
               spoken=lambda row: f"Hours once of {row.name}"),
        number("For each, h", lambda row: row.each_h, typed=typed("each_h"), reads=lambda _: as_number("h"),
               spoken=lambda row: f"Hours for each of {row.name}"),
        words("Each", lambda row: row.by),
        number("Booked against planned", lambda row: round(row.factor, 2)),
        words("From", lambda row: row.whence),
    )  # fmt: skip
    return Table("Your own hours", columns)
