"""A year of one system: from parts to unit arrays, and from series to yearly figures."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from lodestaff.energy import records
from lodestaff.energy.battery import ac_kw
from lodestaff.energy.calendar import STEP_H, Bools, Floats, Ints
from lodestaff.energy.control import Controller, control_arrays, plain

ROUNDING = 1e-12  # kW: what a sum of floats leaves of nothing


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
    """A unit with its own DC bus on one phase (by index). Without a battery it is a string inverter.

    `also` are further phases that it stands on: it gives each as much, or, `unequal`, each what it needs.
    """

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
    also: tuple[int, ...] = ()
    unequal: bool = False

    @property
    def phases(self) -> tuple[int, ...]:
        return (self.phase, *self.also)

    @property
    def bank_kw(self) -> float:
        """AC power that the bank gives through this unit: the least of inverter, cells and setting; 0
        without one."""
        return (
            0.0
            if self.battery is None
            else min(self.rated_kw, ac_kw(self.battery.discharge_kw, self.k1, self.k2))
        )


def most_ac_kw(converter: Converter, dc_kw: Floats) -> Floats:
    """AC power that a converter's sun could give in each step, shape of dc_kw."""
    b = 1.0 + converter.k1
    dc = np.minimum(dc_kw, converter.pv_max_kw)
    ac = 2.0 * dc / (b + np.sqrt(b * b + 4.0 * converter.k2 * dc))
    return np.asarray(np.minimum(ac, converter.rated_kw))


@dataclass(frozen=True)
class ChargeWindow:
    """What batteries are told while it lasts; `active` says in which steps, shape (T,).

    Charging goes from the grid to the target, giving goes to the grid down to it; `units` are those it is
    for, all where it names none.
    """

    active: Bools
    target_soc: float
    power_kw: float
    what: int = records.CHARGE
    units: tuple[int, ...] = ()


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
    taken_kw: Floats | None = None  # the same by surplus load, in the order of their circuits
    netted: bool = False  # whether the meter counts the sum of its phases
    island: "IslandYear | None" = None  # without a grid: what the generator did and what stayed unserved

    def kwh(self, series_kw: Floats) -> float:
        return float(series_kw.sum() * self.step_h)

    @property
    def metered_kw(self) -> Floats:
        """What the meter counts, import positive: shape (phase, step), or (1, step) where it sums its
        phases."""
        grid = self.series.grid_kw
        return grid.sum(axis=0, keepdims=True) if self.netted and grid.shape[0] > 1 else grid

    @property
    def import_kw(self) -> Floats:
        return np.clip(self.metered_kw, 0, None)

    @property
    def export_kw(self) -> Floats:
        return np.clip(-self.metered_kw, 0, None)


@dataclass(frozen=True)
class IslandYear:
    """A year without a grid, by step: what stayed unserved and what the generator gave, kW; its running
    hours, starts and fuel in litres (None: the fuel isn't known)."""

    unserved_kw: Floats
    generator_kw: Floats
    generator_h: float
    starts: int
    litres: float | None


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


def unit_arrays(converters: tuple[Converter, ...], led: Ints | None = None) -> records.UnitArrays:
    """The converters as the kernel takes them, `led` by which controller; the floor is the reserve, as with
    the grid."""
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
        control=np.zeros(len(converters), dtype=np.int64) if led is None else led,
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
    )


def onto_phases(converters: tuple[Converter, ...], out_kw: Floats, load_kw: Floats) -> Floats:
    """What units give to each phase, shape (phase, step), of out_kw (unit, step) and load_kw (phase, step).

    A unit on several phases gives each as much; one that can feed them unequally gives each what it draws,
    as far as its part of the rating goes, and the rest alike. What it takes, it takes alike. Derived.
    """
    given = np.zeros_like(load_kw)
    for converter, out in zip(converters, out_kw, strict=True):
        if not converter.also:
            given[converter.phase] += out
            continue
        rows = list(converter.phases)
        each = np.tile(out / len(rows), (len(rows), 1))
        if converter.unequal:
            drawn = np.clip(load_kw[rows], 0, converter.rated_kw / len(rows))
            total = drawn.sum(axis=0)
            part = np.minimum(1.0, np.divide(out, total, out=np.zeros_like(out), where=total > 0))
            fed = drawn * part
            each = np.where(out > 0, fed + (out - fed.sum(axis=0)) / len(rows), each)
        given[rows] += each
    return given


def orders_of(
    converters: tuple[Converter, ...], windows: tuple[ChargeWindow, ...], steps: int
) -> records.OrderArrays:
    """What each battery is told in each step; of windows that overlap the later one in the list holds."""
    count = len(converters)
    what = np.zeros((count, steps), dtype=np.int64)
    target, power = np.zeros((count, steps)), np.zeros((count, steps))
    for window in windows:
        for u, converter in enumerate(converters):
            bank = converter.battery
            if bank is None or (window.units and u not in window.units):
                continue
            what[u, window.active] = window.what
            target[u, window.active] = bank.capacity_kwh * min(window.target_soc, bank.top_soc)
            power[u, window.active] = window.power_kw
    return records.OrderArrays(what, target, power)


def none_ahead(units: int) -> records.Forecast:
    """No forecast: batteries charge as the sun comes."""
    nothing = np.zeros((units, 1))
    return records.Forecast(nothing, nothing, nothing, np.zeros(units))


def simulate(
    converters: tuple[Converter, ...],
    pv_dc_kw: Floats,
    load_kw: Floats,
    windows: tuple[ChargeWindow, ...] = (),
    export_kw: float = np.inf,
    import_kw: float = np.inf,
    soc_start: float | None = None,
    step_h: float = STEP_H,
    controllers: tuple[Controller, ...] = (),
    netted: bool = False,
    ahead: records.Forecast | None = None,
) -> Year:
    """Simulate any number of steps. pv_dc_kw (unit, step), load_kw (phase, step), at the tracker and the
    board.

    Batteries begin at `soc_start`, or at their reserve. Own use of the units is a load on their phase.
    Without `controllers` each phase has one that sees all of it, and all keep the limits in sum. With a
    forecast `ahead` batteries keep room for the sun that is to come.
    """
    from lodestaff.energy import kernels  # compiled code is loaded when it is first needed

    led_by = controllers or plain(
        tuple(other.phase for other in converters),
        tuple(other.keeps_limit for other in converters),
        load_kw=load_kw,
        export_kw=export_kw,
        import_kw=import_kw,
    )
    controls, led = control_arrays(led_by, tuple(other.own_use_kw for other in converters))
    units = unit_arrays(converters, led)
    capacity = np.array([c.battery.capacity_kwh if c.battery else 0.0 for c in converters])
    e_start = units.e_floor.copy() if soc_start is None else capacity * soc_start
    own = np.zeros_like(load_kw)
    for converter in converters:
        for phase in converter.phases:
            own[phase] += converter.own_use_kw / len(converter.phases)
    orders = orders_of(converters, windows, load_kw.shape[1])
    series = kernels.dispatch(
        units,
        controls,
        np.ascontiguousarray(pv_dc_kw),
        orders,
        ahead=ahead or none_ahead(len(converters)),
        e_start=e_start,
        dt=float(step_h),
    )
    whole = load_kw + own
    grid = whole - onto_phases(converters, series.pv_ac_kw + series.battery_ac_kw, whole)
    grid[np.abs(grid) < ROUNDING] = 0.0
    return Year(
        series._replace(grid_kw=grid),
        load_kw,
        own_use_kw=own,
        pv_available_kw=pv_dc_kw,
        e_start_kwh=e_start,
        step_h=step_h,
        netted=netted,
    )
