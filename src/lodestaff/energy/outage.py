"""An outage from any moment and state of charge: when it ends, and why."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import cache

import numpy as np

from lodestaff.energy import records
from lodestaff.energy.calendar import MONTH_NAMES, STEP_H, STEPS, Floats, Ints, month_of_step
from lodestaff.energy.dispatch import Battery, Converter

REASONS = {
    records.ENERGY: "energy",
    records.OVERLOAD: "overload",
    records.START: "start",
    records.HELD: "held",
}
HORIZON_H = 168.0
RIDE_STEP = 12  # an outage begins every three hours of the year
Units = records.Island | tuple[records.Island, ...]


@dataclass(frozen=True)
class CircuitSeries:
    """One circuit on the island: mean power per step in kW, running and starting kVA, the charge that sheds
    it."""

    kw: Floats
    running_kva: float
    start_kva: float
    shed_soc: float = 0.4


@dataclass(frozen=True)
class Outage:
    """One outage. `hours` is exact within the step; `trace` has a row per whole step held."""

    start_step: int
    hours: float
    reason: str
    energy_kwh: Floats
    load_kw: Floats
    sun_kw: Floats
    shed_on: Floats
    generator_kw: Floats


@dataclass(frozen=True)
class IslandLoads:
    """What the circuits of an island take in each step, row by row with those shed later: mean kW, running
    kVA, and the largest start on top of it; and the state of charge at which each further row is shed."""

    kw: Floats
    running: Floats
    peak: Floats
    shed_soc: Floats


def island_loads(
    held: tuple[CircuitSeries, ...], shed: tuple[CircuitSeries, ...], own_use_kw: float, steps: int
) -> IslandLoads:
    """The circuits of an island, with the held ones, and with those shed later and later ones on top.

    Circuits that run in the same step are taken to run together (on the safe side within 15 minutes).
    """
    levels = sorted({circuit.shed_soc for circuit in shed})
    kw, running, step = _together(held, steps, own_use_kw)
    rows = [(kw, running, step)]
    for level in levels:
        more = _together(tuple(circuit for circuit in shed if circuit.shed_soc == level), steps, 0.0)
        kw, running, step = kw + more[0], running + more[1], np.maximum(step, more[2])
        rows.append((kw, running, step))
    return IslandLoads(
        kw=np.array([row[0] for row in rows]),
        running=np.array([row[1] for row in rows]),
        peak=np.array([row[1] + row[2] for row in rows]),
        shed_soc=np.array(levels, dtype=float),
    )


def island_arrays(pv_dc: Floats, loads: IslandLoads, ac_sun: Floats | None = None) -> records.OutageArrays:
    """What the units meet in each step, pv_dc of shape (unit, step)."""
    return records.OutageArrays(
        pv_dc=np.ascontiguousarray(np.atleast_2d(pv_dc)),
        kw=loads.kw,
        running=loads.running,
        peak=loads.peak,
        shed_soc=loads.shed_soc,
        ac_sun=ac_sun,
    )


def _together(
    circuits: tuple[CircuitSeries, ...], steps: int, own_kw: float
) -> tuple[Floats, Floats, Floats]:
    """Mean kW, running kVA and the largest start on top of it, per step."""
    kw, running, largest = np.full(steps, own_kw), np.full(steps, own_kw), np.zeros(steps)
    for circuit in circuits:
        on = circuit.kw > 0
        kw += circuit.kw
        running += on * circuit.running_kva
        if circuit.start_kva > circuit.running_kva:
            np.maximum(largest, on * (circuit.start_kva - circuit.running_kva), out=largest)
    return kw, running, largest


def island_of(converter: Converter, energy_only: bool = False) -> records.Island:
    """A unit and its battery as the outage takes them; `energy_only` lifts the power limits."""
    bank = converter.battery
    if bank is None:
        raise ValueError("a unit without a battery holds no outage")
    return _row(converter, bank, energy_only)


def islands_of(converters: tuple[Converter, ...], energy_only: bool = False) -> tuple[records.Island, ...]:
    """Units that form an island together; one without a battery brings its sun and its rating."""
    if all(converter.battery is None for converter in converters):
        raise ValueError("a unit without a battery holds no outage")
    some = next(converter.battery for converter in converters if converter.battery)
    none = replace(some, capacity_kwh=0.0, charge_kw=0.0, discharge_kw=0.0)
    return tuple(
        _row(converter, converter.battery or none, energy_only and converter.battery is not None)
        for converter in converters
    )


def _row(converter: Converter, bank: Battery, energy_only: bool) -> records.Island:
    lift = np.inf if energy_only else 0.0
    return records.Island(
        rated_kw=max(converter.rated_kw, lift),
        rated_kva=max(converter.rated_kva, lift),
        surge_kva=max(converter.surge_kva, lift),
        k1=converter.k1,
        k2=converter.k2,
        pv_max_kw=converter.pv_max_kw,
        e_floor=bank.capacity_kwh * bank.floor_soc,
        e_top=bank.capacity_kwh * bank.top_soc,
        capacity_kwh=bank.capacity_kwh,
        charge_kw=bank.charge_kw,
        discharge_kw=max(bank.discharge_kw, lift),
        eta_charge=bank.eta_charge,
        eta_discharge=bank.eta_discharge,
        e_taper=bank.capacity_kwh * bank.taper_start_soc,
        taper_end=bank.taper_end_share,
    )


def run_outage(
    arrays: records.OutageArrays,
    island: Units,
    start_step: int,
    energy_kwh: float | Floats,
    horizon_h: float = HORIZON_H,
    step_h: float = STEP_H,
    generator: records.Generator | None = None,
) -> Outage:
    """Run one outage from a step with the given energy in the batteries: of each unit, shape (unit,), or of
    all at the same state of charge."""
    from lodestaff.energy import riding

    horizon = round(horizon_h / step_h)
    trace = np.zeros((horizon, 5))
    given, ac_sun, units = loop_arrays(arrays, island)
    hours, reason = riding.outage(
        given,
        ac_sun,
        units,
        generator or no_generator(given),
        start_step,
        spread_over(units, energy_kwh),
        horizon,
        step_h,
        trace,
    )
    whole = min(horizon, int(hours / step_h + 1e-9))
    return Outage(start_step, hours, REASONS[reason], *(trace[:whole, column] for column in range(5)))


def loop_arrays(arrays: records.OutageArrays, island: Units) -> tuple[records.OutageArrays, Floats, Floats]:
    """What the loops take: the arrays with a row of sun for each unit, sun on AC, and the table of units."""
    rows = (island,) if isinstance(island, records.Island) else island
    pv_dc = np.ascontiguousarray(np.atleast_2d(arrays.pv_dc))
    ac_sun = np.zeros(pv_dc.shape[1]) if arrays.ac_sun is None else arrays.ac_sun
    return arrays._replace(pv_dc=pv_dc, ac_sun=ac_sun), ac_sun, np.array(rows, dtype=float)


def spread_over(units: Floats, energy_kwh: float | Floats) -> Floats:
    """Energy in each battery, shape (unit,): as given, or a sum at the same state of charge everywhere."""
    if np.ndim(energy_kwh) > 0:
        return np.ascontiguousarray(energy_kwh, dtype=float)
    capacity = units[:, records.Island._fields.index("capacity_kwh")]
    return np.asarray(float(energy_kwh) * capacity / capacity.sum())


def no_generator(arrays: records.OutageArrays) -> records.Generator:
    """None that starts by itself."""
    nothing = np.zeros(1)
    return records.Generator(
        power_kw=0.0,
        rated_kva=0.0,
        start_soc=0.0,
        stop_soc=0.0,
        lead=-1,
        allowed=nothing,
        exercise=nothing,
        charger_kw=np.zeros(arrays.pv_dc.shape[0]),
        start_v=0.0,
        stop_v=0.0,
        low_steps=0,
        rest_soc=nothing,
        rest_v=nothing,
        ohm=0.0,
    )


@dataclass(frozen=True)
class RideThrough:
    """How long the energy lasts, by month: the percentile over starts every three hours, in hours."""

    hours: Floats
    starts_month: Ints
    horizon_h: float

    def percentile_h(self, month: int, percent: float) -> float:
        """Linear between the two nearest, as numpy's percentile."""
        ordered = np.sort(self.hours[self.starts_month == month])
        place = percent / 100 * (ordered.size - 1)
        low = int(place)
        high = min(low + 1, ordered.size - 1)
        return float(ordered[low] + (ordered[high] - ordered[low]) * (place - low))

    def worst(self, percent: float) -> tuple[str, float]:
        """The month whose percentile is least, and that value."""
        values = [self.percentile_h(month, percent) for month in range(12)]
        month = int(np.argmin(values))
        return MONTH_NAMES[month], values[month]


