"""The few figures of a year that a map of sizes is shaded by, without the year's series."""

import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import cast

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, STEPS_PER_DAY, Floats, month_of_step
from lodestaff.energy.control import control_arrays
from lodestaff.energy.dispatch import ChargeWindow, Converter, none_ahead, unit_arrays
from lodestaff.energy.records import ControlArrays, OrderArrays
from lodestaff.energy.tariff import Bill, self_sufficiency
from lodestaff.job import Job, Role
from lodestaff.reckoning.controlling import ahead_of, controllers, netted, told
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.yearly import Parts, on_phases


@dataclass(frozen=True)
class Brief:
    """Of a year with a grid: shares, money, and energy that the sun had and nobody took."""

    self_sufficiency: float
    bill: float
    curtailed_kwh: float


Briefs = Callable[[tuple[Converter, ...]], Brief]


def briefs_of(reckoner: Reckoner, job: Job, parts: Parts) -> Briefs | None:
    """What makes these figures of a job's year with other converters in the place of its own.

    None where a year can't be reckoned so: without a grid, with surplus loads, where a unit feeds its phases
    unequally.
    """
    from lodestaff.energy import sums

    surplus = any(c.role is Role.SURPLUS for c in job.circuits)
    if not job.mains.grid or surplus or any(one.also and one.unequal for one in parts.converters):
        return None
    powers = tuple(reckoner.circuit_kw(job, circuit) for circuit in job.circuits)
    load, led = on_phases(job, powers), controllers(parts.plans, job.circuits, powers)
    windows = told(job, reckoner.hours_by(job, job.limits.device_clock))
    orders = _orders(parts.converters, windows)
    sun = np.ascontiguousarray(parts.sun_kw)
    tariff, price = job.tariff, reckoner.import_price(job)
    months, export_price = month_of_step(), np.array(np.broadcast_to(reckoner.export_price(job), (STEPS,)))
    load_kwh, known = float(load.sum() * STEP_H), dict[object, tuple[ControlArrays, np.ndarray, sums.Meter]]()

    def seen(units: tuple[Converter, ...]) -> tuple[ControlArrays, np.ndarray, sums.Meter]:
        """What doesn't change while own use and phases are the same."""
        key = tuple((one.own_use_kw, one.phases) for one in units)
        if key not in known:
            part = np.zeros((len(load), len(units)))
            drawn = load.copy()
            for at, one in enumerate(units):
                for phase in one.phases:
                    part[phase, at] = 1.0 / len(one.phases)
                    drawn[phase] += one.own_use_kw / len(one.phases)
            controls, by = control_arrays(led, tuple(one.own_use_kw for one in units))
            meter = sums.Meter(
                drawn=drawn,
                part=part,
                netted=netted(job),
                price=price,
                export_price=export_price,
                paid_kw=float(job.limits.export_kw),
                month=months,
            )
            known[key] = controls, by, meter
        return known[key]

    mine = threading.local()

    def room() -> Floats:
        """Where this thread's years are written, one over the other."""
        if not hasattr(mine, "room"):
            mine.room = np.zeros((7, *sun.shape))
        return cast(Floats, mine.room)

    def made(units: tuple[Converter, ...]) -> Brief:
        controls, by, meter = seen(units)
        arrays = unit_arrays(units, by)
        ahead = ahead_of(led, units, sun) if job.limits.keep_room else none_ahead(len(units))
        found = sums.Sums(
            *sums.year_sums(
                arrays, controls, sun, orders(units), ahead, arrays.e_floor.copy(), STEP_H, meter, room()
            )
        )
        bill = Bill(
            import_cost=found.import_cost,
            export_income=found.export_income,
            standing=tariff.standing_per_day * STEPS / STEPS_PER_DAY,
            without=0.0,
            demand=found.highest_kw * tariff.demand_per_kw_month,
        )
        return Brief(self_sufficiency(load_kwh, found.import_kwh), bill.bill, found.curtailed_kwh)

    return made


def _orders(
    units: tuple[Converter, ...], windows: tuple[ChargeWindow, ...]
) -> Callable[[tuple[Converter, ...]], OrderArrays]:
    """What each battery is told in each step, as energies of the batteries that are asked for."""
    shape = (len(units), STEPS)
    what, power, target_soc = np.zeros(shape, dtype=np.int64), np.zeros(shape), np.zeros(shape)
    for window in windows:  # of windows that overlap the later one holds
        for at, one in enumerate(units):
            if one.battery is not None and (not window.units or at in window.units):
                what[at, window.active] = window.what
                target_soc[at, window.active] = window.target_soc
                power[at, window.active] = window.power_kw

    def of(cell: tuple[Converter, ...]) -> OrderArrays:
        if not windows:
            return OrderArrays(what, target_soc, power)
        target: Floats = np.empty(shape)
        for at, one in enumerate(cell):
            bank = one.battery
            target[at] = 0.0 if bank is None else bank.capacity_kwh * np.minimum(target_soc[at], bank.top_soc)
        return OrderArrays(what, target, power)

    return of
