"""Every kind with a grid against a slow simulator that shares no formula with the loop: days of winter and
summer."""

import numpy as np
import pytest

from lodestaff.energy.calendar import STEP_H, STEPS
from lodestaff.energy.control import ranked
from lodestaff.job import load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.controlling import controllers, told
from lodestaff.samples import sample_names, sample_path
from tests.energy import slow_system

PARTS = ((0, 3), (165, 4))  # first day and how many
WITH_GRID = [name for name in sample_names() if load_job(sample_path(name)).mains.grid]


def plain(converter):
    """A unit as plain numbers."""
    bank = converter.battery
    found = {"k1": converter.k1, "k2": converter.k2, "rated": converter.rated_kw,
             "most_dc": converter.pv_max_kw, "ac_charge": converter.ac_charge, "bank": None}  # fmt: skip
    if bank is not None:
        kwh = bank.capacity_kwh
        found["bank"] = {
            "floor": kwh * bank.reserve_soc, "top": kwh * bank.top_soc, "charge_kw": bank.charge_kw,
            "discharge_kw": bank.discharge_kw, "eta_in": bank.eta_charge, "eta_out": bank.eta_discharge,
            "taper": kwh * bank.taper_start_soc, "taper_end": bank.taper_end_share,
        }  # fmt: skip
    return found


@pytest.mark.parametrize("name", WITH_GRID)
def test_the_loop_does_what_a_person_would_step_by_step(name):
    path = sample_path(name)
    reckoner, job = Reckoner(lambda digest: read_attachment(path, digest)), load_job(path)
    year, parts = reckoner.year(job), reckoner.parts(job)
    taken = iter(() if year.taken_kw is None else year.taken_kw)
    powers = tuple(
        next(taken) if c.role == "surplus only" else reckoner.circuit_kw(job, c) for c in job.circuits
    )
    led = controllers(parts.plans, job.circuits, powers)
    limits = [one.limit for one in led]
    assert len(limits) == len(set(limits)) or all(one.export_kw == 0 for one in led), (
        "the slow one shares none"
    )
    ranks, load = [], {}
    for rank in ranked(led):
        groups = []
        for one in rank:
            own = sum(parts.converters[at].own_use_kw for at in (*one.units, *one.sees))
            load[one.units] = one.load_kw + own
            groups.append({"name": one.units, "members": one.units, "sees": one.sees, "export": one.export_kw,
                           "import": one.import_kw})  # fmt: skip
        ranks.append(groups)
    windows = [[None] * STEPS for _ in job.units]
    for window in told(job, reckoner.hours_by(job, job.limits.device_clock)):
        for at, converter in enumerate(parts.converters):
            if converter.battery is not None:
                for step in np.flatnonzero(window.active):
                    target = converter.battery.capacity_kwh * min(
                        window.target_soc, converter.battery.top_soc
                    )
                    windows[at][step] = (target, window.power_kw)
    series, units = year.series, [plain(one) for one in parts.converters]
    before = np.column_stack([year.e_start_kwh, series.energy_kwh])  # at the beginning of each step
    for first, days in PARTS:
        steps = slice(first * 96, (first + days) * 96)
        energies, outs = slow_system.simulate(
            units,
            ranks,
            parts.sun_kw[:, steps],
            {name: kw[steps] for name, kw in load.items()},
            [row[steps] for row in windows],
            before[:, steps.start],
            STEP_H,
        )
        np.testing.assert_allclose(np.array(energies).T, series.energy_kwh[:, steps], atol=1e-6)
        given = (series.pv_ac_kw + series.battery_ac_kw)[:, steps]
        np.testing.assert_allclose(np.array(outs).T, given, atol=1e-6)
