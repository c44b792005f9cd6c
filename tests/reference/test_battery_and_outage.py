"""What a bank holds, and how long it lasts, against values computed twice elsewhere."""

import numpy as np
import pytest

from lodestaff.energy import records
from lodestaff.energy.battery import bank_energies
from lodestaff.energy.outage import run_outage


def test_usable_energy_health_floor_reserve():
    """Source: derived; common practice."""
    bank = bank_energies(3 * 5.12, 0.95, 0.1, 1, 0.3, 0.94)
    expected = {
        "nominal_kwh": 15.36, "capacity_kwh": 14.59, "usable_kwh": 13.13, "cycling_kwh": 10.21,
        "reserve_kwh": 2.918,
        "usable_ac_kwh": 12.34, "cycling_ac_kwh": 9.602, "reserve_ac_kwh": 2.743,
    }  # fmt: skip
    for name, value in expected.items():
        assert getattr(bank, name) == pytest.approx(value, rel=1e-3), name


def test_autonomy_through_a_night():
    """Source: derived; second computation: simulation in steps of 1 s. 9.2 kWh at the cells, 94 %, 50 W
    idle."""
    profile = np.array([1.1, 1.45, 1.2, 0.9, 0.6, 0.4, 0.35, 0.3, 0.3, 0.35, 0.55, 0.95, 1.25, 1]) + 0.05
    nothing = np.zeros_like(profile)
    arrays = records.OutageArrays(nothing, profile[None], nothing[None], nothing[None], np.zeros(0))
    island = records.Island(
        rated_kw=10,
        rated_kva=10,
        surge_kva=10,
        k1=0,
        k2=0,
        pv_max_kw=0,
        e_floor=0,
        e_top=9.2,
        capacity_kwh=9.2,
        charge_kw=5,
        discharge_kw=10,
        eta_charge=0.94,
        eta_discharge=0.94,
        e_taper=9.2,
        taper_end=1,
    )
    outage = run_outage(arrays, island, 0, 9.2, horizon_h=14, step_h=1.0)
    assert outage.reason == "energy"
    assert outage.hours == pytest.approx(11.60, rel=1e-3)
    assert (18 + outage.hours) % 24 == pytest.approx(5.598, rel=1e-3)
