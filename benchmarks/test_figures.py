"""The year and an edit to the yearly figures, each as a ratio to a baseline measured in the same run.

`./run bench` prints the table; the ratios stand in each row's extra_info and at its end.
"""

import itertools

import numpy as np
import pytest

from lodestaff.energy import kernels
from lodestaff.energy.dispatch import unit_arrays
from lodestaff.job import Change, edit
from lodestaff.reckoning import Moment
from lodestaff.reckoning.results import compute


def test_a_year_of_dispatch(benchmark, job, reckoner, noted, seconds):
    """35,040 steps; baseline: the same rule in plain Python, a fiftieth of the year scaled up."""
    units = unit_arrays(reckoner.converters(job))
    pv, load = reckoner.pv_dc_kw(job), reckoner.load_kw(job)
    nothing, start = np.zeros_like(pv), units.e_floor.copy()
    benchmark(kernels.dispatch, units, pv, load, nothing, nothing, start, 3.6, 23.0, 0.25)
    part = 700
    short = (
        np.ascontiguousarray(pv[:, :part]),
        np.ascontiguousarray(load[:, :part]),
        nothing[:, :part],
        nothing[:, :part],
    )
    plain = (
        seconds(lambda: kernels.dispatch.py_func(units, *short, start, 3.6, 23.0, 0.25), 3)
        * pv.shape[1]
        / part
    )
    noted(benchmark, "plain Python", plain)


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
    """2,920 outages of a day each; baseline: the same rule in plain Python, a hundredth scaled up."""
    from lodestaff.energy.outage import island_of

    island = island_of(reckoner.converters(job)[0], energy_only=True)
    arrays = reckoner.island(job, job.units[0])
    starts, energy = np.arange(0, 35_040, 12), np.full(2920, 9.0)
    benchmark(kernels.ride_through, arrays, island, starts, energy, 96, 0.25)
    nothing = np.zeros((0, 4))

    def plain():
        for start in starts[::100]:
            kernels.outage.py_func(arrays, island, int(start), 9.0, 96, 0.25, nothing)

    noted(benchmark, "plain Python", seconds(plain, 2) * 100)


def test_a_map_of_200_cells(benchmark, job, reckoner, noted, seconds):
    """200 candidates' years in one loop on one thread; baseline: each by the detailed kernel."""
    from lodestaff.energy.mapping import Candidates, map_year

    units = unit_arrays(reckoner.converters(job))
    cells = 200

    def spread(value, low=0.5, high=2.0):
        return np.linspace(low, high, cells) * value

    candidates = Candidates(
        spread(units.rated_kw[0]),
        np.full(cells, units.k1[0]),
        np.full(cells, units.k2[0]),
        spread(units.pv_max_kw[0]),
        np.ones(cells),
        np.full(cells, 0.04),
        spread(units.e_floor[0]),
        spread(units.e_top[0]),
        spread(units.charge_kw[0]),
        spread(units.discharge_kw[0]),
        np.full(cells, units.eta_charge[0]),
        np.full(cells, units.eta_discharge[0]),
        spread(units.e_taper[0]),
        np.full(cells, units.taper_end[0]),
        np.zeros(cells),
        np.zeros(cells),
    )
    pv, load = reckoner.pv_dc_kw(job)[0], reckoner.load_kw(job)[0]
    never = np.zeros(pv.size, dtype=bool)
    benchmark(map_year, candidates, pv, load, never, never, 3.6, 23.0, 0.25)
    nothing = np.zeros((1, pv.size))
    one = seconds(
        lambda: kernels.dispatch(
            units, pv[None], load[None], nothing, nothing, units.e_floor.copy(), 3.6, 23.0, 0.25
        ),
        10,
    )
    noted(benchmark, "200 detailed years", one * cells)
