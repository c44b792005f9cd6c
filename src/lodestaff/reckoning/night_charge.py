"""What one charge of the batteries in the cheap hours gains, used in the dear ones."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.tariff import Cycle, cycle_gain
from lodestaff.job import Bank, Job
from lodestaff.quantities import Figure, Input, Provenance, Source
from lodestaff.reckoning.reckoner import Reckoner


@dataclass(frozen=True)
class CheapHours:
    """Mean prices of a kWh: in the cheap hours, in all others, and what one earns that goes out."""

    low: float
    high: float
    export: float


def cheap_hours(reckoner: Reckoner, job: Job) -> CheapHours | None:
    """The prices of a job's tariff, of whatever form; None where no hours are cheaper than others."""
    if not job.mains.grid or not job.banks:
        return None
    low, price = reckoner.low_band(job), reckoner.import_price(job)
    if low.all() or not low.any() or price[~low].mean() - price[low].mean() < 1e-9:
        return None
    export = float(np.mean(reckoner.export_price(job)))
    return CheapHours(float(price[low].mean()), float(price[~low].mean()), export)


def night_charge(job: Job, hours: CheapHours) -> tuple[Figure, float]:
    """What one cycle of all batteries, charged in the cheap hours, gains; and above which price it pays."""
    cycles = [_cycle(job, bank, hours) for bank in job.banks]
    into, out = sum(cycle.in_kwh for cycle in cycles), sum(cycle.out_kwh for cycle in cycles)
    gain, money = sum(cycle.gain_from_grid for cycle in cycles), job.tariff.currency
    wear, comes_back = job.wishes.wear_per_kwh, out / into if into > 0 else 1.0  # 1: all is kept for outages
    above = hours.low / comes_back + wear
    figure = Figure(
        "One night charge, used by day",
        gain,
        unit=money,
        formula="out x (high price − wear) − in x low price",
        inputs=(
            Input("in", into, "kWh"),
            Input("out", out, "kWh"),
            Input("round trip", 100 * comes_back, "%", "battery, converter, inverter at its best"),
            Input("low, mean of the cheap hours", hours.low, f"{money}/kWh"),
            Input("high, mean of the others", hours.high, f"{money}/kWh"),
            Input("wear of the battery", wear, f"{money}/kWh", "a kWh out"),
            Input("break-even high price", above, f"{money}/kWh"),
            Input("of sun that would go out", sum(cycle.gain_from_sun for cycle in cycles), money),
        ),
        source=Source("arbitrage of one cycle", Provenance.DERIVED),
    )
    return figure, above


def _cycle(job: Job, bank: Bank, hours: CheapHours) -> Cycle:
    """One cycle of a bank between its reserve and its top."""
    cells, sheet = job.sheets.batteries[bank.sheet], job.sheet_of(job.unit(bank.unit))
    one_way = cells.eta_round_trip**0.5 * sheet.eta_dcdc * max(eta for _, eta in sheet.efficiency)
    swing = max(0.0, cells.top_soc - max(job.limits.reserve_soc, cells.floor_soc))
    return cycle_gain(
        bank.modules * cells.module_kwh * bank.state_of_health * swing,
        one_way,
        eta_discharge=one_way,
        price_low=hours.low,
        price_high=hours.high,
        export_price=hours.export,
        wear_per_kwh=job.wishes.wear_per_kwh,
    )
