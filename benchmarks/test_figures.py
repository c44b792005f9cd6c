"""The year and an edit to the yearly figures, each as a ratio to a baseline measured in the same run.

`./run bench` prints the table; the ratios stand in each row's extra_info and at its end.
"""

import itertools

import pytest
from benchmarks import plain

from lodestaff.energy.dispatch import simulate
from lodestaff.energy.outage import ride_through
from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning import Moment, Reckoner
from lodestaff.reckoning.brief import whole_years
from lodestaff.reckoning.results import compute
from lodestaff.reckoning.ride_map import ride_map
from lodestaff.reckoning.storage import adopt, columns, storage_map
from lodestaff.samples import sample_path


def of_unit(converter):
    """A unit and its battery as the plain rule takes them."""
    bank = converter.battery
    kwh = bank.capacity_kwh
    return (converter.rated_kw, converter.k1, converter.k2, converter.pv_max_kw), (
        kwh * bank.reserve_soc, kwh * bank.top_soc, bank.charge_kw, bank.discharge_kw, bank.eta_charge,
        bank.eta_discharge, kwh * bank.taper_start_soc, bank.taper_end_share,
    )  # fmt: skip


def test_a_year_of_dispatch(benchmark, job, reckoner, noted, seconds):
    """35,040 steps of the whole rule; baseline: the rule of one hybrid over lists of numbers."""
    (converter,) = reckoner.converters(job)
    sun, load = reckoner.pv_dc_kw(job), reckoner.load_kw(job)
    benchmark(simulate, (converter,), sun, load, export_kw=3.6, import_kw=23.0)
    lists = sun[0].tolist(), (load[0] + converter.own_use_kw).tolist()
    noted(benchmark, "over lists", seconds(lambda: plain.year(*of_unit(converter), *lists, 3.6), 3))


@pytest.mark.parametrize("path", ["limits/reserve_soc", "limits/export_kw", "limits/charge_kw"])
def test_an_edit_to_the_yearly_figures(benchmark, job, reckoner, path, noted, seconds):
    """From the edit to everything the window shows, nothing of the year cached; baseline: the first
    computation."""
    numbers = itertools.count()
    low, high = {"limits/reserve_soc": (0.3, 0.6)}.get(path, (1.0, 3.6))

    def change():
        value = low + (high - low) * (next(numbers) % 997) / 997
        return compute(reckoner, edit(job, Change(path, value)), Moment(), False)

    benchmark.pedantic(change, rounds=40, warmup_rounds=3)
    from lodestaff.energy.synthetic import synthetic_year
    from lodestaff.reckoning import Reckoner

    def anew():
        synthetic_year.cache_clear()
        compute(Reckoner(), job, Moment(), False)

    noted(benchmark, "computing all anew", seconds(anew, 3))


def test_moving_a_circuit(benchmark, job, reckoner, noted, seconds):
    """A drag's try-out on the Loads rails, what the promise costs included; baseline: computing all anew."""
    names = itertools.cycle([circuit.id for circuit in job.circuits])
    roles = itertools.cycle(["held", "shed first", "grid only"])
    numbers = itertools.count()

    def change():
        reserve = Change("limits/reserve_soc", 0.3 + next(numbers) % 400 / 4000)
        moved = edit(job, Change(f"circuits/{next(names)}/role", next(roles)), reserve)
        return compute(reckoner, moved, Moment(), False, True, frozenset(["loads"]))

    benchmark.pedantic(change, rounds=40, warmup_rounds=3)
    from lodestaff.reckoning import Reckoner

    noted(
        benchmark,
        "computing all anew",
        seconds(lambda: compute(Reckoner(), job, Moment(), False, True, frozenset(["loads"])), 3),
    )


def test_many_outages(benchmark, job, reckoner, noted, seconds):
    """2,920 outages of a day each; baseline: each over lists of numbers."""
    unit = job.units[0]
    arrays, units = reckoner.island(job, unit), reckoner.island_units(job, unit, energy_only=True)
    benchmark(ride_through, arrays, units, 9.0, 24.0)
    lists = arrays.sun.tolist(), arrays.kw[0].tolist()
    known = of_unit(reckoner.converters(job)[0])

    def each():
        for start in range(0, 35_040, 12):
            plain.outage(*known, *lists, start, 9.0, 96)

    noted(benchmark, "over lists", seconds(each, 2))


