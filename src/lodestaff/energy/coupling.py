"""Efficiency of the ways from sun to circuit: DC-coupled and AC-coupled chains. Derived."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Chain:
    """Efficiencies: through the battery, straight to the circuits, and from the grid through the battery."""

    through_battery: float
    direct: float
    into_battery: float
    out_of_battery: float


def dc_coupled(mppt: float, dcdc_charge: float, battery: float, inverter: float) -> Chain:
    """Tracker, DC/DC converter, battery, inverter."""
    return Chain(mppt * dcdc_charge * battery * inverter, mppt * inverter, mppt * dcdc_charge, inverter)


def ac_coupled(pv_inverter: float, charger: float, battery: float, discharge: float) -> Chain:
    """Solar inverter, charger, battery, inverter."""
    return Chain(pv_inverter * charger * battery * discharge, pv_inverter, pv_inverter * charger, discharge)


@dataclass(frozen=True)
class DayThroughChain:
    """One day's energies in kWh: PV taken for load and battery, battery out, export, useful AC, loss."""

    pv_direct_kwh: float
    pv_battery_kwh: float
    battery_out_kwh: float
    export_kwh: float
    useful_kwh: float
    loss_kwh: float


def day_through(
    chain: Chain, battery: float, pv_kwh: float, load_kwh: float, into_battery_kwh: float
) -> DayThroughChain:
    """A day's PV through a chain: to the load, into the battery's terminals, the rest exported."""
    direct = load_kwh / chain.direct
    stored = into_battery_kwh / chain.into_battery
    out = into_battery_kwh * battery * chain.out_of_battery
    export = (pv_kwh - direct - stored) * chain.direct
    useful = load_kwh + out + export
    return DayThroughChain(
        direct, stored, battery_out_kwh=out, export_kwh=export, useful_kwh=useful, loss_kwh=pv_kwh - useful
    )
