"""How far the settings are from the best possible: the bill with everything known beforehand."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, Floats
from lodestaff.energy.control import Controller, ranked
from lodestaff.energy.dispatch import Converter, Year, most_ac_kw
from lodestaff.energy.together import together
from lodestaff.job import Job, Role
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.controlling import controllers
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.yearly import years_of

LEVELS = 33  # of a battery's energy
PARTS = 12  # of the year, between which one may stop


@dataclass(frozen=True)
class Best:
    """Bills of a year, in the tariff's currency: as set, with batteries idle, and the best possible.

    `joined`: several batteries, or phases, were taken as one, so that no settings may reach it.
    """

    bill: float
    idle: float
    best: float
    joined: bool

    @property
    def reached(self) -> float | None:
        """Share of what a battery could save that the settings save; None where it could save nothing."""
        return self.reached_by(self.bill)

    def reached_by(self, bill: float) -> float | None:
        """The same share for another bill."""
        could = self.idle - self.best
        return (self.idle - bill) / could if could > 0.005 else None


@dataclass(frozen=True)
class _Group:
    """A controller with batteries: what it sees, its battery as one, and the units that act otherwise
    then.
    """

    led: Controller
    store: Converter
    members: tuple[int, ...]  # with batteries
    others: tuple[int, ...]  # without, and those of others that it sees
    sells: bool


def idle_year(reckoner: Reckoner, job: Job) -> Year:
    """The year in which the sun serves and goes out, and no battery does anything."""
    parts = reckoner.parts(job)
    units = tuple(replace(one, battery=None, ac_charge=False) for one in parts.converters)
    return years_of(reckoner, job, parts.plans)(units, parts.sun_kw)


def best_possible(
    reckoner: Reckoner, job: Job, progress: Callable[[float], bool] = lambda share: True
) -> Best | None:
    """The best bill by a dynamic programme of each controller's battery on the year's own physics.

    Surplus loads, circuits and other units stay as the year has them. None where stopped. Raises JobError
    without a grid or without a battery.
    """
    if not job.mains.grid:
        raise JobError("no grid: there is no bill to make better", job.id, "look at what stays unserved")
    if job.tariff.demand_per_kw_month > 0:
        raise JobError("a demand charge", "tariff", "the best possible isn't reckoned with one: set it to 0")
    if not job.banks:
        raise JobError("no battery: nothing can be set better", job.id, "give a unit a bank of modules")
    year, converters = reckoner.year(job), reckoner.converters(job)
    groups = _groups(reckoner, job, year)
    grid = year.metered_kw.copy()
    for number, group in enumerate(groups):

        def told(share: float, number: int = number) -> bool:
            return progress((number + share) / len(groups))

        out = _best_of(reckoner, job, group, told)
        if out is None:
            return None
        series = year.series
        acting = [*group.members, *group.others]
        change = out - (series.pv_ac_kw[acting] + series.battery_ac_kw[acting]).sum(axis=0)
        rows = _rows(converters, group) if len(grid) > 1 else [0]
        grid[rows[0]] = grid[rows].sum(axis=0) - change  # phases of one group as one: none does better apart
        grid[rows[1:]] = 0.0
    progress(1.0)
    seen = [at for group in groups for at in group.others]
    return Best(
        bill=reckoner.figures(job).bill,
        idle=reckoner.figures_of(job, idle_year(reckoner, job), converters).bill,
        best=_bill(reckoner, job, grid),
        joined=any(len(group.members) > 1 for group in groups)
        or len(seen) > len(set(seen))
        or (len(grid) > 1 and any(len(_rows(converters, group)) > 1 for group in groups))
        or len({group.led.limit for group in groups}) < len(groups),
    )


def _rows(converters: tuple[Converter, ...], group: _Group) -> list[int]:
    """The phases that a group's batteries stand on."""
    return sorted({row for at in group.members for row in converters[at].phases})


def _groups(reckoner: Reckoner, job: Job, year: Year) -> list[_Group]:
    """Controllers with batteries; the surplus loads take what they take in the year as it is set."""
    parts = reckoner.parts(job)
    taken = iter(() if year.taken_kw is None else year.taken_kw)
    powers = tuple(
        next(taken) if circuit.role is Role.SURPLUS else reckoner.circuit_kw(job, circuit)
        for circuit in job.circuits
    )
    found = []
    for led in (one for rank in ranked(controllers(parts.plans, job.circuits, powers)) for one in rank):
        members = tuple(at for at in led.units if parts.converters[at].battery is not None)
        if members:
            found.append(
                _Group(
                    led,
                    store=together(tuple(parts.converters[at] for at in members)),
                    members=members,
                    others=tuple(at for at in (*led.units, *led.sees) if at not in members),
                    sells=any(job.units[at].exports == "sun and battery" for at in members),
                )
            )
    return found


def _best_of(reckoner: Reckoner, job: Job, group: _Group, progress: Callable[[float], bool]) -> Floats | None:
    """What the group's units and those that it sees give together at best, AC kW, shape (step,)."""
    from lodestaff.energy import foresight

    parts, unit, bank, led = reckoner.parts(job), group.store, group.store.battery, group.led
    assert bank is not None
    sun = np.minimum(parts.sun_kw[list(group.members)].sum(axis=0), unit.pv_max_kw)
    other = [most_ac_kw(parts.converters[at], parts.sun_kw[at]) for at in group.others]
    own = sum(parts.converters[at].own_use_kw for at in (*led.units, *led.sees))
    seen = foresight.Seen(
        load=led.load_kw + own,
        spared=np.zeros(STEPS) if led.spared_kw is None else led.spared_kw,
        sun_dc=sun,
        sun_ac=np.sum(other, axis=0) if other else np.zeros(STEPS),
        price=reckoner.import_price(job),
        export_price=reckoner.export_price(job),
        export_kw=float(min(led.export_kw, 1e6)),
        import_kw=float(min(led.import_kw, 1e6)),
    )
    floor = bank.capacity_kwh * bank.reserve_soc
    store = foresight.Store(
        rated_kw=unit.rated_kw,
        k1=unit.k1,
        k2=unit.k2,
        floor=floor,
        top=bank.capacity_kwh * bank.top_soc,
        charge_kw=bank.charge_kw,
        discharge_kw=bank.discharge_kw,
        eta_in=bank.eta_charge,
        eta_out=bank.eta_discharge,
        taper=bank.capacity_kwh * bank.taper_start_soc,
        taper_end=bank.taper_end_share,
        gives=float(group.sells),
    )
    values = np.zeros((STEPS + 1, LEVELS))
    bounds = [STEPS * part // PARTS for part in range(PARTS + 1)]
    for part in reversed(range(PARTS)):
        if not progress(0.95 * (PARTS - 1 - part) / PARTS):
            return None
        foresight.backward(seen, store, values, bounds[part], bounds[part + 1], STEP_H)
    _, grid = foresight.forward(seen, store, values, floor, STEP_H)
    return seen.load - grid


def _bill(reckoner: Reckoner, job: Job, grid: Floats) -> float:
    """The bill of a grid power by metered phase, shape (row, step); past the site's limit nothing is paid."""
    tariff = job.tariff
    price = reckoner.import_price(job)
    bought = float((np.clip(grid, 0, None).sum(axis=0) * price).sum() * STEP_H)
    sold = np.minimum(np.clip(-grid, 0, None).sum(axis=0), job.limits.export_kw)
    return (
        bought
        - float((sold * reckoner.export_price(job)).sum() * STEP_H)
        + tariff.standing_per_day * STEPS / 96
    )
