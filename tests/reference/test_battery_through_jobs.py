"""Power by modules, a night's autonomy and the hours to full, each reached through a job."""

import numpy as np
import pytest
from tests.reference.seam import Given
from tests.reference.test_year_through_jobs import demo

from lodestaff.checks.storage import BankPower
from lodestaff.energy.calendar import STEPS
from lodestaff.reckoning import Moment, Reckoner
from lodestaff.reckoning.records import RECORDS
from lodestaff.reckoning.results import compute
from lodestaff.reckoning.station_readings import storage_readings

FROM_18H = [1.1, 1.45, 1.2, 0.9, 0.6, 0.4, 0.35, 0.3, 0.3, 0.35, 0.55, 0.95, 1.25, 1]


def test_power_of_one_two_and_three_modules():
    """Source: derived; exact fractions. 2.432, 4.864 and 6.000 kW; two modules carry 4.2 kW."""
    job = demo(
        kwh=5.12,
        changes={
            "sheets/batteries/battery-48/discharge_c_per_h": 0.5,
            "sheets/hybrids/hybrid-6/efficiency": [[1.0, 0.95]],
            "sheets/hybrids/hybrid-6/rated_kw": 6.0,
        },
    )
    (record,) = RECORDS[BankPower](Reckoner(), job, False)
    given = [record.discharge_kw(modules) for modules in (1, 2, 3)]
    assert given == pytest.approx([2.432, 4.864, 6.000], abs=6e-4)
    assert next(modules for modules in (1, 2, 3) if record.discharge_kw(modules) >= 4.2) == 2


def test_what_three_modules_hold_and_keep():
    """Source: derived; common practice; exact fractions. 14.59 kWh, of them 13.13 usable, 10.21 for every
    day, 2.918 kept; as AC 12.34, 9.602, 2.743."""
    job = demo(
        kwh=5.12,
        changes={
            "banks/battery/modules": 3, "banks/battery/state_of_health": 0.95, "limits/reserve_soc": 0.3,
            "sheets/batteries/battery-48/floor_soc": 0.1,
            "sheets/batteries/battery-48/eta_round_trip": 0.94**2,
        },
    )  # fmt: skip
    readings = storage_readings(compute(Reckoner(), job, Moment(), False))
    figure = next(one for one in readings if one.quantity == "held").figure
    given = {row.name: row.value for row in figure.inputs}
    assert figure.value == pytest.approx(9.602, abs=6e-4)
    assert given["nominal"] == pytest.approx(15.36)
    assert given["capacity"] == pytest.approx(14.59, abs=6e-3)
    assert given["usable"] == pytest.approx(13.13, abs=6e-3)
    assert given["for every day"] == pytest.approx(10.21, abs=6e-3)
    assert given["kept for outages"] == pytest.approx(2.918, abs=6e-4)
    assert given["usable on the way out"] == pytest.approx(12.34, abs=6e-3)
    assert given["kept, on the way out"] == pytest.approx(2.743, abs=6e-4)


def test_a_night_without_the_grid():
    """Source: derived; simulation in 1 s steps. 8.648 kWh as AC last 11.60 h from six in the evening."""
    job = demo(
        kwh=9.2,
        changes={
            "sheets/batteries/battery-48/eta_round_trip": 0.94**2,
            "sheets/hybrids/hybrid-6/own_use_kw": 0.05,
        },
    )
    unit = job.units[0]
    day = np.zeros(24)
    for hour, kw in enumerate(FROM_18H, 18):
        day[hour % 24] = kw
    held = next(circuit for circuit in Reckoner().backed(job, unit).circuits if circuit.role == "held")
    reckoner = Given(load={held.id: np.tile(np.repeat(day, 4), STEPS // 96)})
    found = reckoner.outage(job, unit, Moment(month=1, hour=18.0, soc=1.0))
    assert found.hours == pytest.approx(11.60, abs=6e-3)
    assert found.reason == "energy"


def test_from_a_fifth_to_full():
    """Source: derived (linear taper: simplified model). 1.792 h at 6 kW, then 0.6550 h: 2.447 h in all."""
    job = demo(
        kwh=15.36,
        changes={
            "sheets/batteries/battery-48/taper_start_soc": 0.9,
            "sheets/batteries/battery-48/taper_end_share": 0.1,
            "limits/charge_kw": 6.0,
            "limits/reserve_soc": 0.2,
        },
    )
    readings = storage_readings(compute(Reckoner(), job, Moment(), False))
    hours = next(one for one in readings if one.name == "Full from the reserve in")
    assert hours.figure.value == pytest.approx(2.447, abs=6e-4)
