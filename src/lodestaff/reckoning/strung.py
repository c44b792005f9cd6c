"""From the job to its strings as the year takes them; each record is its figure's cache key."""

from dataclasses import dataclass

from lodestaff.catalogue.families import WITHOUT_OPTIMISER_EFFICIENCY
from lodestaff.energy.array import FAIMAN, Plane
from lodestaff.energy.mismatch import ModulePoints, module_points
from lodestaff.energy.modules import ModulesAt, Own
from lodestaff.energy.shade import Standing
from lodestaff.job import Face, Job, ModuleString, Unit
from lodestaff.job.array import PlacedModule
from lodestaff.reckoning.string_volts import starts
from lodestaff.roof.solids import standings


@dataclass(frozen=True)
class Strung:
    """A string: its modules, those that see the same together; its module's Vmp, V, and points."""

    modules: tuple[ModulesAt, ...]
    vmp_v: float
    points: ModulePoints

    @property
    def count(self) -> int:
        return sum(at.count for at in self.modules)


@dataclass(frozen=True)
class TrackerInput:
    """The strings on one tracker, the operating current it takes, A, and the least volts it works at.

    `each_alone`: its strings are single modules, or optimisers fit them to each other.
    """

    strings: tuple[Strung, ...]
    imp_max_a: float
    v_min: float
    each_alone: bool


def plane_of(job: Job, face: Face) -> Plane:
    """The plane of one module on a face."""
    module = job.sheets.modules[face.module]
    u0, u1 = FAIMAN[face.mounting]
    return Plane(
        face.tilt_deg,
        face.azimuth_deg,
        stc_kw=module.pmp_w / 1000,
        gamma_pct_per_k=module.gamma_pmp_pct_per_k,
        u0_w_m2_k=u0,
        u1_w_s_m3_k=u1,
        sky_model=job.site.sky_model,
    )


def own_of(job: Job, string: ModuleString, module: PlacedModule) -> Own | None:
    """A module's own converter: a unit behind each module, else an optimiser if it has one."""
    unit = job.unit(string.unit)
    micro = job.sheets.microinverters.get(unit.sheet)
    if micro is not None:
        efficiency = job.sheet_of(unit).efficiency[-1][1]
        return Own(most_kw=micro.rated_va / 1000 / efficiency / micro.modules)
    if not module.optimiser and string.optimisers != "all":
        return None
    sheet = job.sheets.optimisers.get(string.optimiser)
    if sheet is None:
        return Own(eta=WITHOUT_OPTIMISER_EFFICIENCY)
    return Own(sheet.eta or WITHOUT_OPTIMISER_EFFICIENCY, most_kw=sheet.rated_w / 1000 / sheet.modules)


def string_modules(job: Job, string: ModuleString) -> tuple[ModulesAt, ...]:
    """A string's modules: on faces without shade counted together, else each as it stands."""
    counted: dict[tuple[Plane, float, float, Standing | None, Own | None], int] = {}
    for face in job.faces:
        here = [module for module in face.modules if module.string == string.id]
        if not here:
            continue
        sheet, plane, stands = job.sheets.modules[face.module], plane_of(job, face), standings(job, face)
        for module in here:
            rise, own = sheet.voc_v / sheet.vmp_v - 1, own_of(job, string, module)
            key = (plane, sheet.vmp_v, rise, stands.get(module.id), own)
            counted[key] = counted.get(key, 0) + 1
    return tuple(
        ModulesAt(plane, count, vmp_v=vmp, rise=rise, standing=stands, own=own)
        for (plane, vmp, rise, stands, own), count in counted.items()
    )


def points_of(job: Job, string: ModuleString) -> ModulePoints:
    """The points of a string's module."""
    return module_points(job.sheets.modules[job.modules_in(string.id)[0][0].module])


def trackers(job: Job, unit: Unit) -> tuple[TrackerInput, ...]:
    """What the unit's trackers see; a string that never reaches the volts at which they start is left out."""
    result = []
    sheet = job.sheet_of(unit)
    for tracker in sheet.trackers:
        strings: list[Strung] = []
        wired = False
        for string in job.strings_on(unit.id, tracker.name):
            modules = string_modules(job, string)
            wired = wired or bool(modules)
            if not modules or not starts(job, string):
                continue
            if sheet.module_level:  # each module works for itself
                strings += [Strung((at,), at.vmp_v, points_of(job, string)) for at in modules]
            else:
                strings.append(Strung(modules, modules[-1].vmp_v, points_of(job, string)))
        if wired:
            alone = sheet.module_level or all(at.own is not None for s in strings for at in s.modules)
            result.append(TrackerInput(tuple(strings), tracker.imp_max_a, tracker.v_min, alone))
    return tuple(result)
