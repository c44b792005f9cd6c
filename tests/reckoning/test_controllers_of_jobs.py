"""Who acts on what: transformers, ports, phases that are netted, and the order of units in the list."""

from itertools import permutations

import numpy as np
import pytest

from lodestaff.commissioning.settings_sheet import settings_sheet
from lodestaff.energy.dispatch import onto_phases
from lodestaff.job import Change, edit, load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.figures import imbalance_kwh
from lodestaff.reckoning.findings import answers
from lodestaff.samples import sample_names, sample_path

SELLING = {"id": "sell", "start_h": 17, "end_h": 19, "target_soc": 0.3, "power_kw": 3.0, "kind": "give",
           "on": ["06-10", "06-11"]}  # fmt: skip


def opened(name):
    path = sample_path(name)
    return Reckoner(lambda digest: read_attachment(path, digest)), load_job(path)


@pytest.mark.parametrize("name", sample_names())
def test_no_order_of_units_changes_a_figure(name):
    """All orders of the list; and nothing is lost at any bus, whatever the kind."""
    reckoner, job = opened(name)
    whole = reckoner.figures(job)
    if job.mains.grid:
        assert max(imbalance_kwh(reckoner.year(job), reckoner.converters(job)).values()) < 1e-6
    for order in list(permutations(job.units))[1:4]:
        other = Reckoner(reckoner.attachment).figures(job.model_copy(update={"units": order}))
        assert other.bill == pytest.approx(whole.bill, abs=1e-6)
        assert other.import_kwh == pytest.approx(whole.import_kwh, abs=1e-6)
        assert other.unserved_kwh == pytest.approx(whole.unserved_kwh, abs=1e-6)
        assert other.curtailed_kwh == pytest.approx(whole.curtailed_kwh, abs=1e-6)


def test_without_its_transformer_a_unit_keeps_no_limit():
    """By hand: its sun goes out past what the site may let out, and its battery meets its own port alone."""
    reckoner, job = opened("old-tannery-house")
    kept = job.model_copy(update={"parts": tuple(part for part in job.parts if part.kind != "ct")})
    assert len(kept.parts) < len(job.parts)
    led, alone = reckoner.figures(job), Reckoner().figures(kept)
    assert led.export_kwh == pytest.approx(0, abs=1e-6)  # zero export
    assert alone.past_limit_kwh > 100
    assert alone.import_kwh > led.import_kwh


def test_generation_that_a_transformer_sees_is_stored_and_what_it_does_not_see_is_not():
    """An AC-coupled battery that serves its own port alone stores nothing of the roof's inverter."""
    reckoner, job = opened("brockle-vicarage")
    whole = reckoner.year(job)
    unit = next(unit for unit in job.units if job.bank_of(unit))
    alone = reckoner.year(edit(job, Change(f"units/{unit.id}/serves", "own port")))
    at = job.units.index(unit)
    assert whole.series.battery_dc_kw[at].min() < -1  # it charges
    assert alone.series.battery_dc_kw[at].min() > -1e-9


def test_what_may_go_out_follows_the_decision(reckoner, larkmoor):
    unit = larkmoor.units[0].id
    nothing = reckoner.figures(edit(larkmoor, Change(f"units/{unit}/exports", "nothing")))
    assert nothing.export_kwh == pytest.approx(0, abs=1e-6)
    assert nothing.curtailed_kwh > reckoner.figures(larkmoor).curtailed_kwh
    selling = edit(
        larkmoor, Change(f"units/{unit}/exports", "sun and battery"), Change("limits/windows", [SELLING])
    )
    sold = reckoner.year(selling).export_kw.sum(axis=0).reshape(365, 96)
    days = np.flatnonzero(sold[:, 68:76].max(axis=1) > 0.5)
    assert {160, 161} & set(days)
    assert (sold <= larkmoor.limits.export_kw + 1e-9).all()
    without = edit(selling, Change(f"units/{unit}/exports", "sun only"))
    assert reckoner.year(without).export_kw.sum() < sold.sum()


