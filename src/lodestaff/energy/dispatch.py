"""A year of one system: from parts to unit arrays, and from series to yearly figures."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from lodestaff.energy import records
from lodestaff.energy.battery import ac_kw
from lodestaff.energy.calendar import STEP_H, Bools, Floats


@dataclass(frozen=True)
class Battery:
    """A bank on one unit. Energies follow from capacity x share; powers are at the DC bus."""

    capacity_kwh: float
    floor_soc: float
    reserve_soc: float
    top_soc: float
    charge_kw: float
    discharge_kw: float
    eta_charge: float
    eta_discharge: float
    taper_start_soc: float
    taper_end_share: float


@dataclass(frozen=True)
class Converter:
    """A unit with its own DC bus on one phase (by index). Without a battery it is a string inverter."""

    phase: int
    rated_kw: float
    rated_kva: float
    surge_kva: float
    k1: float
    k2: float
    own_use_kw: float
    pv_max_kw: float
    battery: Battery | None
    ac_charge: bool = False
    keeps_limit: bool = True  # obeys a meter or transformer; one that obeys none gives all it makes

    @property
    def bank_kw(self) -> float:
        """AC power that the bank gives through this unit: the least of inverter, cells and setting; 0
        without one."""
        return (
            0.0
            if self.battery is None
            else min(self.rated_kw, ac_kw(self.battery.discharge_kw, self.k1, self.k2))
        )


@dataclass(frozen=True)
class ChargeWindow:
    """Charging from the grid to a target; `active` says in which steps, shape (T,)."""

    active: Bools
    target_soc: float
    power_kw: float


@dataclass(frozen=True)
class Year:
    """A simulated year. Shapes: (unit, step) and (phase, step); signs: into the AC bus is positive."""

    series: records.Series
    load_kw: Floats
    own_use_kw: Floats
    pv_available_kw: Floats
    e_start_kwh: Floats
    step_h: float
    surplus_kw: Floats | None = None  # the part of `load_kw` that surplus loads took, (phase, step)

    def kwh(self, series_kw: Floats) -> float:
        return float(series_kw.sum() * self.step_h)

    @property
    def import_kw(self) -> Floats:
        return np.clip(self.series.grid_kw, 0, None)

    @property
    def export_kw(self) -> Floats:
        return np.clip(-self.series.grid_kw, 0, None)


@lru_cache(maxsize=64)
def loss_curve(
    points: tuple[tuple[float, float], ...], rated_kw: float, own_use_kw: float
) -> tuple[float, float]:
    """k1 and k2 (1/kW) of the loss k1 P + k2 P² from a sheet's efficiency points, own use taken out.

    Least squares with neither below 0; one point gives a constant efficiency.
    """
    powers = np.array([share * rated_kw for share, _ in points])
    losses = np.array([share * rated_kw * (1 / eta - 1) for share, eta in points]) - own_use_kw
    if len(points) == 1:
        return max(0.0, float(losses[0] / powers[0])), 0.0
    scale = 1 / powers
    columns = np.column_stack([powers, powers**2]) * scale[:, None]
    wanted = np.clip(losses, 0, None) * scale
    both = np.linalg.lstsq(columns, wanted, rcond=None)[0]
    if (both >= 0).all():
        return float(both[0]), float(both[1])
    alone = columns.T @ wanted / (columns**2).sum(axis=0)  # on the edge one of them is 0; neither sum is
    left = [float(((columns[:, k] * alone[k] - wanted) ** 2).sum()) for k in (0, 1)]
    return (float(alone[0]), 0.0) if left[0] <= left[1] else (0.0, float(alone[1]))


def unit_arrays(converters: tuple[Converter, ...]) -> records.UnitArrays:
    """The converters as the kernel takes them; the floor is the reserve, as with the grid present."""
    none = Battery(
        0,
        0,
        reserve_soc=0,
        top_soc=0,
        charge_kw=0,
        discharge_kw=0,
        eta_charge=1,
        eta_discharge=1,
        taper_start_soc=0,
        taper_end_share=1,
    )
    banks = [converter.battery or none for converter in converters]

    def array(values: list[float]) -> Floats:
        return np.array(values, dtype=float)

    return records.UnitArrays(
        phase=np.array([converter.phase for converter in converters], dtype=np.int64),
        rated_kw=array([converter.rated_kw for converter in converters]),
        k1=array([converter.k1 for converter in converters]),
        k2=array([converter.k2 for converter in converters]),
        pv_max_kw=array([converter.pv_max_kw for converter in converters]),
        e_floor=array([bank.capacity_kwh * bank.reserve_soc for bank in banks]),
        e_top=array([bank.capacity_kwh * bank.top_soc for bank in banks]),
        charge_kw=array([bank.charge_kw for bank in banks]),
        discharge_kw=array([bank.discharge_kw for bank in banks]),
        eta_charge=array([bank.eta_charge for bank in banks]),
        eta_discharge=array([bank.eta_discharge for bank in banks]),
        e_taper=array([bank.capacity_kwh * bank.taper_start_soc for bank in banks]),
        taper_end=array([bank.taper_end_share for bank in banks]),
        ac_charge=np.array([int(converter.ac_charge) for converter in converters], dtype=np.int64),
        keeps_limit=np.array([int(converter.keeps_limit) for converter in converters], dtype=np.int64),
    )


def simulate(
    converters: tuple[Converter, ...],
    pv_dc_kw: Floats,
    load_kw: Floats,
    windows: tuple[ChargeWindow, ...] = (),
    export_kw: float = np.inf,
    import_kw: float = np.inf,
    soc_start: float | None = None,
    step_h: float = STEP_H,
) -> Year:
    """Simulate any number of steps. pv_dc_kw (unit, step), load_kw (phase, step), at the tracker and the
    board.

    Batteries begin at `soc_start`, or at their reserve. Own use of the units is a load on their phase.
    """
    from lodestaff.energy import kernels  # compiled code is loaded when it is first needed

    units = unit_arrays(converters)
    n_units, n_steps = pv_dc_kw.shape
    capacity = np.array([c.battery.capacity_kwh if c.battery else 0.0 for c in converters])
    e_start = units.e_floor.copy() if soc_start is None else capacity * soc_start
    target, power = np.zeros((n_units, n_steps)), np.zeros((n_units, n_steps))
    for window in windows:
        for u in range(n_units):
            target[u, window.active] = np.minimum(capacity[u] * window.target_soc, units.e_top[u])
            power[u, window.active] = window.power_kw if converters[u].battery else 0.0
    own = np.zeros_like(load_kw)
    for converter in converters:
        own[converter.phase] += converter.own_use_kw
    series = kernels.dispatch(
        units,
        np.ascontiguousarray(pv_dc_kw),
        np.ascontiguousarray(load_kw + own),
        target,
        power,
        e_start,
        float(export_kw),
        float(import_kw),
        float(step_h),
    )
    return Year(series, load_kw, own_use_kw=own, pv_available_kw=pv_dc_kw, e_start_kwh=e_start, step_h=step_h)
