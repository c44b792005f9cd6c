"""One cycle of arbitrage and the two ways to couple a battery, each reached through a job."""

import pytest
from tests.reference.seam import sample
from tests.reference.test_year_through_jobs import demo

from lodestaff.reckoning import Moment, Reckoner
from lodestaff.reckoning.readings import limits_readings
from lodestaff.reckoning.results import compute
from lodestaff.reckoning.station_readings import storage_readings

PRICES = {"tariff/import_low": 0.075, "tariff/import_high": 0.285, "tariff/export": 0.15,
          "wishes/wear_per_kwh": 0.02}  # fmt: skip


def figure(job, quantity, readings=limits_readings):
    told = readings(compute(Reckoner(), job, Moment(), False))
    found = next((reading.figure for reading in told if reading.quantity == quantity), None)
    return found, {row.name: row.value for row in found.inputs} if found else {}


def test_one_cycle_of_arbitrage():
    """Source: derived; break-even by root finding. 9.5 kWh usable, 95.5 % each way: 9.948 kWh in, 9.072 out,
    1.658 gained, 0.9121 of sun that would go out; it pays above 0.1022 a kWh."""
    changes = {**PRICES, "sheets/batteries/battery-48/eta_round_trip": 0.955**2}
    cycle, rows = figure(demo(kwh=9.5, changes=changes), "night charge")
    assert cycle.value == pytest.approx(1.658, rel=1e-3)
    assert rows["in"] == pytest.approx(9.948, rel=1e-3)
    assert rows["out"] == pytest.approx(9.072, rel=1e-3)
    assert rows["round trip"] == pytest.approx(91.20, rel=1e-3)
    assert rows["of sun that would go out"] == pytest.approx(0.9121, rel=1e-3)
    assert rows["break-even high price"] == pytest.approx(0.1022, rel=1e-3)


def test_all_batteries_take_part_each_by_its_own_sheets():
    """By hand: what a job's banks take in and give is the sum of theirs alone."""
    both = sample("sotol-ridge-house", {"tariff/import_low": 0.1, "tariff/import_high": 0.3})
    assert len(both.banks) > 1
    _, rows = figure(both, "night charge")
    into = 0.0
    for bank in both.banks:
        cells, sheet = both.sheets.batteries[bank.sheet], both.sheet_of(both.unit(bank.unit))
        way = cells.eta_round_trip**0.5 * sheet.eta_dcdc * max(eta for _, eta in sheet.efficiency)
        swing = cells.top_soc - max(both.limits.reserve_soc, cells.floor_soc)
        into += bank.modules * cells.module_kwh * bank.state_of_health * swing / way
    assert rows["in"] == pytest.approx(into)


def test_hours_that_are_not_cheaper_gain_nothing_and_nobody_is_told():
    flat = {**PRICES, "tariff/import_low": 0.285}
    assert figure(demo(kwh=9.5, changes=flat), "night charge") == (None, {})
    kept = {**PRICES, "limits/reserve_soc": 1.0}
    cycle, rows = figure(demo(kwh=9.5, changes=kept), "night charge")
    assert (cycle.value, rows["in"]) == (0.0, 0.0)


def test_the_chain_on_one_dc_bus():
    """Source: derived. 98.5 % tracker, 97.5 % converter both ways together, 95.5 % battery, 96.2 % inverter:
    88.23 % through the battery, 94.76 % straight."""
    changes = {
        "sheets/hybrids/hybrid-6/eta_mppt": 0.985, "sheets/hybrids/hybrid-6/eta_dcdc": 0.975**0.5,
        "sheets/hybrids/hybrid-6/efficiency": [[1.0, 0.962]],
        "sheets/batteries/battery-48/eta_round_trip": 0.955,
    }  # fmt: skip
    chain, rows = figure(demo(kwh=9.5, changes=changes), "stored sun", storage_readings)
    assert chain.value == pytest.approx(88.23, abs=6e-3)
    assert rows["straight to the circuits"] == pytest.approx(94.76, abs=6e-3)


def test_the_chain_over_ac_and_back():
    """Source: derived. 97 % solar inverter, 95 % charger, 95.5 % battery, 95 % inverter: 83.60 % through the
    battery, 97 % straight, 86.19 % of what the grid brings."""
    job = sample(
        "brockle-vicarage",
        {
            **PRICES, "sheets/inverters/inverter-6/eta_euro": 0.97,
            "sheets/battery_units/battery-unit-8/eta_inverter": 0.95,
            "sheets/batteries/battery-98/eta_round_trip": 0.955,
        },
    )  # fmt: skip
    chain, rows = figure(job, "stored sun", storage_readings)
    assert chain.value == pytest.approx(83.60, abs=6e-3)
    assert rows["straight to the circuits"] == pytest.approx(97.0)
    _, rows = figure(job, "night charge")
    assert rows["round trip"] == pytest.approx(86.19, abs=6e-3)
