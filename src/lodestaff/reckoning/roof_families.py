"""The same roof with each family: strings, optimisers on the shaded modules or on all, a unit behind each
module.
What each gives in a year, where the rest goes, and what one failure costs."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from lodestaff.catalogue.families import WITHOUT_EFFICIENCY, WITHOUT_OPTIMISER_EFFICIENCY
from lodestaff.energy.calendar import STEP_H
from lodestaff.energy.modules import ModulesAt, Own
from lodestaff.energy.shade import Standing
from lodestaff.job import Job, ModuleString, Unit
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.shade import shaded_modules
from lodestaff.reckoning.strung import string_modules
from lodestaff.roof.solids import standings
from lodestaff.shelf.prices import PriceBook

STRINGS, ON_SHADED, ON_ALL, MICRO = "strings", "optimisers on shaded modules", "optimisers", "microinverters"


@dataclass(frozen=True)
class Family:
    """One family on this roof, with its year on DC at the trackers (or behind the modules) and on AC.

    The shares are of the year's energy, away while a unit fails, or while a module stands open: the worst of
    its kind. `on_roof` counts converters on the roof. `cost` of what the family adds is None while a price is
    open.
    """

    name: str
    present: bool
    kwh_dc: float
    kwh_ac: float
    lost_mismatch_kwh: float
    lost_conversion_kwh: float
    unit_fails_share: float
    module_fails_share: float
    on_roof: int
    cost: float | None


@dataclass(frozen=True)
class OnRoof:
    """All families, with what shade takes of the modules alone, kWh."""

    families: tuple[Family, ...]
    unshaded_kwh: float
    shade_kwh: float


def families_on(reckoner: Reckoner, job: Job, book: PriceBook | None = None) -> OnRoof:
    """The families side by side on the modules that are on strings now.

    A string inverter or hybrid keeps its trackers; its AC energy is after its efficiency, without what
    limits and batteries do. What converters of a module's own do is by the job's sheets, else by usual
    efficiencies.
    """
    modules = {string.id: string_modules(job, string) for string in job.strings if job.modules_in(string.id)}
    if not modules:
        raise JobError(
            "the job has no module on a string", "families", "place modules and put them on strings"
        )
    shaded = [each for face in job.faces for each in shaded_modules(reckoner, job, face) if each.string]
    unshaded, alone = sum(m.open_kwh for m in shaded), sum(m.kwh for m in shaded)
    note = job.pack.value("shade_note_share").value
    named = {m.path for m in shaded if m.lost_share > note}
    bad = {
        stands
        for face in job.faces
        for module, stands in standings(job, face).items()
        if f"faces/{face.id}/modules/{module}" in named
    }
    made = tuple(_made(reckoner, job, modules, alone=alone, bad=bad, book=book))
    return OnRoof(made, unshaded, unshaded - alone)


def _made(
    reckoner: Reckoner,
    job: Job,
    modules: dict[str, tuple[ModulesAt, ...]],
    alone: float,
    bad: set[Standing],
    book: PriceBook | None,
) -> Iterator[Family]:
    strings = [string for string in job.strings if string.id in modules]
    count = sum(at.count for each in modules.values() for at in each)
    on_all = all(job.optimisers_on(s) == "all" for s in strings)
    on_none = all(job.optimisers_on(s) == "none" for s in strings)
    each_is = {s.id: job.sheet_of(job.unit(s.unit)).module_level for s in strings}
    micro, central = all(each_is.values()), not any(each_is.values())
    optimiser = _optimiser(job)
    for name, own, present in (
        (STRINGS, None, central and on_none),
        (ON_SHADED, optimiser, central and not on_all and not on_none),
        (ON_ALL, optimiser, central and on_all),
    ):
        if name == ON_SHADED and not present and not 0 < len(bad) < count:
            continue
        every = name != ON_SHADED
        fitted = {
            s.id: modules[s.id]  # as it is planned
            if present and not every
            else tuple(replace(at, own=own if every or at.standing in bad else None) for at in modules[s.id])
            for s in strings
        }
        number = sum(at.count for each in fitted.values() for at in each if at.own is not None)
        dc = {s.id: _kwh(reckoner, job, s, fitted[s.id]) for s in strings}
        total = sum(dc.values())
        lost = max(0.0, alone * (own.eta if own and name == ON_ALL else 1.0) - total)
        ac = sum(dc[s.id] * _eta(job, job.unit(s.unit)) for s in strings)
        by_unit = {u: sum(dc[s.id] for s in strings if s.unit == u) for u in {s.unit for s in strings}}
        yield Family(
            name,
            present,
            kwh_dc=total,
            kwh_ac=ac,
            lost_mismatch_kwh=lost,
            lost_conversion_kwh=alone - lost - ac,
            unit_fails_share=max(by_unit.values(), default=0.0) / total if total else 0.0,
            module_fails_share=max(dc.values(), default=0.0) / total
            if name != ON_ALL and total
            else 1 / count,
            on_roof=number,
            cost=_cost(job, book, "optimisers", number),
        )
    eta, most = _micro(job)
    behind = Own(most_kw=most / eta) if most else Own()
    dc_kwh = sum(_each_kwh(reckoner, job, at, behind) for each in modules.values() for at in each)
    yield Family(
        MICRO,
        micro,
        kwh_dc=dc_kwh,
        kwh_ac=dc_kwh * eta,
        lost_mismatch_kwh=alone - dc_kwh,
        lost_conversion_kwh=dc_kwh * (1 - eta),
        unit_fails_share=1 / count,
        module_fails_share=1 / count,
        on_roof=count,
        cost=_cost(job, book, "microinverters", count),
    )


def _kwh(reckoner: Reckoner, job: Job, string: ModuleString, modules: tuple[ModulesAt, ...]) -> float:
    tracker = next(t for t in job.sheet_of(job.unit(string.unit)).trackers if t.name == string.tracker)
    least_v = 0.0 if job.sheet_of(job.unit(string.unit)).module_level else tracker.v_min
    return float(reckoner.sunlit.string_kw(job, modules, least_v).sum() * STEP_H)


def _each_kwh(reckoner: Reckoner, job: Job, at: ModulesAt, own: Own) -> float:
    power = np.minimum(reckoner.sunlit.alone_kw(job, at), own.most_kw)
    return float(power.sum() * STEP_H) * at.count


def _optimiser(job: Job) -> Own:
    sheet = next(iter(job.sheets.optimisers.values()), None)
    if sheet is None:
        return Own(eta=WITHOUT_OPTIMISER_EFFICIENCY)
    return Own(sheet.eta or WITHOUT_OPTIMISER_EFFICIENCY, most_kw=sheet.rated_w / 1000 / sheet.modules)


def _micro(job: Job) -> tuple[float, float | None]:
    """Efficiency and rated AC power in kW of a unit behind a module; the usual one and none without a
    sheet."""
    sheet = next(iter(job.sheets.microinverters.values()), None)
    if sheet is None:
        return WITHOUT_EFFICIENCY, None
    return sheet.eta_euro or WITHOUT_EFFICIENCY, sheet.rated_va / 1000 / sheet.modules


def _eta(job: Job, unit: Unit) -> float:
    sheet = job.sheet_of(unit)
    return sheet.efficiency[-1][1] * sheet.eta_mppt


def _cost(job: Job, book: PriceBook | None, place: str, count: int) -> float | None:
    """What the converters on the roof cost; None while they have no sheet in the job or no price."""
    if not count:
        return 0.0
    held = getattr(job.sheets, place)
    price = book.price(next(iter(held))) if book is not None and held else None
    return None if price is None else price[0] * -(-count // next(iter(held.values())).modules)
