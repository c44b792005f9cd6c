"""Shade on one module by month and hour of standard time: of the beam that its plane has, the share that
reaches it."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import month_of_step, standard_hour
from lodestaff.energy.shade import beam_share, sky_share
from lodestaff.energy.sun import sun_over_year
from lodestaff.job import Face, Job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.selectors import place
from lodestaff.reckoning.strung import plane_of
from lodestaff.roof.solids import standings


@dataclass(frozen=True)
class ByHour:
    """Twelve months of 24 hours: the share of the beam's energy that reaches the module, None while there is
    none; the same for its three bypass groups over the year; and the share of the sky that it sees."""

    beam: tuple[tuple[float | None, ...], ...]
    groups: tuple[float, ...]
    sky: float


def shade_by_hour(reckoner: Reckoner, job: Job, face: Face, module: str) -> ByHour:
    """The shade of a module of a face. Raises JobError where there is no such module."""
    if module not in {each.id for each in face.modules}:
        there = ", ".join(each.id for each in face.modules) or "none"
        raise JobError(f"{face.name} has no module {module!r}", f"faces {face.id}", f"choose from {there}")
    beam = reckoner.sunlit.lights(job, plane_of(job, face)).beam_w_m2
    stands = standings(job, face).get(module)
    share = np.ones((3, beam.size))
    sky = 1.0
    if stands is not None:
        share, sky = beam_share(stands, sun_over_year(place(job))), sky_share(stands)
    month, hour = month_of_step(), standard_hour().astype(int)
    rows = []
    for number in range(12):
        row: list[float | None] = []
        for each in range(24):
            pick = (month == number) & (hour == each)
            whole = float(beam[pick].sum())
            row.append(
                float((beam[pick] * share[:, pick].mean(axis=0)).sum()) / whole if whole > 1.0 else None
            )
        rows.append(tuple(row))
    whole = max(float(beam.sum()), 1e-9)
    return ByHour(tuple(rows), tuple(float((beam * row).sum()) / whole for row in share), sky)
