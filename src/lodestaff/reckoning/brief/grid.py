"""Years in brief of a job with a grid."""

from collections.abc import Callable
from typing import Any

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, STEPS_PER_DAY, Floats, month_of_step
from lodestaff.energy.control import control_arrays
from lodestaff.energy.dispatch import ChargeWindow, Converter, none_ahead, unit_arrays
from lodestaff.energy.records import ControlArrays, OrderArrays
from lodestaff.energy.tariff import Bill, self_sufficiency
from lodestaff.job import Job
from lodestaff.reckoning.brief.made import Brief, Made, Room, Run, drawn_of, feeding_of
from lodestaff.reckoning.controlling import ahead_of, controllers, netted, told
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.yearly import Parts, on_phases

Seen = tuple[ControlArrays, np.ndarray, Floats, Any]


def on_the_grid(reckoner: Reckoner, job: Job, parts: Parts, takers: tuple[int, ...]) -> Run | None:
    """What makes years of a job, with what its surplus loads (circuits by number) take."""
    from lodestaff.energy import sums

    if takers and (any(plan.sees for plan in parts.plans) or job.limits.keep_room):
        return None  # what they take changes who is led by what, or what is expected
    nothing = np.zeros(STEPS)
    powers = tuple(
        nothing if number in takers else reckoner.circuit_kw(job, circuit)
        for number, circuit in enumerate(job.circuits)
    )
    load, led = on_phases(job, powers), controllers(parts.plans, job.circuits, powers)
    orders = _orders(parts.converters, told(job, reckoner.hours_by(job, job.limits.device_clock)))
    sun, tariff = np.ascontiguousarray(parts.sun_kw), job.tariff
    meter = sums.Meter(
        netted=netted(job),
        price=reckoner.import_price(job),
        export_price=np.array(np.broadcast_to(reckoner.export_price(job), (STEPS,))),
        paid_kw=float(job.limits.export_kw),
        month=month_of_step(),
    )
    load_kwh, known = float(load.sum() * STEP_H), dict[object, Seen]()
    onto, (before, spared) = drawn_of(job, takers), _before(job, parts, takers)
    room = Room()

    def seen(units: tuple[Converter, ...]) -> Seen:
        """What doesn't change while own use and phases are the same."""
        key = tuple((unit.own_use_kw, unit.phases) for unit in units)
        if key not in known:
            feeding, own = feeding_of(units, len(load))
            known[key] = (
                *control_arrays(led, tuple(unit.own_use_kw for unit in units)),
                load + own[:, None],
                feeding,
            )
        return known[key]

    def made(units: tuple[Converter, ...], taken: Floats) -> Made:
        controls, by, drawn, feeding = seen(units)
        of_year = load_kwh
        if takers:
            drawn, of_year = drawn + onto @ taken, load_kwh + float(taken.sum()) * STEP_H
            held = controls.spared + spared @ taken if spared.any() else controls.spared
            controls = controls._replace(load=controls.load + before @ taken, spared=held)
        arrays = unit_arrays(units, by)
        ahead = ahead_of(led, units, sun) if job.limits.keep_room else none_ahead(len(units))
        series, grid = room.of("series", 7, *sun.shape), room.of("grid", *drawn.shape)
        of_sums = sums.Sums(
            *sums.year_sums(
                arrays,
                controls,
                sun,
                orders(units),
                ahead,
                arrays.e_floor.copy(),
                STEP_H,
                meter,
                drawn,
                feeding,
                series,
                grid,
            )
        )
        bill = Bill(
            import_cost=of_sums.import_cost,
            export_income=of_sums.export_income,
            standing=tariff.standing_per_day * STEPS / STEPS_PER_DAY,
            without=0.0,
            demand=of_sums.highest_kw * tariff.demand_per_kw_month,
        )
        share = self_sufficiency(of_year, of_sums.import_kwh)
        brief = Brief(share, bill.bill, of_sums.curtailed_kwh)
        return Made(brief, pv_ac=series[0], curtailed=series[5], energy=series[6], grid=grid)

    return made


def _before(job: Job, parts: Parts, takers: tuple[int, ...]) -> tuple[Floats, Floats]:
    """What part of each surplus load stands before a controller, shape (controller, load), and what of it its
    batteries spare."""
    before, spared = np.zeros((len(parts.plans), len(takers))), np.zeros((len(parts.plans), len(takers)))
    for at, number in enumerate(takers):
        for row, plan in enumerate(parts.plans):
            before[row, at] = sum(share for which, share in plan.circuits if which == number)
            spared[row, at] = 0.0 if job.circuits[number].from_battery else before[row, at]
    return before, spared


def _orders(
    units: tuple[Converter, ...], windows: tuple[ChargeWindow, ...]
) -> Callable[[tuple[Converter, ...]], OrderArrays]:
    """What each battery is told in each step, as energies of the batteries that are asked for."""
    shape = (len(units), STEPS)
    what, power, target_soc = np.zeros(shape, dtype=np.int64), np.zeros(shape), np.zeros(shape)
    for window in windows:  # of windows that overlap the later one holds
        for at, unit in enumerate(units):
            if unit.battery is not None and (not window.units or at in window.units):
                what[at, window.active] = window.what
                target_soc[at, window.active] = window.target_soc
                power[at, window.active] = window.power_kw

    room, up_to = Room(), dict[tuple[int, float], Floats]()

    def of(cell: tuple[Converter, ...]) -> OrderArrays:
        if not windows:
            return OrderArrays(what, target_soc, power)
        target = room.of("target", *shape)
        for at, unit in enumerate(cell):
            bank = unit.battery
            if bank is None:
                target[at] = 0.0
                continue
            if (at, bank.top_soc) not in up_to:
                up_to[at, bank.top_soc] = np.minimum(target_soc[at], bank.top_soc)
            np.multiply(up_to[at, bank.top_soc], bank.capacity_kwh, out=target[at])
        return OrderArrays(what, target, power)

    return of
