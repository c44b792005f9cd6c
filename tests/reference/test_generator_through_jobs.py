"""The generator of a system without a grid, each example reached through a job."""

import numpy as np
import pytest
from tests.reference.seam import Given, flat_battery, flat_hybrid, sample

from lodestaff.checks.generator import Shared
from lodestaff.energy.calendar import STEP_H, STEPS
from lodestaff.reckoning.findings import answers
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records import RECORDS


def cottage(eta, charge_kw, **more):
    """The cottage as one hybrid of one efficiency with 20.48 kWh, a large generator, and no sun."""
    return sample(
        "skerry-light-cottage",
        {
            **flat_hybrid("hybrid-6", efficiency=[[1.0, eta]]),
            **flat_battery("battery-48", module_kwh=4.096),
            "banks/battery/modules": 5, "banks/battery/state_of_health": 1.0, "limits/charge_kw": charge_kw,
            "limits/discharge_kw": 50.0, "parts/generator/rated_kva": 60.0, "parts/generator/start_soc": 0.25,
            **more,
        },
    )  # fmt: skip


def year_with(job, load_kw):
    """The year with this load on one circuit that the island carries."""
    unit = job.units[0]
    carried = Reckoner().backed(job, unit).circuits
    return Given(load={carried[0].id: np.full(STEPS, load_kw)})


def test_a_generator_starts_and_stops_by_the_charge():
    """Source: derived; common practice. Quarters of an hour stand for the example's seconds."""
    job = cottage(0.93, 4.2, **{"parts/generator/stop_soc": 0.8})
    reckoner = year_with(job, 1.65)
    year, figures = reckoner.year(job), reckoner.figures(job)
    running = year.island.generator_kw > 0
    drain = 1.65 / 0.93
    assert -year.series.energy_kwh[0, 1] + year.series.energy_kwh[0, 0] == pytest.approx(drain * STEP_H)
    assert drain == pytest.approx(1.774, abs=6e-4)
    first = int(np.argmax(running)) * STEP_H  # from half full, as the year begins
    assert first == pytest.approx((0.5 - 0.25) * 20.48 / drain, abs=STEP_H)
    assert figures.generator_h / 365 == pytest.approx(7.127, rel=0.01)
    assert figures.generator_h / figures.generator_starts == pytest.approx(2.682, abs=STEP_H)
    assert 8760 / figures.generator_starts == pytest.approx(9.031, rel=0.06)
    assert figures.unserved_kwh == 0


def test_the_generators_energy_and_fuel_to_four_fifths():
    """Source: derived. To 80 %: 2.253 h, 15.40 kWh, 5.543 l; what it gives while it runs, and its fuel."""
    told = {"value": 0.36, "known": "told"}
    job = cottage(0.92, 5.0, **{"parts/generator/stop_soc": 0.8, "parts/generator/litre_per_kwh": told})
    figures = year_with(job, 1.4).figures(job)
    power = 15.40 / 2.253
    assert power == pytest.approx(5.0 / 0.92 + 1.4, abs=2e-3)
    assert figures.generator_kwh / figures.generator_h == pytest.approx(power, rel=0.01)
    assert figures.generator_h / figures.generator_starts == pytest.approx(2.253, abs=STEP_H)
    assert figures.fuel_litres / figures.generator_kwh == pytest.approx(5.543 / 15.40, rel=1e-3)


def test_a_taper_near_full_costs_hours():
    """Source: derived. From 25 % to 95 % takes 3.043 h, to 99 % 3.512 h, with 5 kW that fall to 1 from 85
    %.
    """
    hours = {}
    for stop in (0.95, 0.99):
        job = cottage(
            0.92,
            5.0,
            **{
                "parts/generator/stop_soc": stop, "sheets/batteries/battery-48/taper_start_soc": 0.85,
                "sheets/batteries/battery-48/taper_end_share": 0.2,
            },
        )  # fmt: skip
        figures = year_with(job, 1.4).figures(job)
        hours[stop] = figures.generator_h / figures.generator_starts
    assert hours[0.95] == pytest.approx(3.043, abs=STEP_H)
    assert hours[0.99] == pytest.approx(3.512, abs=STEP_H)
    assert hours[0.99] - hours[0.95] == pytest.approx(0.4692, abs=STEP_H)