def test_the_ride_through_map(benchmark, job, reckoner, noted, seconds):
    """1,464 outages of three days each, with what the year has in the battery; baseline: over lists."""
    unit = job.units[0]
    benchmark(ride_map, reckoner, job, unit)
    arrays, known = reckoner.island(job, unit), of_unit(reckoner.converters(job)[0])
    lists = arrays.sun.tolist(), arrays.kw[0].tolist()
    energy = reckoner.year(job).series.energy_kwh[0]

    def each():
        for start in range(0, 35_040, 24):
            plain.outage(*known, *lists, start, float(energy[start - 1]), 288)

    noted(benchmark, "over lists", seconds(each, 2))


@pytest.mark.parametrize("cells", ["its own", "400"])
def test_the_map_of_sizes(benchmark, job, reckoner, cells, noted, seconds):
    """Every cell of the demo's map, and of one of 400; baseline: taking each cell, asking for its figures."""
    if cells == "400":
        sheets = {name: sheet.model_dump(mode="json") for name, sheet in job.sheets.hybrids.items()}
        twice = {**sheets, **{f"{name}-again": sheet for name, sheet in sheets.items()}}
        most = Change(f"sheets/batteries/{job.banks[0].sheet}/max_modules", 400 // len(twice))
        job = edit(job, Change("sheets/hybrids", twice), most)
    unit = job.units[0]
    found = storage_map(reckoner, job, unit)
    benchmark.extra_info["cells"] = len(found.cells)
    benchmark.pedantic(storage_map, (reckoner, job, unit), rounds=5, warmup_rounds=1)

    def each():
        fresh = Reckoner()
        for cell in found.cells.values():
            fresh.figures(edit(job, *adopt(job, unit, cell.hybrid, cell.modules)))

    noted(benchmark, "each taken and asked", seconds(each, 1))


KINDS = ("tern-quay-boatshed", "brindle-mesa-field-station", "skerry-light-cottage", "ocotillo-wash-centre")


@pytest.mark.parametrize("name", KINDS)
def test_the_map_of_sizes_of_other_kinds(benchmark, name, noted, seconds):
    """Three units; two and one off the grid; surplus loads that the mains top up. Baseline: whole years."""
    job, reckoner = load_job(sample_path(name)), Reckoner()
    unit = next(unit for unit in job.units if job.bank_of(unit) is not None)
    most = 100 // len(columns(job, unit))
    job = edit(job, Change(f"sheets/batteries/{job.bank_of(unit).sheet}/max_modules", most))
    sizes = storage_map(reckoner, job, unit)
    benchmark.extra_info["cells"] = len(sizes.cells)
    benchmark.pedantic(storage_map, (reckoner, job, unit), rounds=3, warmup_rounds=1)
    parts = reckoner.parts(job)
    year = whole_years(reckoner, job, parts)
    noted(benchmark, "whole years", seconds(lambda: [year(parts.converters) for _ in sizes.cells], 1))


def test_the_best_possible(benchmark, noted, seconds):
    """Two days by the dynamic programme; baseline: the linear programme of the same days in HiGHS."""
    from tests.energy.test_foresight import best, bound, case

    seen, store = case(5, "hybrid")
    benchmark(best, seen, store, 33)
    noted(benchmark, "HiGHS", seconds(lambda: bound(seen, store), 2))


def test_the_bound_of_several_batteries(benchmark, noted, seconds):
    """A year by the hour of two batteries, month by month; baseline: the same programme in one piece."""
    from lodestaff.energy.bound import least_cost
    from lodestaff.job import load_job
    from lodestaff.reckoning.leading import groups_of
    from lodestaff.reckoning.several import metered_of
    from lodestaff.samples import sample_path

    job, reckoner = load_job(sample_path("harrow-mill-flats")), Reckoner()
    site = metered_of(reckoner, job, groups_of(reckoner, job, reckoner.year(job)))
    hours = site.price.size
    benchmark.pedantic(
        lambda: least_cost(site, [hours * month // 12 for month in range(13)]), rounds=3, warmup_rounds=1
    )
    noted(benchmark, "in one piece", seconds(lambda: least_cost(site, [0, hours]), 1))
