"""Hourly dispatch, the two chains, the bill and the generator, each reached through a job."""

import numpy as np
import pytest
from tests.reference.seam import HOUR, Given, flat_battery, flat_hybrid, hours_from, sample

from lodestaff.energy.calendar import STEPS

PV = [0, 0, 0, 0, 0, 0.1, 0.4, 1.1, 2.3, 3.6, 4.7, 5.5, 5.9, 5.7, 5, 4, 2.8, 1.6, 0.7, 0.2, 0, 0, 0, 0]
LOAD = [0.35, 0.3, 0.3, 0.3, 0.35, 0.5, 1.1, 1.4, 0.9, 0.7, 0.6, 0.8, 1.2, 0.7, 0.6, 0.7, 0.9, 1.8, 3.4, 2.9,
        2, 1.4, 0.8, 0.5]  # fmt: skip
NOON = 100 * 24  # an hour of the year at midnight


def demo(**more):
    """The demo as one loss-free hybrid with one module, without windows, in reach of any limit."""
    return sample(
        "larkmoor",
        {
            **flat_hybrid("hybrid-6"), **flat_battery("battery-48", module_kwh=more.pop("kwh")),
            "banks/battery/modules": 1, "banks/battery/state_of_health": 1.0, "limits/windows": [],
            "limits/charge_kw": 50.0, "limits/discharge_kw": 50.0, "limits/import_kw": 90.0,
            "limits/export_kw": 90.0, "limits/reserve_soc": 0.0, **more.pop("changes"),
        },
    )  # fmt: skip


def test_greedy_self_consumption_over_a_day():
    """Source: derived; exact fractions, and a linear programme for the import.

    A step of sun before the day brings the battery from its reserve to the example's 3 kWh. The example's
    hours stand in the year's steps, so that energies are a quarter of its own, the battery's too.
    """
    job = demo(
        kwh=9.6 / HOUR,
        changes={
            "sheets/batteries/battery-48/eta_round_trip": 0.95**2, "limits/reserve_soc": 0.2,
            "limits/charge_kw": 2.5, "limits/discharge_kw": 2.5, "limits/export_kw": 2.5,
        },
    )  # fmt: skip
    before = (3.0 - 1.92) / 0.95
    sun, load = np.zeros(STEPS), np.zeros(STEPS)
    sun[NOON - 1 : NOON + 24], load[NOON : NOON + 24] = [before, *PV], LOAD
    reckoner = Given({"hybrid": sun}, {job.circuits[0].id: load})
    figures = reckoner.figures(job)
    assert figures.import_kwh * HOUR == pytest.approx(4.978, abs=6e-4)
    assert figures.export_kwh * HOUR == pytest.approx(16.40, abs=6e-3)
    assert figures.curtailed_kwh * HOUR == pytest.approx(7.916, abs=6e-4)
    assert figures.battery_in_kwh * HOUR == pytest.approx(8.084 + before, abs=6e-4)
    assert figures.battery_out_kwh * HOUR == pytest.approx(8.322, abs=6e-4)
    assert figures.self_sufficiency == pytest.approx(0.7968, abs=6e-5)
    ends = reckoner.year(job).series.energy_kwh[0, NOON : NOON + 24] * HOUR
    assert ends[[0, 8, 11, 18, 23]] == pytest.approx([2.632, 3.250, 9.600, 6.758, 1.920], abs=6e-4)


def test_a_dc_coupled_day_and_its_losses():
    """Source: derived. 24 kWh of sun, 9 kWh of load by day, 8 kWh at the battery's terminals."""
    mppt, dcdc, cells, inverter = 0.985, 0.975, 0.955, 0.962
    kept = 8.0 * cells**0.5 / dcdc**0.5  # in the cells: here the converter's loss stands half on either way
    job = demo(
        kwh=kept,
        changes={
            "sheets/hybrids/hybrid-6/efficiency": [[1.0, inverter]],
            "sheets/hybrids/hybrid-6/eta_dcdc": dcdc**0.5,
            "sheets/batteries/battery-48/eta_round_trip": cells,
        },
    )
    sun, load = hours_from(NOON + 8, [24 * mppt / 8] * 8), hours_from(NOON + 8, [9 / 8] * 8)
    night = hours_from(NOON + 20, [5.0] * 2)
    figures = Given({"hybrid": sun}, {job.circuits[0].id: load + night}).figures(job)
    by_battery = 10 - figures.import_kwh
    assert by_battery == pytest.approx(7.350, abs=6e-4)
    assert figures.export_kwh == pytest.approx(5.848, abs=6e-4)
    assert 9 + by_battery + figures.export_kwh == pytest.approx(22.20, abs=6e-3)


