"""From the plan to the controllers of the year: what each transformer sees, and what its units are told."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import (
    STEPS,
    STEPS_PER_DAY,
    Bools,
    Floats,
    is_weekend,
    month_of_step,
    step_of,
    within,
)
from lodestaff.energy.control import Controller, ranked
from lodestaff.energy.dispatch import ChargeWindow, Converter, most_ac_kw
from lodestaff.energy.late import forecast
from lodestaff.energy.records import CHARGE, GIVE, HOLD, SHAVE, Forecast
from lodestaff.job import Circuit, Job, Role
from lodestaff.reckoning.selectors import energy_phases, phase_index
from lodestaff.topology import Topology
from lodestaff.topology.questions import Led, asked, led

ALWAYS_SUMMED = "120/240 V"  # both legs of one service: the meter sums them


@dataclass(frozen=True)
class Plan:
    """One controller, as its figures' cache key: units and what it sees by index, circuits with their
    share."""

    units: tuple[int, ...]
    circuits: tuple[tuple[int, float], ...]
    sees: tuple[int, ...]
    limit: int
    export_kw: float
    import_kw: float
    peak_kw: float


def netted(job: Job) -> bool:
    """Whether the meter counts the sum of its phases."""
    return job.mains.system == ALWAYS_SUMMED or job.mains.netting.value == "sum of phases"


def plans(job: Job, topology: Topology) -> tuple[Plan, ...]:
    """The controllers of a job with a grid: each unit is led by one.

    Units of one transformer act together; where phases aren't netted, on each phase for itself. The site's
    export limit is shared among transformers that don't know of each other, by the ratings behind them; a
    unit that obeys none keeps none, and meets what hangs on its own port alone.
    """
    groups = led(topology)
    rated = {unit.id: job.sheet_of(unit).rated_kw for unit in job.units}
    keeping = sum(rated[name] for group in groups if group.ct is not None for name in group.units)
    all_plans: list[Plan] = []
    for number, group in enumerate(groups):
        share = sum(rated[name] for name in group.units) / keeping if group.ct is not None else 1.0
        all_plans += _of_group(job, topology, group, number=number, share=share, groups=len(groups))
    return tuple(all_plans)


def _of_group(job: Job, topology: Topology, group: Led, number: int, share: float, groups: int) -> list[Plan]:
    first = job.unit(group.units[0])
    index = {unit.id: at for at, unit in enumerate(job.units)}
    export, taken = _limits(job, group, share)
    own_port = group.ct is None or first.serves == "own port"
    seen = _on_own_port(topology, group) if own_port else set(asked(topology).seen[group.ct.id])  # type: ignore[union-attr]
    all_plans = []
    for at, rows in enumerate(_parted(job, group)):
        legs = {leg for row in rows for leg in energy_phases(job)[row]}
        members = tuple(name for name in group.units if set(job.unit(name).legs) & legs)
        counted = job.limits.counted == "each phase" and len(energy_phases(job)) > 1
        all_plans.append(
            Plan(
                tuple(index[name] for name in members),
                tuple(
                    (
                        which,
                        sum(leg in legs for leg in circuit.legs)
                        / len(circuit.legs)
                        / _feeds(topology, circuit),
                    )
                    for which, circuit in enumerate(job.circuits)
                    if circuit.id in seen and set(circuit.legs) & legs
                ),
                sees=tuple(
                    index[unit.id]
                    for unit in job.units
                    if unit.id in seen
                    and unit.id not in group.units
                    and set(unit.legs) & legs
                    and not own_port
                ),
                limit=number + groups * at if counted else number,
                export_kw=export * len(rows) / len(energy_phases(job)) if counted else export,
                import_kw=taken,
                peak_kw=job.limits.peak_kw * share if job.limits.peak_kw is not None else np.inf,
            )
        )
    return all_plans


def _parted(job: Job, group: Led) -> list[tuple[int, ...]]:
    """The rows of phases that a group balances together: all that its transformer counts where the meter
    nets them, else those of each unit."""
    of_unit = [tuple(sorted({phase_index(job, leg) for leg in job.unit(name).legs})) for name in group.units]
    if netted(job) and group.ct is not None:
        rows = {phase_index(job, leg) for leg in group.phases} | {row for rows in of_unit for row in rows}
        return [tuple(sorted(rows))]
    parted: list[set[int]] = []
    for rows_of in of_unit:
        touched = [touching for touching in parted if touching & set(rows_of)]
        parted = [apart for apart in parted if not apart & set(rows_of)] + [set(rows_of).union(*touched)]
    return [tuple(sorted(together)) for together in parted]


def _feeds(topology: Topology, circuit: Circuit) -> int:
    """How many systems feed a circuit with two supplies, each seeing its own part of it; 1 for all others."""
    if not circuit.also_on:
        return 1
    return max(1, sum(circuit.id in asked(topology).seen[group.ct.id] for group in led(topology) if group.ct))


def _limits(job: Job, group: Led, share: float) -> tuple[float, float]:
    """Export and import that a group's units keep together at their transformer, kW."""
    units = [job.unit(name) for name in group.units]
    silent = any(unit.exports == "nothing" or unit.serves == "up to the CT" for unit in units)
    if group.ct is None:
        return (0.0 if silent else np.inf), np.inf
    phases = len(group.phases) / len(job.site.phases) if group.whole else share
    export, taken = job.limits.export_kw * share, job.limits.import_kw * phases
    own = [unit.export_kw for unit in units if unit.export_kw is not None]
    if own:  # they keep it together: the least that one of them is told
        export = min(job.limits.export_kw, *own)
    told = [unit.import_kw for unit in units if unit.import_kw is not None]
    return (0.0 if silent else export), min(taken, *told) if told else taken


