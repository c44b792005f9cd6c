"""The map agrees with the detail; comparing names every difference."""

from dataclasses import replace

import numpy as np
import pytest
from tests.unlike import UNLIKE

from lodestaff.electrical.battery_power import least_powers
from lodestaff.energy.array import tracker_kw
from lodestaff.energy.together import together
from lodestaff.job import Change, edit, load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.cabling import with_cables
from lodestaff.reckoning.compare import compare, difference_text, differences
from lodestaff.reckoning.storage import adopt, storage_map
from lodestaff.reckoning.strung import trackers
from lodestaff.reckoning.wiring_measures import wiring_measures
from lodestaff.samples import sample_path
from lodestaff.shelf.prices import PriceBook, SupplierList
from lodestaff.templates import KINDS, compose


@pytest.fixture(scope="module")
def found(reckoner, larkmoor):
    return storage_map(reckoner, larkmoor, larkmoor.units[0], with_endurance=True)


@pytest.mark.parametrize(
    ("hybrid", "modules"), [("hybrid-6", 4), ("hybrid-3", 1), ("hybrid-10", 6), ("hybrid-8", 2)]
)
def test_each_cell_is_the_year_of_its_system(reckoner, larkmoor, found, hybrid, modules):
    cell = found.cells[hybrid, modules]
    job = edit(larkmoor, *adopt(larkmoor, larkmoor.units[0], hybrid, modules))
    figures = reckoner.figures(job)
    assert cell.bill == pytest.approx(figures.bill, rel=1e-9)
    assert cell.self_sufficiency_pct == pytest.approx(100 * figures.self_sufficiency, rel=1e-9)
    assert cell.curtailed_kwh == pytest.approx(figures.curtailed_kwh, rel=1e-6, abs=1e-6)
    assert cell.endurance_h == pytest.approx(reckoner.ride(job, job.units[0]).worst(5)[1])


@pytest.mark.parametrize("name", UNLIKE)
def test_every_kind_has_its_map_with_the_other_units_in_it(name):
    """The cell of today is the job's own year, and one of a few others is that of the job which took it."""
    path = sample_path(name)
    reckoner, job = Reckoner(lambda digest: read_attachment(path, digest)), load_job(path)
    unit = next(unit for unit in job.units if job.bank_of(unit))
    found = storage_map(reckoner, job, unit)
    now = found.cells[found.now]
    figures = reckoner.figures(job)
    assert now.value(found.outcomes[0]) == pytest.approx(100 * figures.self_sufficiency, rel=1e-9)
    assert now.bill == (pytest.approx(figures.bill, rel=1e-9) if job.mains.grid else None)
    assert now.unserved_kwh == (None if job.mains.grid else pytest.approx(figures.unserved_kwh, abs=1e-9))
    other = min(
        (
            cell
            for cell in found.cells.values()
            if cell is not now and cell.adoptable and cell.curtailed_kwh >= 0
        ),
        key=lambda cell: abs(cell.modules - now.modules),
    )
    taken = edit(job, *adopt(job, unit, other.hybrid, other.modules))
    assert other.curtailed_kwh == pytest.approx(reckoner.figures(taken).curtailed_kwh, rel=1e-9, abs=1e-9)
    assert not any(cell.adoptable for (column, _), cell in found.cells.items() if " x" in column)


def test_two_like_units_are_one_of_twice_the_size(reckoner, larkmoor):
    """Ratings and energies add up; the loss at twice the power is twice the loss (common practice)."""
    one = reckoner.converters(larkmoor)[0]
    two = together((one, one))
    assert (two.rated_kw, two.battery.capacity_kwh) == (2 * one.rated_kw, 2 * one.battery.capacity_kwh)
    assert two.k1 * 8 + two.k2 * 64 == pytest.approx(2 * (one.k1 * 4 + one.k2 * 16))


def test_todays_setting_caps_no_candidate_unless_it_was_meant(reckoner, larkmoor):
    """Powers set to what all parts bear follow the parts; a setting well below stays in every cell."""
    unit = larkmoor.units[0]
    more = {change.path: change.value for change in adopt(larkmoor, unit, "hybrid-6", 6)}
    least = edit(larkmoor, Change("limits/discharge_kw", least_powers(larkmoor, unit)[1]))
    grown = edit(least, *adopt(least, unit, "hybrid-10", 6))
    assert grown.limits.discharge_kw == least_powers(grown, grown.units[0])[1] > least.limits.discharge_kw
    meant = edit(larkmoor, Change("limits/discharge_kw", 1.5))
    assert edit(meant, *adopt(meant, unit, "hybrid-10", 6)).limits.discharge_kw == 1.5
    assert more["banks/battery/modules"] == 6


def test_the_sites_limits_bar_cells(found):
    assert all(
        "permitted" in cell.barred[0]
        for key, cell in found.cells.items()
        if key[0] in ("hybrid-8", "hybrid-10")
    )
    assert all("modules too few" in cell.barred[-1] for key, cell in found.cells.items() if key[1] == 1)
    best = found.best("bill")
    assert best is not None
    assert not best.barred
    assert best.bill == min(cell.bill for cell in found.cells.values() if not cell.barred)
    assert found.best("self-sufficiency").self_sufficiency_pct == max(
        c.self_sufficiency_pct for c in found.cells.values() if not c.barred
    )


def test_more_modules_never_need_more_import(found):
    """On the demo's plain rule, along every column, by self-sufficiency; windows buy more, so the bill
    decides instead."""
    for hybrid in found.hybrids:
        bills = [found.cells[hybrid, n].bill for n in found.modules]
        assert bills == sorted(bills, reverse=True)


