"""What fits on the job's faces, with the year of each way: the most modules, or a symmetric roof."""

from dataclasses import dataclass

from lodestaff.job import Change, Face, Job
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.shade import shaded_modules
from lodestaff.roof.fits import Fill, Way, clear_of, fills


@dataclass(frozen=True)
class Filling:
    """One way to fill a face: modules, their power and their year each alone; and the changes that place
    them.

    Modules that lie where one lay before keep its string; all others are on none.
    """

    face: str
    way: Way
    symmetric: bool
    modules: int
    kw: float
    kwh: float
    changes: tuple[Change, ...]


def fillings(reckoner: Reckoner, job: Job, face: Face) -> tuple[Filling, ...]:
    """The ways to fill a face, most energy first; ways that place the same modules are told once."""
    sheet, ways = job.sheets.modules[face.module], {}
    for fill in fills(face, sheet, clear_of(job)):
        key = tuple((module.x_m, module.y_m, module.turned) for module in fill.modules)
        if key and key not in ways:
            ways[key] = _told(reckoner, job, face, fill)
    return tuple(sorted(ways.values(), key=lambda filling: -filling.kwh))


def _told(reckoner: Reckoner, job: Job, face: Face, fill: Fill) -> Filling:
    sheet = job.sheets.modules[face.module]
    before = {(round(m.x_m, 2), round(m.y_m, 2), m.turned): m for m in face.modules}
    modules = tuple(
        module.model_copy(update={"string": old.string, "optimiser": old.optimiser})
        if (old := before.get((round(module.x_m, 2), round(module.y_m, 2), module.turned)))
        else module
        for module in fill.modules
    )
    filled = face.model_copy(update={"modules": modules})
    changed = job.model_copy(update={"faces": tuple(filled if f.id == face.id else f for f in job.faces)})
    return Filling(
        face.id,
        fill.way,
        fill.symmetric,
        modules=len(modules),
        kw=len(modules) * sheet.pmp_w / 1000,
        kwh=sum(each.kwh for each in shaded_modules(reckoner, changed, filled)),
        changes=(Change(f"faces/{face.id}/modules", [m.model_dump(mode="json") for m in modules]),),
    )