def test_a_start_by_volts_is_open_and_no_year_has_it():
    """No sheet says what volts a charge and a load make: nothing is reckoned, and the check says so."""
    job = cottage(0.93, 4.2, **{"parts/generator/start_by": "volts", "parts/generator/start_v": 47.5})
    reckoner = year_with(job, 1.65)
    assert reckoner.figures(job).generator_h == 0
    assert reckoner.figures(job).unserved_kwh > 0
    (found,) = answers(reckoner, job, "LIM-GEN: start and stop")
    assert found.status == "open"
    assert "47.5 V" in found.text


CURVE = [[0.0, 46.0], [0.2, 49.0], [0.9, 53.0], [1.0, 55.0]]
BY_VOLTS = {
    "parts/generator/start_by": "volts", "parts/generator/start_v": 48.5, "parts/generator/stop_v": 53.5,
    "parts/generator/start_delay_min": 30.0, "sheets/batteries/battery-48/rest_v": CURVE,
    "sheets/batteries/battery-48/inner_mohm": 40.0, "sheets/batteries/battery-48/wired": "parallel",
}  # fmt: skip


def at_rest(soc):
    """Volts of the curve, by hand."""
    return float(np.interp(soc, *zip(*CURVE, strict=True)))


def under(soc, kw, ohm=0.040 / 5):
    """Volts of five modules side by side that give so much, by trying currents: U = rest - R P / U."""
    volts = at_rest(soc)
    for _ in range(50):
        volts = at_rest(soc) - ohm * 1000 * kw / volts
    return volts


def test_a_generator_starts_and_stops_by_volts():
    """Common practice: low for so long, it starts; the charge that the volts stand for is that of the curve
    less what the load draws, more what charging adds."""
    job = cottage(0.93, 4.2, **BY_VOLTS)
    reckoner = year_with(job, 1.65)
    year, figures = reckoner.year(job), reckoner.figures(job)
    running = year.island.generator_kw > 0
    soc = year.series.energy_kwh[0] / 20.48
    first = int(np.argmax(running))
    drain = 1.65 / 0.93
    assert not running[:first].any()
    assert under(soc[first - 2], drain) <= 48.5 < under(soc[first - 3], drain)  # two quarters of an hour low
    last = first + int(np.argmin(running[first:])) - 1
    assert under(soc[last], -4.2) >= 53.5 > under(soc[last - 1], -4.2)
    assert figures.unserved_kwh == 0
    assert figures.generator_starts > 100
    found = answers(reckoner, job, "LIM-GEN: start and stop")
    starts = next(one.figure.value for one in found if one.figure.name.startswith("Charge"))
    assert under(starts / 100, drain) == pytest.approx(48.5, abs=0.02)
    assert {one.status for one in found} == {"passed"}


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"parts/generator/start_v": 40.0}, "would never start"),
        ({"parts/generator/stop_v": 70.0}, "would never stop"),
        ({"parts/generator/start_v": 46.5}, "the battery's floor"),
    ],
)
def test_volts_that_the_battery_never_has_block(changes, words):
    job = cottage(0.93, 4.2, **{**BY_VOLTS, "sheets/batteries/battery-48/floor_soc": 0.1, **changes})
    found = answers(year_with(job, 1.65), job, "LIM-GEN: start and stop")
    assert [one.status for one in found if words in one.text] == ["blocks"]


def test_one_generator_between_two_chargers():
    """Source: derived; common practice. 7 kVA leave 3.660 kW beside the circuits: 2.440 and 1.220 kW."""
    small = {"rated_kw": 1.5, "charge_kw": 1.5, "rated_kva": 1.5, "surge_kva": 3.0}
    whole = sample(
        "brindle-mesa-field-station",
        {
            **flat_hybrid("hybrid-9-split", rated_kw=3.0, charge_kw=3.0),
            **flat_battery("battery-48"),
            "parts/generator/rated_kva": 7.0,
        },
    )
    sheets = whole.sheets.hybrids
    other = sheets["hybrid-9-split"].model_copy(update=small)
    job = whole.model_copy(
        update={
            "sheets": whole.sheets.model_copy(update={"hybrids": {**sheets, "small": other}}),
            "units": (whole.units[0], whole.units[1].model_copy(update={"sheet": "small"})),
        }
    )
    carried = Reckoner().backed(job, job.units[0]).circuits
    reckoner = Given(load={carried[0].id: np.full(STEPS, 1.1)})
    (record,) = RECORDS[Shared](reckoner, job, False)
    assert record.usable_kw - record.mean_load_kw == pytest.approx(3.660)
    assert [kw for _, kw in record.chargers] == pytest.approx([3.0, 1.5])
    (found,) = answers(reckoner, job, "LIM-GEN: chargers")
    assert "Hybrid 1 2.44 kW, Hybrid 2 1.22 kW" in found.text
