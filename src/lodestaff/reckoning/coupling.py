"""DC- against AC-coupled on a job: the same array, battery and circuits, by the one way and the other."""

from dataclasses import dataclass, replace

import numpy as np

from lodestaff.energy.dispatch import Converter
from lodestaff.job import Job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.controlling import Plan
from lodestaff.reckoning.figures import YearFigures
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.yearly import Parts, years_of


@dataclass(frozen=True)
class Coupling:
    """The year of the job as it stands and coupled the other way. `now` is "DC" or "AC"."""

    now: str
    dc: YearFigures
    ac: YearFigures

    @staticmethod
    def lost_kwh(year: YearFigures) -> float:
        """What is lost in conversion and in the battery."""
        return year.conversion_loss_kwh + year.battery_loss_kwh


def coupling(reckoner: Reckoner, job: Job) -> Coupling:
    """Both years. A hybrid becomes a solar inverter and a battery unit of its own sizes; solar inverters of a
    battery unit's controller give their sun to its DC bus.

    Raises JobError without a grid, without a battery, or where no array's sun could go the other way.
    """
    if not job.mains.grid:
        raise JobError("no grid: the ways aren't compared", job.id, "compare two jobs instead")
    parts = reckoner.parts(job)
    stores = [at for at, converter in enumerate(parts.converters) if converter.battery is not None]
    if not stores:
        raise JobError("no battery: nothing is coupled", job.id, "give a unit a bank of modules")
    dc_now = any(parts.sun_kw[at].any() for at in stores)
    other = _to_ac(parts) if dc_now else _to_dc(parts)
    if other is None:
        raise JobError("no sun that a battery sees", job.id, "plan its transformer where it sees the array")
    years = []
    for each in (parts, other):
        year = years_of(reckoner, job, each.plans)(each.converters, each.sun_kw)
        years.append(reckoner.figures_of(job, year, each.converters))
    return Coupling("DC", *years) if dc_now else Coupling("AC", *reversed(years))


def _to_ac(parts: Parts) -> Parts:
    """Each unit with sun and battery as two: a solar inverter, and a battery unit without sun."""
    units: list[Converter] = list(parts.converters)
    sun, plans = list(parts.sun_kw), list(parts.plans)
    for at, converter in enumerate(parts.converters):
        if converter.battery is None or not parts.sun_kw[at].any():
            continue
        units[at] = replace(converter, own_use_kw=converter.own_use_kw / 2, pv_max_kw=0.0, ac_charge=True)
        units.append(replace(converter, battery=None, ac_charge=False, own_use_kw=converter.own_use_kw / 2))
        sun.append(sun[at])
        sun[at] = np.zeros_like(sun[at])
        plans = [_joined(plan, at, len(units) - 1) for plan in plans]
    return Parts(tuple(units), np.array(sun), tuple(plans))


def _joined(plan: Plan, at: int, added: int) -> Plan:
    """A plan in which a unit that was split acts as its two halves."""
    units = (*plan.units, added) if at in plan.units else plan.units
    sees = (*plan.sees, added) if at in plan.sees else plan.sees
    return replace(plan, units=units, sees=sees)


def _to_dc(parts: Parts) -> Parts | None:
    """The sun of a battery unit's controller, and of what it sees, on its DC bus; None where none is."""
    sun, moved = parts.sun_kw.copy(), 0
    units = list(parts.converters)
    for plan in parts.plans:
        stores = [at for at in plan.units if units[at].battery is not None]
        makers = [at for at in (*plan.units, *plan.sees) if units[at].battery is None and sun[at].any()]
        if not stores or not makers:
            continue
        whole = sum((sun[at] for at in makers), np.zeros(sun.shape[1]))
        rated = sum(units[at].rated_kw for at in stores)
        for at in stores:
            share = units[at].rated_kw / rated
            sun[at] = whole * share
            units[at] = replace(units[at], pv_max_kw=sum(units[maker].pv_max_kw for maker in makers) * share)
        for at in makers:
            sun[at] = 0.0
            units[at] = replace(units[at], own_use_kw=0.0)
        moved += len(makers)
    return Parts(tuple(units), sun, parts.plans) if moved else None


def rows_of(pair: Coupling, job: Job) -> tuple[tuple[str, float, float, str], ...]:
    """What to set side by side: name, DC-coupled, AC-coupled, unit."""
    kwh = (
        ("from the array, as AC", "pv_kwh"),
        ("into the battery", "battery_in_kwh"),
        ("out of the battery", "battery_out_kwh"),
        ("lost in converters", "conversion_loss_kwh"),
        ("lost in the battery", "battery_loss_kwh"),
        ("curtailed", "curtailed_kwh"),
        ("clipped", "clipped_kwh"),
        ("exported", "export_kwh"),
        ("imported", "import_kwh"),
    )
    rows = [(name, float(getattr(pair.dc, of)), float(getattr(pair.ac, of)), "kWh") for name, of in kwh]
    return (*rows, ("bill", pair.dc.bill, pair.ac.bill, job.tariff.currency))
