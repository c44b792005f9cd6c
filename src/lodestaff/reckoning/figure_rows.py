"""Figures that exist several times, one for each unit, as one row: the worst speaks, the others stand by."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

from lodestaff.job import Job
from lodestaff.reckoning.readings import Reading

STATUSES = ("blocks", "warns", "open", "notes", "passed")


@dataclass(frozen=True)
class FigureRow:
    """Readings of one name, in the order of the units: never empty."""

    readings: tuple[Reading, ...]

    @property
    def name(self) -> str:
        return self.readings[0].name

    @property
    def count(self) -> int:
        return len(self.readings)

    @cached_property
    def worst(self) -> Reading:
        """The one with the worst status, of those the one nearest to its limit."""
        return min(self.readings, key=_badness)


def figure_rows(readings: Iterable[Reading]) -> tuple[FigureRow, ...]:
    """The rows, each where its first figure stands."""
    rows: dict[str, list[Reading]] = {}
    for reading in readings:
        rows.setdefault(reading.name, []).append(reading)
    return tuple(FigureRow(tuple(each)) for each in rows.values())


def _badness(reading: Reading) -> tuple[int, float]:
    return STATUSES.index(reading.status), reading.share if reading.better_up else -reading.share


def whose(owner: str, *jobs: Job) -> str:
    """The name of the unit that a figure is of, or of the unit of its bank; the id of anything else."""
    for job in jobs:
        unit = next((bank.unit for bank in job.banks if bank.id == owner), owner)
        for other in job.units:
            if other.id == unit:
                return other.name
    return owner