def test_it_tells_progress_and_stops(reckoner, larkmoor):
    told = []

    def progress(share):
        told.append(share)
        return len(told) < 3

    assert storage_map(reckoner, larkmoor, larkmoor.units[0], progress=progress) is None
    assert told == pytest.approx([0, 0.2, 0.4])


def test_without_a_battery_there_is_no_map(reckoner, larkmoor):
    data = larkmoor.model_dump(mode="json")
    data["banks"] = []
    from lodestaff.job.edit import validated

    job = validated(data)
    with pytest.raises(JobError, match="no battery to map"):
        storage_map(reckoner, job, job.units[0])


# --- strings on unlike faces ------------------------------------------------------------------------------
def test_unlike_faces_in_one_string_lose_much_and_never_gain(reckoner, larkmoor):
    """7 to 12 % of the year (common practice, measured elsewhere); never more than the faces apart."""
    east, west = (tracker.strings[0].modules[0] for tracker in trackers(larkmoor, larkmoor.units[0]))
    mixed = (replace(east, count=5), replace(west, count=5, standing=None))
    together = reckoner.sunlit.string_kw(larkmoor, mixed, 0.0)
    apart = 5 * sum(reckoner.sunlit.module_kw(larkmoor, at.plane) for at in (east, west))
    assert (together <= apart + 1e-6).all()
    assert 0.03 < 1 - together.sum() / apart.sum() < 0.2


def test_a_trackers_current_limit_clips_and_nothing_is_lost_from_the_books():
    a, b = np.array([1.0, 4.0]), np.array([1.0, 4.0])
    power, clipped = tracker_kw([(a, 10, 33.0), (b, 10, 33.0)], 16.0)
    assert power + clipped == pytest.approx(a + b)
    assert clipped[0] == 0
    assert power[1] == pytest.approx(16 * 330 / 1000)


# --- comparing ----------------------------------------------------------------------------------------------
def test_differences_are_named_by_path(larkmoor):
    other = edit(
        larkmoor,
        Change("circuits/server/role", "grid only"),
        Change("limits/windows/night", None),
        Change("limits/export_kw", 3.0),
    )
    paths = {path: (a, b) for path, a, b in differences(larkmoor, other)}
    assert paths["circuits/server/role"] == ("held", "grid only")
    assert paths["limits/export_kw"] == (3.6, 3.0)
    assert paths["limits/windows/night"][1] is None
    assert len(paths) == 3


def test_every_figure_stands_in_a_comparison(reckoner, larkmoor):
    other = edit(larkmoor, Change("limits/reserve_soc", 0.5))
    rows = compare(reckoner, larkmoor, reckoner, other)
    figures = {row.name: row for row in rows if row.group == "figure"}
    assert {"Bill, a year", "Coldest string", "Battery's power", "Highest demand", "Worst start"} <= set(
        figures
    )
    bill = figures["Bill, a year"]
    assert bill.difference == pytest.approx(reckoner.figures(other).bill - reckoner.figures(larkmoor).bill)
    assert difference_text(bill).startswith("+")
    assert difference_text(figures["Worst start"]) == "same"


def test_two_wirings_are_compared_by_what_they_take(reckoner):
    """By hand: a bypass more is one changeover, its hours by the pack, its cable and its ends."""
    plain = compose(KINDS["C"].wanted)
    without = compose(KINDS["C"].wanted.model_copy(update={"bypass": "none"}))
    one, other = (
        {each.name: each for each in wiring_measures(reckoner, with_cables(reckoner, job))}
        for job in (without, plain)
    )
    hours = plain.pack.value("hours_per_interlock").value
    off = "of these with the supply off"
    assert other[off].value - one[off].value == hours
    assert other["Cable to pull in"].value > one["Cable to pull in"].value
    assert other["Ends to make off"].value > one["Ends to make off"].value
    assert other["Devices"].value > one["Devices"].value
    assert one["Cost before tax"].value is None  # no price is known
    rows = [row for row in compare(reckoner, without, reckoner, plain) if row.group == "wiring"]
    assert next(row for row in rows if row.name == off).better is False


def test_changed_findings_are_counted(reckoner, larkmoor):
    other = edit(larkmoor, Change("limits/export_kw", 5.0))
    rows = {row.name: row for row in compare(reckoner, larkmoor, reckoner, other) if row.group == "finding"}
    assert (rows["LIM-EXPORT"].a, rows["LIM-EXPORT"].b) == ("1 passed", "1 blocks")


def test_cells_cost_what_the_design_costs_and_the_budget_bars_those_above(reckoner):
    """By hand: a hybrid for 1,000, a battery module for 500, a solar module for 50; neither tax nor work."""
    job = edit(load_job(sample_path("far-byre")), Change("wishes/budget", 3000.0), Change("cables", []))
    prices = {"battery-48": 500.0, "module-440": 50.0, **dict.fromkeys(job.sheets.hybrids, 1000.0)}
    book = PriceBook(
        labour_per_hour=0.0,
        labour_hours=dict.fromkeys(("hybrid", "battery", "module", "cable"), 0.0),
        lists=(SupplierList(supplier="A", prices=prices),),
    )
    found = storage_map(Reckoner(), job, job.units[0], prices=book)
    modules = sum(len(face.modules) for face in job.faces)
    assert found.cells[found.now].cost == pytest.approx(1000 + 500 * found.now[1] + 50 * modules)
    for cell in found.cells.values():
        assert any("above the budget" in why for why in cell.barred) == (cell.cost > 3000)
    unpriced = storage_map(Reckoner(), job, job.units[0])
    assert unpriced.cells[found.now].cost is None
