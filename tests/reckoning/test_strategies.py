"""Ways of backup side by side, against computing each thing alone."""

import itertools

import numpy as np
import pytest
from tests.unlike import UNLIKE

from lodestaff.energy.outage import island_of, run_outage
from lodestaff.job import Change, Role, edit, load_job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.proposal import worth
from lodestaff.reckoning.strategies import NAMES, as_choice, compare_strategies
from lodestaff.samples import sample_path, samples_folder
from lodestaff.shelf.prices import load_prices


@pytest.fixture(scope="module")
def found(larkmoor, reckoner):
    book = load_prices(samples_folder() / "register" / "prices.json")
    return {one.name: one for one in compare_strategies(reckoner, larkmoor, book).strategies}


def test_who_is_fed(larkmoor, found):
    held = {c.id for c in larkmoor.with_role(Role.HELD)}
    grid = {c.id for c in larkmoor.with_role(Role.GRID)}
    assert set(found["essential board"].held) == held
    assert set(found["whole building"].held) == held | grid
    assert set(found["board and interlock"].by_hand) == grid | {c.id for c in larkmoor.with_role(Role.LOCKED)}
    assert not set(found["whole building"].held) & {"car-charger"}
    for one in found.values():
        assert {*one.held, *one.shed} | set(one.dead) == {c.id for c in larkmoor.circuits}


def test_trips_are_outages_that_end_at_once(larkmoor, reckoner, found):
    """A full battery at every hour of a week in June: the outage ends within the step by overload or start,
    or it doesn't."""
    unit, one = larkmoor.units[0], found["whole building"]
    arrays = reckoner.island_with(larkmoor, unit, tuple(map(larkmoor.circuit, one.held)), ())
    converter = reckoner.converters(larkmoor)[0]
    first = 160 * 96
    ends = [
        run_outage(arrays, island_of(converter), step, converter.battery.capacity_kwh, 0.25)
        for step in range(first, first + 96 * 7)
    ]
    tripped = [outage.reason in ("overload", "start") and outage.hours == 0 for outage in ends]
    kw = arrays.kw[0]
    missing = (
        kw * (1 + converter.k1) + converter.k2 * kw**2 - np.minimum(arrays.pv_dc[0], converter.pv_max_kw)
    )
    by_hand = (
        (arrays.running[0] > converter.rated_kva)
        | (kw > converter.rated_kw)
        | (arrays.peak[0] > converter.surge_kva)
        | (missing > converter.battery.discharge_kw)
    )
    assert tripped == list(by_hand[first : first + 96 * 7])
    assert one.trip.hours_year == pytest.approx(by_hand.sum() / 4)


def test_trips_by_adding_up_the_circuits(larkmoor, reckoner, found):
    """A step trips where the kVA of what runs in it is above 6, the kW above the rating, or a start above
    8; with a
    battery that gives all of it."""
    unit = larkmoor.units[0]
    sheet = larkmoor.sheet_of(unit)
    held = [larkmoor.circuit(id) for id in found["whole building"].held]
    kw = {c.id: reckoner.circuit_kw(larkmoor, c) for c in held}
    running = sum((kw[c.id] > 0) * c.running_kva for c in held) + sheet.own_use_kw
    steps = np.max([(kw[c.id] > 0) * (c.start_kva - c.running_kva) for c in held], axis=0)
    bad = (
        (running > sheet.rated_kva)
        | (sum(kw.values()) + sheet.own_use_kw > sheet.rated_kw)
        | (running + steps > sheet.surge_kva)
    )
    strong = edit(
        larkmoor,
        Change("banks/battery/modules", 8),
        Change("limits/discharge_kw", 30.0),
        Change("sheets/hybrids/hybrid-6/discharge_kw", 30.0),
    )
    alone = {one.name: one for one in compare_strategies(reckoner, strong).strategies}["whole building"]
    assert alone.trip.hours_year == pytest.approx(bad.sum() / 4)
    assert found["whole building"].trip.hours_year >= alone.trip.hours_year
    assert found["essential board"].trip.hours_year == 0