def test_a_car_charges_without_the_battery_where_it_is_told_so(reckoner, larkmoor):
    """What the battery is spared is bought: its cycles fall, its energy goes elsewhere."""
    spared = edit(larkmoor, Change("circuits/car-charger/from_battery", False))
    car = reckoner.circuit_kw(larkmoor, larkmoor.circuit("car-charger"))
    year = reckoner.year(spared)
    other = year.load_kw[0] + year.own_use_kw[0] - car
    given = np.clip(year.series.battery_ac_kw[0], 0, None)
    assert (given <= other + 1e-9).all()
    was = np.clip(reckoner.year(larkmoor).series.battery_ac_kw[0], 0, None)
    assert (was[car > 0.5] > other[car > 0.5] + 0.1).any()


def test_a_meter_that_sums_its_phases_counts_less_import():
    """By hand: a phase's surplus covers another's need; the energy of units is the same either way."""
    reckoner, job = opened("tern-quay-boatshed")
    summed = edit(job, Change("mains/netting", {"value": "sum of phases", "known": "read on site"}))
    apart, together = reckoner.figures(job), reckoner.figures(summed)
    assert together.import_kwh < apart.import_kwh
    year = reckoner.year(summed)
    by_hand = np.clip(year.series.grid_kw.sum(axis=0), 0, None).sum() / 4
    assert together.import_kwh == pytest.approx(by_hand)


def test_a_three_phase_unit_gives_each_phase_what_it_needs_only_where_its_sheet_says_so():
    """By hand: 6 kW on phases that draw 5, 1 and 0: unlike 5, 1, 0; alike 2 each, and 3 kW are bought."""
    from lodestaff.energy.dispatch import Converter

    unit = Converter(0, 15, 15, 15, 0, 0, 0, 99, None, also=(1, 2), unequal=True)
    load = np.array([[5.0], [1.0], [0.0]])
    assert onto_phases((unit,), np.array([[6.0]]), load)[:, 0] == pytest.approx([5, 1, 0])
    alike = Converter(0, 15, 15, 15, 0, 0, 0, 99, None, also=(1, 2))
    given = onto_phases((alike,), np.array([[6.0]]), load)
    assert np.clip(load - given, 0, None).sum() == pytest.approx(3.0)


def test_shaving_keeps_the_import_below_the_peak_as_far_as_the_battery_lasts(reckoner, larkmoor):
    shaved = edit(larkmoor, Change("limits/peak_kw", 6.0), Change("limits/mode", "shave the peak"),
                  Change("limits/windows", []))  # fmt: skip
    plain = edit(larkmoor, Change("limits/windows", []), Change("limits/mode", "hold for outages"))
    over, without = (
        np.clip(reckoner.year(job).import_kw.sum(axis=0) - 6.0, 0, None).sum() for job in (shaved, plain)
    )
    assert over < 0.5 * without


def test_a_held_battery_gives_nothing(reckoner, larkmoor):
    held = edit(larkmoor, Change("limits/mode", "hold for outages"), Change("limits/windows", []))
    assert reckoner.figures(held).battery_out_kwh == pytest.approx(0, abs=1e-9)


def test_windows_of_some_months_and_days_run_then_only(reckoner, larkmoor):
    window = {**larkmoor.limits.windows[0].model_dump(mode="json"), "months": [1], "days": "weekends"}
    year = reckoner.year(edit(larkmoor, Change("limits/windows", [window])))
    bought = (np.clip(-year.series.battery_ac_kw[0], 0, None)).reshape(365, 96).sum(axis=1)
    days = set(np.flatnonzero(bought > 0.1))
    assert days
    assert days <= set(range(31))
    assert len(days) <= 10


def test_a_battery_of_several_can_be_told_its_own_powers():
    """Uneven banks: one is held to 1 kW, the other is told what all are; the sheet and the check say so."""
    reckoner, job = opened("ludd-hall-annexe")
    first, second = job.banks
    told = edit(
        job, Change(f"banks/{first.id}/charge_kw", 1.0), Change(f"banks/{first.id}/discharge_kw", 1.5)
    )
    one, other = (converter.battery for converter in reckoner.converters(told))
    assert (one.charge_kw, one.discharge_kw) == (1.0, 1.5)
    assert other.charge_kw == reckoner.converters(job)[1].battery.charge_kw
    sheet = {(row.unit, row.key): row.value for row in settings_sheet(told, reckoner.wiring(told).topology)}
    assert sheet[first.unit, "charge_kw"] == 1.0
    assert sheet[second.unit, "charge_kw"] > 1.0
    found = {(one.owner, one.quantity): one for one in answers(reckoner, told, "LIM-CHARGE")}
    assert found[first.id, "charge_kw"].value == 1.0
