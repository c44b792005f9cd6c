"""Worked examples reached through a job: its own series put in at one seam, all else as any job is reckoned.

The seam is what the reckoner asks for each job: the DC power behind the trackers of each unit, and the power
of each circuit. Sheets are made flat (one efficiency), so that a hand's figures can be met.
"""

import numpy as np

from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning import Reckoner
from lodestaff.samples import sample_path

STEPS, HOUR = 35_040, 4


class Given(Reckoner):
    """A reckoner whose sun and load are given: `sun` by unit id, `load` by circuit id, kW in each step."""

    def __init__(self, sun=None, load=None):
        super().__init__()
        self.sun, self.load = sun or {}, load or {}

    def pv_dc_kw(self, job):
        return np.array([self.sun.get(unit.id, np.zeros(STEPS)) for unit in job.units])

    def circuit_kw(self, job, circuit):
        return self.load.get(circuit.id, np.zeros(STEPS))


def sample(name, changes):
    """A sample with values changed by path."""
    return edit(load_job(sample_path(name)), *(Change(path, value) for path, value in changes.items()))


def flat_hybrid(id, **more):
    """Changes that make a hybrid's sheet loss-free and boundless, but for what is given."""
    values = {
        "efficiency": [[1.0, 1.0]], "eta_dcdc": 1.0, "own_use_kw": 0.0, "max_dc_kw": 90.0, "rated_kw": 50.0,
        "rated_kva": 50.0, "surge_kva": 90.0, "charge_kw": 50.0, "discharge_kw": 50.0, **more,
    }  # fmt: skip
    return {f"sheets/hybrids/{id}/{field}": value for field, value in values.items()}


def flat_battery(id, **more):
    """The same of a battery module."""
    values = {
        "charge_c_per_h": 4.0, "discharge_c_per_h": 4.0, "floor_soc": 0.0, "top_soc": 1.0,
        "eta_round_trip": 1.0, "taper_start_soc": 1.0, "taper_end_share": 1.0, **more,
    }  # fmt: skip
    return {f"sheets/batteries/{id}/{field}": value for field, value in values.items()}


def hours_from(first, values):
    """A year of nothing, but for hourly values from an hour of the year on."""
    year = np.zeros(STEPS)
    hourly = np.repeat(np.asarray(values, dtype=float), HOUR)
    year[first * HOUR : first * HOUR + hourly.size] = hourly
    return year
