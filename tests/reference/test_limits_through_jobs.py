"""Export limits, in an interval of a job's year and phase by phase, each reached through a job."""

import numpy as np
import pytest
from tests.reference.seam import HOUR, STEPS, Given, hours_from, sample
from tests.reference.test_year_through_jobs import NOON

from lodestaff.job import Change, edit
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.findings import answers


def held_back(limit_kw, obeys=("inverter",)):
    """A solar inverter of 6 kW and a battery unit that takes 2.4 kW for an hour, then is full."""
    flat = {"eta_round_trip": 1.0, "charge_c_per_h": 4.0, "discharge_c_per_h": 4.0, "floor_soc": 0.0,
            "top_soc": 1.0, "taper_start_soc": 1.0, "taper_end_share": 1.0, "module_kwh": 2.4}  # fmt: skip
    inverter = {"eta_euro": 1.0, "rated_kw": 6.0, "rated_kva": 6.0, "max_dc_kw": 90.0}
    unit = {"eta_inverter": 1.0, "own_use_kw": 0.0, "charge_kw": 2.4, "rated_kw": 8.0}
    job = sample(
        "brockle-vicarage",
        {
            **{f"sheets/batteries/battery-98/{key}": value for key, value in flat.items()},
            **{f"sheets/inverters/inverter-6/{key}": value for key, value in inverter.items()},
            **{f"sheets/battery_units/battery-unit-8/{key}": value for key, value in unit.items()},
            "banks/battery/modules": 1, "banks/battery/state_of_health": 1.0,
            "limits/export_kw": limit_kw, "limits/charge_kw": 2.4, "limits/reserve_soc": 0.0,
            "limits/windows": [], "limits/import_kw": 90.0, "parts/ct/obeyed_by": list(obeys),
        },
    )  # fmt: skip
    reckoner = Given(
        sun={"inverter": hours_from(NOON, [7.2, 7.2])}, load={"fridge": hours_from(NOON, [0.9, 0.9])}
    )
    return reckoner.year(job), job


def test_an_export_limit_with_the_battery_charging_and_full():
    """Source: derived; a linear programme for the largest export. 7.2 kW of sun at an inverter of 6: 1.2
    clipped; charging 2.4 kW exports 2.7, full 3.68 with 1.42 held back."""
    year, job = held_back(3.68)
    inverter = next(at for at, unit in enumerate(job.units) if unit.id == "inverter")
    charging, full = NOON * HOUR + 1, (NOON + 1) * HOUR + 1
    assert year.series.clipped_kw[inverter, charging] == pytest.approx(1.2)
    assert year.export_kw[0, charging] == pytest.approx(2.7)
    assert year.series.curtailed_kw[inverter, charging] == pytest.approx(0.0)
    assert year.export_kw[0, full] == pytest.approx(3.68)
    assert year.series.curtailed_kw[inverter, full] == pytest.approx(1.42)
    assert year.series.pv_ac_kw[inverter, full] == pytest.approx(4.58)


def test_who_obeys_no_transformer_goes_past_the_limit_and_the_year_says_so():
    """The same inverter, which follows nothing: 5.1 kW go out."""
    year, job = held_back(3.68, obeys=())
    assert year.export_kw[0, (NOON + 1) * HOUR + 1] == pytest.approx(5.1)
    told = answers(Reckoner(), job, "LIM-EXPORT: site")
    assert any(one.blocks and "keeps no limit" in one.text for one in told)


def test_two_inverters_on_two_of_three_phases():
    """Source: derived; proportional reduction: design choice. 5.0 and 3.6 kW over 0.8, 2.1 and 1.5 of load:
    3.68 kW go out on L1, 1.5 on L2, 1.5 come in on L3; with 3 kW in sum 3.197 and 1.303 go out."""
    sheets = {"sheets/hybrids/hybrid-5/rated_kw": 5.0, "sheets/hybrids/hybrid-8/rated_kw": 3.6}
    changes = {
        **sheets, "units/hybrid-2/sheet": "hybrid-8", "site/phases": ["L1", "L2", "L3"],
        "mains/system": "three phases",
        "circuits/hob/phase": "L3", "limits/export_kw": 3.68, "site/permission/parallel_state": "not asked",
    }  # fmt: skip
    job = sample("harrow-mill-flats", changes)
    always = np.ones(STEPS)
    loads = {"fridge": 0.8 * always, "lights-down": 2.1 * always, "hob": 1.5 * always}
    (told,) = answers(Given(load=loads), job, "LIM-EXPORT: phases")
    assert "L1 exports 3.68 kW, L2 exports 1.50 kW, L3 imports 1.50 kW" in told.text
    assert told.figure.value == pytest.approx(0.52)
    (told,) = answers(Given(load=loads), edit(job, Change("limits/export_kw", 3.0)), "LIM-EXPORT: phases")
    assert "L1 exports 3.20 kW, L2 exports 1.30 kW" in told.text
    assert told.figure.value == pytest.approx(0.52 + 0.68)