@pytest.mark.parametrize("name", ["essential board", "emergency outlet"])
def test_months_are_percentiles_of_single_outages(larkmoor, reckoner, found, name):
    """January: outages every three hours, each run alone; the fifth percentile of their hours."""
    unit, one = larkmoor.units[0], found[name]
    arrays = reckoner.island_with(
        larkmoor, unit, tuple(map(larkmoor.circuit, one.held)), tuple(map(larkmoor.circuit, one.shed))
    )
    converter = reckoner.converters(larkmoor)[0]
    island = island_of(converter, energy_only=True)
    start = converter.battery.reserve_soc * converter.battery.capacity_kwh
    hours = [run_outage(arrays, island, step, start, one.horizon_h).hours for step in range(0, 31 * 96, 12)]
    assert one.reserve_h[0] == pytest.approx(np.percentile(hours, 5))


def test_the_outlet_holds_the_best_pair(larkmoor, found):
    """Brute force over all pairs of what a 13 A plug carries (3 kVA)."""
    free = [c for c in larkmoor.circuits if c.kind != "car charger" and c.role is not Role.LOCKED]
    pairs = [
        pair
        for pair in itertools.combinations(free, 2)
        if sum(c.running_kva for c in pair) <= 13 * 230 / 1000
    ]
    best = max(sum(map(worth, pair)) for pair in pairs)
    assert sum(worth(larkmoor.circuit(id)) for id in found["emergency outlet"].held) == best


def test_more_held_never_lasts_longer(found):
    for month in range(12):
        assert found["whole building"].full_h[month] <= found["essential board"].full_h[month] + 1e-9
        assert found["essential board"].reserve_h[month] <= found["essential board"].full_h[month] + 1e-9


def test_costs_are_labour_and_parts(larkmoor, found):
    """By hand from the price list: 46 an hour, 145 for the board, 0.75 h a circuit and 4 h for the board."""
    moved = len(found["essential board"].held) + len(found["essential board"].shed)
    assert found["essential board"].labour_h == pytest.approx(4 + 0.75 * moved)
    assert found["essential board"].cost == pytest.approx(46 * (4 + 0.75 * moved) + 145)


def test_an_open_price_leaves_the_cost_open(larkmoor, reckoner):
    for one in compare_strategies(reckoner, larkmoor).strategies:
        assert one.cost is None
        assert "labour" in one.open_prices


def test_the_whole_building_may_be_too_much_to_pass(larkmoor, found):
    one = found["whole building"]
    assert one.passes_a > one.rated_pass_a == 60


@pytest.mark.parametrize("name", UNLIKE)
def test_every_sample_has_its_ways_or_says_why(name):
    job = load_job(sample_path(name))
    forms = any(job.sheet_of(unit).forms_island for unit in job.units if job.bank_of(unit))
    if not forms or not job.mains.grid:
        with pytest.raises(JobError, match="no unit with a battery" if job.mains.grid else "no grid"):
            compare_strategies(Reckoner(), job)
        return
    found = compare_strategies(Reckoner(), job)
    assert tuple(one.name for one in found.strategies) == NAMES
    for one in found.strategies:
        assert not set(one.held) & set(one.shed)
        assert len(one.full_h) == len(one.reserve_h) == 12


def test_nothing_decided_yet_takes_the_best_set():
    job = load_job(sample_path("wendle-row-14"))
    found = {one.name: one for one in compare_strategies(Reckoner(), job).strategies}
    assert len(found["essential board"].held) >= 5
    assert "charger" not in found["essential board"].held


def test_no_battery_no_ways(larkmoor, reckoner):
    with pytest.raises(JobError, match="no unit with a battery"):
        compare_strategies(reckoner, edit(larkmoor, Change("banks", [])))


def test_a_choice_is_a_record(larkmoor, reckoner):
    found = compare_strategies(reckoner, larkmoor)
    choice = as_choice(larkmoor, found, "essential board", "price", "owner", "2026-11-25")
    made = edit(
        larkmoor, Change("choices", [*(c.model_dump() for c in larkmoor.choices), choice.model_dump()])
    )
    assert made.choices[-1].chosen == "essential board"
    assert "whole building" in made.choices[-1].offered
    assert as_choice(made, found, "emergency outlet").id != choice.id
