"""Battery power, current, charge time and the two couplings, against values computed twice elsewhere."""

import math

import pytest

from lodestaff.electrical.conductors import dc_drop
from lodestaff.energy.battery import battery_current, charge_hours
from lodestaff.job import Change, edit
from lodestaff.reckoning.findings import answers


def test_discharge_limit_of_one_two_three_modules(reckoner, larkmoor):
    """Source: derived; through a job: 5.12 kWh modules of 0.5 per hour behind 6 kW that invert with 95 % at
    any power."""
    powers = []
    for modules in (1, 2, 3):
        flat = [[share, 0.95] for share, _ in larkmoor.sheet_of(larkmoor.units[0]).efficiency]
        job = edit(
            larkmoor,
            Change("sheets/hybrids/hybrid-6/efficiency", flat),
            Change("sheets/batteries/battery-48/module_kwh", 5.12),
            Change("sheets/batteries/battery-48/discharge_c_per_h", 0.5),
            Change("banks/battery/modules", modules),
            Change("sheets/hybrids/hybrid-6/rated_kw", 6.0),
            Change("limits/discharge_kw", 9.0),
            Change("sheets/hybrids/hybrid-6/own_use_kw", 0.0),
            Change("sheets/hybrids/hybrid-6/discharge_kw", 9.0),
        )
        (one,) = answers(reckoner, job, "STO-POWER")
        assert one.value == pytest.approx(reckoner.converters(job)[0].bank_kw)
        powers.append(one.value)
    assert powers == pytest.approx([2.432, 4.864, 6.000], rel=1e-3)
    assert 4.2 - powers[0] == pytest.approx(1.768, rel=1e-3)
    assert next(n for n, kw in enumerate(powers, 1) if kw >= 4.2) == 2


def test_battery_current_cable_and_fuse():
    """Source: derived; IEC 60228 class 5 plain copper 50 mm2 0.386 ohm/km (from memory)."""
    found = battery_current(5000, 46, 0.94, 1.25, (100, 125, 150, 160, 175, 200))
    assert (found.current_a, found.design_a) == pytest.approx((115.6, 144.5), rel=1e-3)
    assert found.fuse_a == 150
    drop = dc_drop(1.5, 0.386, 70, found.current_a, 46)
    assert (drop.r_loop_ohm, drop.drop_v, drop.drop_pct, drop.loss_w) == pytest.approx(
        (0.001386, 0.1602, 0.3483, 18.53), rel=1e-3
    )
    assert battery_current(50_000, 46, 0.94, 1.25, (100,)).fuse_a is None


@pytest.mark.parametrize(("stop", "hours"), [(0.9, 1.792), (0.95, 1.962), (1.0, 2.447)])
def test_charge_time_with_a_taper(stop, hours):
    """Source: derived (linear taper: simplified model)."""
    assert charge_hours(15.36, 0.2, stop, 0.9, 6.0, 0.1) == pytest.approx(hours, rel=1e-3)


def test_charge_time_without_a_taper():
    assert charge_hours(10, 0.0, 1.0, 1.0, 5.0, 1.0) == pytest.approx(2.0)


def test_a_power_that_falls_to_nothing_never_fills_it():
    """The integral of dE/P without end (derived); up to 90 % it is that of a steady power."""
    assert charge_hours(10, 0.0, 1.0, 0.9, 5.0, 0.0) == math.inf
    assert charge_hours(10, 0.0, 0.9, 0.9, 5.0, 0.0) == pytest.approx(1.8)