def ride_horizon_h(promised_h: float) -> float:
    """How long outages are followed to judge a promise: twice as long, a day at least, a week at most."""
    return min(HORIZON_H, max(24.0, 2 * promised_h))


def ride_through(
    arrays: records.OutageArrays,
    island: Units,
    energy_kwh: float,
    horizon_h: float,
    generator: records.Generator | None = None,
) -> RideThrough:
    """Outages that begin with the same energy every three hours of the year, each followed for the
    horizon."""
    starts = np.arange(0, STEPS, RIDE_STEP)
    energies = np.tile(spread_over(loop_arrays(arrays, island)[2], energy_kwh), (starts.size, 1))
    hours = ride_starts(arrays, island, starts, energies, horizon_h=horizon_h, generator=generator)
    return RideThrough(hours, month_of_step()[starts], horizon_h)


def ride_starts(
    arrays: records.OutageArrays,
    island: Units,
    starts: Ints,
    energies_kwh: Floats,
    horizon_h: float,
    generator: records.Generator | None = None,
) -> Floats:
    """Hours that outages last, shape of `starts` (steps); energies of shape (start, unit). Two threads."""
    from lodestaff.energy import riding

    given, ac_sun, units = loop_arrays(arrays, island)
    running = generator or no_generator(given)

    def lasting(part: Ints) -> Floats:
        energies = np.ascontiguousarray(energies_kwh[part])
        return riding.ride_through(
            given, ac_sun, units, running, starts[part], energies, round(horizon_h / STEP_H), STEP_H
        )

    halves = np.array_split(np.arange(starts.size), 2)
    hours = np.zeros(starts.size)
    for part, part_hours in zip(halves, _two_threads().map(lasting, halves), strict=True):
        hours[part] = part_hours
    return hours


@cache
def _two_threads() -> ThreadPoolExecutor:
    """Threads for many outages, kept: to start them takes as long as some outages."""
    return ThreadPoolExecutor(2)


def reserve_needed_kwh(
    arrays: records.OutageArrays, island: records.Island, promised_h: float, percent: float
) -> float:
    """Energy with which an outage lasts the promised hours in every month but for `percent` of its starts.

    Held circuits only, starts every three hours; infinite where no charge of this battery is enough.
    """
    from lodestaff.energy import needed

    starts = np.arange(0, STEPS, RIDE_STEP)
    each = needed.energy_needed(
        arrays.held_kw, arrays.sun, np.array(island, dtype=float), starts, round(promised_h / STEP_H), STEP_H
    )
    months = month_of_step()[starts]
    # The percentile of the hours that last is linear between neighbours; the next higher need is on the safe
    # side.
    return max(
        float(np.sort(here)[min(here.size - 1, int(np.ceil((1 - percent / 100) * (here.size - 1))))])
        for here in (each[months == month] for month in range(12))
    )