def test_an_ac_coupled_day_and_its_losses():
    """Source: derived. The same day with a solar inverter and a battery unit of its own."""
    changes = {
        **{f"sheets/battery_units/battery-unit-8/{field}": value for field, value in (
            ("eta_inverter", 0.95), ("own_use_kw", 0.0), ("charge_kw", 50.0), ("discharge_kw", 50.0),
            ("rated_kw", 50.0), ("rated_kva", 50.0), ("surge_kva", 90.0))},
        "sheets/inverters/inverter-6/eta_euro": 0.97,
        **flat_battery("battery-98", module_kwh=8.0 * 0.955**0.5, eta_round_trip=0.955),
        "banks/battery/modules": 1, "banks/battery/state_of_health": 1.0, "limits/charge_kw": 50.0,
        "limits/discharge_kw": 50.0, "limits/import_kw": 90.0, "limits/export_kw": 90.0,
        "limits/reserve_soc": 0.0, "limits/windows": [],
    }  # fmt: skip
    job = sample("brockle-vicarage", changes)
    sun, load = hours_from(NOON + 8, [3.0] * 8), hours_from(NOON + 8, [9 / 8] * 8)
    night = hours_from(NOON + 20, [5.0] * 2)
    reckoner = Given({"inverter": sun}, {job.circuits[0].id: load + night})
    figures = reckoner.figures(job)
    by_battery = 10 - figures.import_kwh
    assert by_battery == pytest.approx(7.258, abs=6e-4)
    assert figures.export_kwh == pytest.approx(5.859, abs=6e-4)
    assert 9 + by_battery + figures.export_kwh == pytest.approx(22.12, abs=6e-3)


def test_self_consumption_self_sufficiency_and_the_bill():
    """Source: derived. Each day alike: sun by day, the battery's part in the evening, import at night."""
    direct, charged, given, exported, imported = 1420.0, 1220.0, 1000.0, 1560.0, 1480.0
    one_way = (given / charged) ** 0.5
    job = demo(
        kwh=charged / 365 * one_way,
        changes={
            "sheets/batteries/battery-48/eta_round_trip": given / charged, "tariff/import_high": 0.285,
            "tariff/import_low": 0.285, "tariff/export": 0.15, "tariff/standing_per_day": 0.55,
        },
    )  # fmt: skip
    day = np.zeros((24, 2))
    day[8:16] = np.array([direct + charged + exported, direct]) / 365 / 8
    day[17:19, 1], day[20:22, 1] = given / 365 / 2, imported / 365 / 2
    sun, load = (np.tile(np.repeat(day[:, column], HOUR), 365) for column in (0, 1))
    figures = Given({"hybrid": sun}, {job.circuits[0].id: load}).figures(job)
    assert (figures.pv_kwh, figures.load_kwh) == pytest.approx((4200, 3900))
    assert (figures.import_kwh, figures.export_kwh) == pytest.approx((1480, 1560))
    assert figures.self_consumption == pytest.approx(0.6286, abs=6e-5)
    assert figures.self_sufficiency == pytest.approx(0.6205, abs=6e-5)
    assert figures.battery_loss_kwh == pytest.approx(220.0)
    assert figures.bill == pytest.approx(388.5, abs=0.06)
    assert figures.money.without == pytest.approx(1312, abs=0.6)
    assert figures.money.saving == pytest.approx(923.7, abs=0.06)


def test_no_unit_without_a_place_for_its_sun(larkmoor):
    """The seam gives a year for every unit and circuit: none of the job's own series is left in."""
    reckoner = Given()
    assert not reckoner.pv_dc_kw(larkmoor).any()
    assert reckoner.load_kw(larkmoor).shape[1] == STEPS
    assert not reckoner.load_kw(larkmoor).any()
