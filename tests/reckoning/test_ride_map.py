"""Outages all over the year: by month and hour of their start, and the share that is survived."""

import numpy as np
import pytest

from lodestaff.energy.outage import run_outage
from lodestaff.job import load_job
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.ride_map import EVERY_H, FOLLOWED_H, ride_map
from lodestaff.samples import sample_path


def test_a_cell_is_what_single_outages_last(larkmoor, reckoner):
    """January at 18:00, every other day, each outage run by itself from what the year has in the battery."""
    unit = larkmoor.units[0]
    found = ride_map(reckoner, larkmoor, unit)
    energy = reckoner.year(larkmoor).series.energy_kwh[0]
    lasted = [
        run_outage(
            reckoner.island(larkmoor, unit),
            reckoner.island_units(larkmoor, unit),
            day * 96 + 72,
            np.array([energy[day * 96 + 71]]),
            FOLLOWED_H,
        ).hours
        for day in range(0, 31, 2)
    ]
    assert found.hours[0, 18 // EVERY_H] == pytest.approx(np.percentile(lasted, 10))
    assert found.median[0, 18 // EVERY_H] == pytest.approx(np.median(lasted))


def test_shares_fall_with_the_hours_and_winter_evenings_are_worst(larkmoor, reckoner):
    found = ride_map(reckoner, larkmoor, larkmoor.units[0])
    shares = list(found.survived.values())
    assert 1 >= shares[0] >= shares[1] >= shares[2] > 0
    assert found.hours.max() == FOLLOWED_H
    assert (found.hours <= found.median).all()
    assert found.hours[5].min() > found.hours[11].min()  # June against December, in the north


def test_a_generator_carries_its_island_through():
    """Off grid with a generator that starts by itself, everything lasts the three days."""
    job = load_job(sample_path("skerry-light-cottage"))
    reckoner = Reckoner()
    (lead,) = reckoner.leads(job)
    assert ride_map(reckoner, job, lead).survived[72.0] == 1.0
