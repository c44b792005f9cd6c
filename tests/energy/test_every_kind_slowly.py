"""Every kind against a slow simulator that shares no formula with the loop: days of winter and summer, and
without a grid the first weeks of the year, from where its batteries begin."""

from datetime import date

import numpy as np
import pytest

from lodestaff.energy.calendar import STEP_H, STEPS, daylight_saving
from lodestaff.energy.control import ranked
from lodestaff.job import Change, edit, load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.controlling import controllers, told
from lodestaff.samples import sample_names, sample_path
from tests.energy import slow_island, slow_system
from tests.energy.slow import ac_of

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


DAYS_APART = 21
WITHOUT = [name for name in sample_names() if name not in WITH_GRID]


@pytest.mark.parametrize("generator", [True, False], ids=["as it is", "nobody starts the generator"])
@pytest.mark.parametrize("name", WITHOUT)
def test_without_a_grid_too(name, generator):
    job, reckoner = load_job(sample_path(name)), Reckoner()
    (part,) = (part for part in job.parts if part.kind == "generator")
    if not generator:
        job = edit(job, Change(f"parts/{part.id}/started_by", ""))
    year, converters = reckoner.year(job), reckoner.converters(job)
    (island,) = reckoner.asked(job).islands
    steps = DAYS_APART * 96
    forming = [at for at, unit in enumerate(job.units) if unit.id in island.forming]
    following = [at for at, unit in enumerate(job.units) if unit.id in island.following]
    units = []
    for at in forming:
        found, bank = plain(converters[at]), converters[at].battery
        found["bank"] |= {"capacity": bank.capacity_kwh, "floor": bank.capacity_kwh * bank.floor_soc}
        found["bank"]["begin"] = (found["bank"]["floor"] + found["bank"]["top"]) / 2
        units.append(found)
    sun = reckoner.parts(job).sun_kw[:, :steps]
    on = [c for c in job.circuits if c.id in island.circuits]
    own = sum(converters[at].own_use_kw for at in (*forming, *following))
    taken = iter(() if year.taken_kw is None else year.taken_kw)
    kw = {
        c.id: next(taken) if c.role == "surplus only" else reckoner.circuit_kw(job, c) for c in job.circuits
    }
    held = own + sum(kw[c.id][:steps] for c in on if c.role != "shed first")
    dropped = [
        {"level": job.limits.shed_soc if c.shed_soc is None else c.shed_soc,
         "kw": kw[c.id][:steps]}
        for c in on if c.role == "shed first"
    ]  # fmt: skip
    followed = [
        sum(min(converters[at].rated_kw, ac_of(min(sun[at][t], converters[at].pv_max_kw), converters[at].k1,
                                               converters[at].k2)) for at in following)
        for t in range(steps)
    ]  # fmt: skip
    starts = None
    if generator and part.started_by:
        ids = [job.units[at].id for at in forming]
        hours = np.arange(steps) % 96 / 4
        saving = daylight_saving(job.time_zone, job.site.utc_offset_h)[:steps]
        hours = (hours + saving) % 24 if job.limits.device_clock == "household" else hours
        quiet = np.zeros(steps, dtype=bool)
        if part.quiet_from_h is not None and part.quiet_to_h is not None:
            a, b = part.quiet_from_h, part.quiet_to_h
            quiet = (hours >= a) & (hours < b) if a < b else (hours >= a) | (hours < b)
        sunday = np.array([date(2025, 1, 1).weekday() + t // 96 for t in range(steps)]) % 7 == 6
        starts = {
            "power": part.rated_kva * part.power_factor * part.usable_share, "start": part.start_soc,
            "stop": part.stop_soc, "lead": ids.index(part.started_by), "may": ~quiet,
            "must": sunday & (hours >= 12) & (hours < 12 + part.exercise_h_week),
            "charger": [part.charger_kw or job.sheet_of(job.units[at]).rated_kw for at in forming],
        }  # fmt: skip
    rows = slow_island.simulate(units, sun[forming], held, dropped, followed, starts, STEP_H, steps)
    energies, unserved, given = (np.array(column) for column in zip(*rows, strict=True))
    np.testing.assert_allclose(energies.T, year.series.energy_kwh[forming, :steps], atol=1e-6)
    np.testing.assert_allclose(unserved, year.island.unserved_kw[:steps], atol=1e-6)
    np.testing.assert_allclose(given, year.island.generator_kw[:steps], atol=1e-6)
    if name == "skerry-light-cottage":
        assert (given > 0).any() == generator
