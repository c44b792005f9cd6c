"""Money: two import bands, an export price, a standing charge."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import Floats, Ints


@dataclass(frozen=True)
class Bill:
    """A year's money in currency units; `without` is the bill with neither array nor battery."""

    import_cost: float
    export_income: float
    standing: float
    without: float
    demand: float = 0.0  # for the highest import of each month

    @property
    def bill(self) -> float:
        return self.import_cost - self.export_income + self.standing + self.demand

    @property
    def saving(self) -> float:
        return self.without - self.bill


NO_BILL = Bill(0.0, 0.0, 0.0, 0.0)  # where there is no grid


def bill(
    import_kw: Floats,
    export_kw: Floats,
    load_kw: Floats,
    price: Floats,
    export_price: float | Floats,
    standing_per_day: float,
    days: float,
    step_h: float,
    demand_price: float = 0.0,
    months: Ints | None = None,
) -> Bill:
    """The bill of a period. Powers (phase, step) in kW, import price per step in currency units per kWh.

    bill = sum(import x price) - sum(export x export price) + standing x days + highest import of each month x
    demand price; each phase is metered alone. `months` by step, where there is a demand price.
    """
    highest = [0.0, 0.0]
    if demand_price > 0 and months is not None:
        highest = [
            sum(float(power.sum(axis=0)[months == month].max()) for month in np.unique(months))
            for power in (import_kw, load_kw)
        ]
    return Bill(
        import_cost=float((import_kw.sum(axis=0) * price).sum() * step_h),
        export_income=float((export_kw.sum(axis=0) * export_price).sum() * step_h),
        standing=standing_per_day * days,
        without=float((load_kw.sum(axis=0) * price).sum() * step_h)
        + standing_per_day * days
        + highest[1] * demand_price,
        demand=highest[0] * demand_price,
    )


def price_steps(high: float, low: float, low_active: np.ndarray) -> Floats:
    """Import price of each step."""
    return np.where(low_active, low, high).astype(float)


def self_consumption(pv_kwh: float, export_kwh: float) -> float:
    """Own solar energy used on site over what was produced; 0 where nothing was."""
    return 1 - export_kwh / pv_kwh if pv_kwh > 0 else 0.0


def self_sufficiency(load_kwh: float, import_kwh: float) -> float:
    """Load met without import; 1 where there is no load. Below 0 where charging buys more than the load."""
    return 1 - import_kwh / load_kwh if load_kwh > 0 else 1.0


@dataclass(frozen=True)
class Cycle:
    """One full cycle of the usable energy: what it takes in, gives, and gains."""

    in_kwh: float
    out_kwh: float
    gain_from_grid: float
    gain_from_sun: float
    break_even_price: float


def cycle_gain(
    usable_kwh: float,
    eta_charge: float,
    eta_discharge: float,
    price_low: float,
    price_high: float,
    export_price: float,
    wear_per_kwh: float = 0.0,
) -> Cycle:
    """Gain of charging low (or from sun that would be exported) and using it in the high band.

    in = usable / eta_charge; out = usable x eta_discharge; gain = out x (high - wear) - in x low;
    break-even high price = low / (eta_charge x eta_discharge) + wear. Derived.
    """
    into, out = usable_kwh / eta_charge, usable_kwh * eta_discharge
    worth = out * (price_high - wear_per_kwh)
    return Cycle(
        into,
        out,
        worth - into * price_low,
        worth - into * export_price,
        price_low / (eta_charge * eta_discharge) + wear_per_kwh,
    )
