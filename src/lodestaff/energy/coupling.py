"""Efficiency of the ways from sun to circuit: DC-coupled and AC-coupled chains. Derived."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Chain:
    """Efficiencies: through the battery, and straight to the circuits."""

    through_battery: float
    direct: float


def dc_coupled(mppt: float, dcdc_charge: float, battery: float, inverter: float) -> Chain:
    """Tracker, DC/DC converter, battery, inverter."""
    return Chain(mppt * dcdc_charge * battery * inverter, mppt * inverter)


def ac_coupled(pv_inverter: float, charger: float, battery: float, discharge: float) -> Chain:
    """Solar inverter, charger, battery, inverter."""
    return Chain(pv_inverter * charger * battery * discharge, pv_inverter)