def _on_own_port(topology: Topology, group: Led) -> set[str]:
    """Circuits that hang on a group's own ports."""
    return {
        name
        for island in asked(topology).islands
        if set(island.forming) & set(group.units)
        for name in island.circuits
    }


def controllers(
    made: tuple[Plan, ...], circuits: tuple[Circuit, ...], power_kw: tuple[Floats, ...]
) -> tuple[Controller, ...]:
    """The controllers, with the series of what each sees; `power_kw` by circuit, shape (step,)."""
    leaders = []
    for plan in made:
        load = np.zeros(power_kw[0].size if power_kw else 0)
        spared = np.zeros_like(load)
        for which, share in plan.circuits:
            if circuits[which].role is not Role.SURPLUS or power_kw[which].any():
                load = load + power_kw[which] * share
                if not circuits[which].from_battery:
                    spared = spared + power_kw[which] * share
        leaders.append(
            Controller(
                plan.units,
                load,
                sees=plan.sees,
                limit=plan.limit,
                export_kw=plan.export_kw,
                import_kw=plan.import_kw,
                peak_kw=plan.peak_kw,
                spared_kw=spared if spared.any() else None,
            )
        )
    return tuple(leaders)


def ahead_of(made: tuple[Controller, ...], units: tuple[Converter, ...], sun_kw: Floats) -> Forecast:
    """What each unit may expect before it: its part, by rating, of what its controller's batteries meet."""
    sun, load, most = np.zeros_like(sun_kw), np.zeros_like(sun_kw), np.full(len(units), np.inf)
    able = [most_ac_kw(unit, of_unit) for unit, of_unit in zip(units, sun_kw, strict=True)]
    for controller in (leader for rank in ranked(made) for leader in rank):
        stored = [at for at in controller.units if units[at].battery is not None]
        rated = sum(units[at].rated_kw for at in stored)
        for at in stored:
            part = units[at].rated_kw / rated
            sun[at] = (
                sum((able[each] for each in (*controller.units, *controller.sees)), np.zeros_like(sun[at]))
                * part
            )
            load[at], most[at] = controller.load_kw * part, controller.export_kw * part
    return forecast(sun, load, most)


def told(job: Job, hours: Floats) -> tuple[ChargeWindow, ...]:
    """What batteries are told by the clock: the mode for all hours, then each window, later ones above
    earlier.

    `hours` is the hour of day of each step by the device's clock.
    """
    limits = job.limits
    always = np.ones(hours.size, dtype=bool)
    windows = []
    if limits.mode == "hold for outages":
        windows.append(ChargeWindow(always, 1.0, np.inf, HOLD))
    elif limits.mode == "shave the peak":
        windows.append(ChargeWindow(always, 1.0, np.inf, SHAVE))
    kinds = {"charge": CHARGE, "hold": HOLD, "give": GIVE}
    sellers = tuple(at for at, unit in enumerate(job.units) if unit.exports == "sun and battery")
    for window in limits.windows:
        active = within(hours, window.start_h, window.end_h) & on_days(window.months, window.days, window.on)
        only = sellers or (len(job.units),) if window.kind == "give" else ()
        windows.append(ChargeWindow(active, window.target_soc, window.power_kw, kinds[window.kind], only))
    return tuple(windows)


def on_days(months: tuple[int, ...], days_of_week: str, on: tuple[str, ...]) -> Bools:
    """The steps of the days that a window or band is for; it belongs to the day in which the step lies."""
    chosen = np.ones(STEPS, dtype=bool)
    if months:
        chosen &= np.isin(month_of_step(), [month - 1 for month in months])
    if days_of_week != "every day":
        chosen &= is_weekend() == (days_of_week == "weekends")
    if on:
        dates = (tuple(int(part) for part in day.split("-")) for day in on)
        days = [step_of(month, day, hour=0) // STEPS_PER_DAY for month, day in dates]
        chosen &= np.isin(np.arange(STEPS) // STEPS_PER_DAY, days)
    return chosen
