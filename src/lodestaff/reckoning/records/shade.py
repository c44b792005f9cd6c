"""Records for shade and for optimisers: module by module, and what could be done about it."""

from collections.abc import Iterator
from dataclasses import replace
from functools import partial

from lodestaff.checks.finding import soft
from lodestaff.checks.optimisers import Optimised
from lodestaff.checks.shade import Answers, FaceShade, ShadedModule, Turned
from lodestaff.energy.calendar import STEP_H
from lodestaff.energy.modules import ModulesAt, Own
from lodestaff.energy.shade import Standing
from lodestaff.job import Face, Job, ModuleString
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.array import string_limits, tracker_of
from lodestaff.reckoning.records.making import makes
from lodestaff.reckoning.strung import own_of, plane_of, string_modules
from lodestaff.roof.fits import clear_of, turned
from lodestaff.roof.solids import around, standings, unknown_heights

PREFIXES = (1, 2, 3, 4, 6, 9, 14, 20)  # how many of the most shaded are tried
WORTH = 0.8  # of what optimisers on all shaded modules bring; common practice, no source


@makes
def face_shades(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[FaceShade]:
    """Faces with modules, and what stands before their sun."""
    for face in job.faces:
        if not face.modules:
            continue
        modules = tuple(shaded_modules(reckoner, job, face))
        note = job.pack.value("shade_note_share")
        bad = tuple(m for m in modules if m.lost_share > note.value and not m.own)
        yield FaceShade(
            id=face.id,
            name=face.name,
            modules=modules,
            note_share=note,
            missing=unknown_heights(job, face),
            told=bool(face.obstacles or job.surroundings or job.site.horizon or around(job, face)),
            answers=tuple(_answers(reckoner, job, face, bad)) if deep and bad else (),
        )


def shaded_modules(reckoner: Reckoner, job: Job, face: Face) -> Iterator[ShadedModule]:
    """Each module of a face: its year alone with what stands around it and without."""
    plane, sheet = plane_of(job, face), job.sheets.modules[face.module]
    strings = {string.id: string for string in job.strings}
    unshaded = float(reckoner.sunlit.module_kw(job, plane).sum() * STEP_H)
    stands = standings(job, face)
    for module in face.modules:
        kwh, hours = unshaded, 0.0
        if module.id in stands:
            at = ModulesAt(
                plane, 1, vmp_v=sheet.vmp_v, rise=sheet.voc_v / sheet.vmp_v - 1, standing=stands[module.id]
            )
            kwh, hours = reckoner.sunlit.alone_kwh(job, at)
        string = strings.get(module.string)
        own = string is not None and own_of(job, string, module) is not None
        path = f"faces/{face.id}/modules/{module.id}"
        yield ShadedModule(
            module.id, path, kwh=kwh, open_kwh=unshaded, hours=hours, string=module.string, own=own
        )


def _answers(reckoner: Reckoner, job: Job, face: Face, shaded: tuple[ShadedModule, ...]) -> Iterator[Answers]:
    """For each string with shaded modules: its year with optimisers on them, and without them.

    Of the most shaded as many are taken as bring most of what all would.
    """
    stands = standings(job, face)
    for string in job.strings:
        held = sorted((m for m in shaded if m.string == string.id), key=lambda m: -m.lost_share)
        if not held or job.sheet_of(job.unit(string.unit)).module_level:
            continue
        modules = string_modules(job, string)
        now = _year_kwh(reckoner, job, string, modules)
        prefixes = [count for count in PREFIXES if count < len(held)] + [len(held)]
        with_own = partial(_with_own, _optimiser(job, string), modules)
        years = {
            count: _year_kwh(reckoner, job, string, with_own({stands[m.id] for m in held[:count]})) - now
            for count in prefixes
        }
        count = next(count for count in prefixes if years[count] >= WORTH * years[len(held)])
        left_out = {stands[module.id] for module in held[:count]}
        fewer = tuple(at for at in modules if at.standing not in left_out)
        yield Answers(
            string.id,
            string.name,
            modules=tuple(module.path for module in held[:count]),
            optimised_kwh=years[count],
            left_out_kwh=_year_kwh(reckoner, job, string, fewer) - now if fewer else None,
            turned=tuple(_turned(reckoner, job, face, module) for module in held[:count]),
        )


def _turned(reckoner: Reckoner, job: Job, face: Face, shaded: ShadedModule) -> Turned:
    """What a module would make alone more, lying the other way where there is room for it."""
    module = next(m for m in face.modules if m.id == shaded.id)
    other = turned(face, job.sheets.modules[face.module], clear_of(job), module)
    if other is None:
        return Turned(shaded.path, None, 0.0)
    lying = face.model_copy(update={"modules": (other,)})
    year = next(shaded_modules(reckoner, job.model_copy(update={"faces": _in_place(job, lying)}), lying))
    return Turned(shaded.path, (other.x_m, other.y_m), year.kwh - shaded.kwh, other.turned)


def _in_place(job: Job, face: Face) -> tuple[Face, ...]:
    return tuple(face if each.id == face.id else each for each in job.faces)


def _with_own(
    own: Own | None, modules: tuple[ModulesAt, ...], chosen: set[Standing]
) -> tuple[ModulesAt, ...]:
    """The modules with a converter of their own on those that stand at these places."""
    return tuple(replace(at, own=own) if at.standing in chosen else at for at in modules)


def _optimiser(job: Job, string: ModuleString) -> Own | None:
    _, module = job.placed_in(string.id)[0]
    return own_of(job, string, module.model_copy(update={"optimiser": True}))


def _year_kwh(reckoner: Reckoner, job: Job, string: ModuleString, modules: tuple[ModulesAt, ...]) -> float:
    if not modules:
        return 0.0
    return float(reckoner.sunlit.string_kw(job, modules, tracker_of(job, string).v_min).sum() * STEP_H)


@makes
def optimised(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Optimised]:
    """Strings with optimisers on all or on some of their modules."""
    for string in job.strings:
        limits, how = string_limits(job, string), job.optimisers_on(string)
        if limits is None or how == "none" or job.sheet_of(job.unit(string.unit)).module_level:
            continue
        placed = job.placed_in(string.id)
        fitted = len(placed) if string.optimisers == "all" else sum(module.optimiser for _, module in placed)
        yield Optimised(
            id=string.id,
            name=string.name,
            module=job.sheets.modules[placed[0][0].module],
            volts=limits[0],
            modules=len(placed),
            fitted=fitted,
            every=how == "all",
            sheet=job.sheets.optimisers.get(string.optimiser),
            soft_low=soft(record_low=job.site.record_low_c),
        )
