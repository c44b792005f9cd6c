"""What must be there besides: outside, at each generator, for the largest load; torques of every family."""

import pytest

from lodestaff.checks.service import GeneratorApart, generator_apart
from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning.findings import answers
from lodestaff.samples import sample_names, sample_path
from lodestaff.wiring.terminations import terminations


def told(reckoner, job, rule):
    return [(one.status, one.open) for one in answers(reckoner, job, rule)]


@pytest.mark.parametrize("name", sample_names())
def test_only_a_dwelling_of_that_code_is_asked_for_a_disconnect_outside(reckoner, name):
    """From memory: NEC 230.85."""
    job = load_job(sample_path(name))
    asked = told(reckoner, job, "WIRE-ISO: outside")
    assert bool(asked) == (job.pack.conductor_rule == "NEC" and job.mains.grid)
    if not asked:
        return
    assert asked == [("passed", False) if name.startswith("ocotillo") else ("open", True)]
    for value, status in (("yes", "passed"), ("no dwelling", "passed"), ("no", "warns")):
        fact = {"value": value, "known": "read on site"}
        there = edit(job, Change("site/supply/outside_disconnect", fact))
        assert told(reckoner, there, "WIRE-ISO: outside") == [(status, False)]


@pytest.mark.parametrize("name", sample_names())
def test_each_generator_is_disconnected_by_hand(reckoner, name):
    job = load_job(sample_path(name))
    parts = reckoner.wiring(job).topology.parts.values()
    asked = told(reckoner, job, "WIRE-ISO: generator")
    assert asked == [("passed", False)] * sum(part.kind == "generator" for part in parts)


def test_a_generator_that_nothing_disconnects_blocks():
    found = list(generator_apart(GeneratorApart("g", "Generator", (), None)))
    assert [one.blocks for one in found] == [True]


def test_without_a_grid_the_source_is_as_large_as_the_largest_load(reckoner):
    """From memory: NEC 710.15(A). Two units of 8.8 kW; a load of 17.6 kW passes, one of 17.7 kW blocks."""
    job = load_job(sample_path("brindle-mesa-field-station"))
    for watts, status in ((17_600, "passed"), (17_700, "blocks")):
        known = Change("circuits/well/known", {"value": "yes", "known": "measured"})
        there = edit(job, Change("circuits/well/running_w", watts), known)
        assert [one for one, _ in told(reckoner, there, "LOAD-CONT: largest")] == [status]
    assert told(reckoner, load_job(sample_path("skerry-light-cottage")), "LOAD-CONT: largest") == []


@pytest.mark.parametrize(
    ("name", "kind"), [("brockle-vicarage", "battery_units"), ("brockle-vicarage", "inverters"),
                       ("larkmoor", "hybrids")]
)  # fmt: skip
def test_torques_are_those_of_the_units_sheets(reckoner, name, kind):
    job = load_job(sample_path(name))
    unit = next(unit for unit in job.units if unit.sheet in getattr(job.sheets, kind))
    there = edit(job, Change(f"sheets/{kind}/{unit.sheet}/terminal_nm", 2.2))
    topology = reckoner.wiring(there).topology
    found = {one.torque_nm for one in terminations(there, topology) if one.part == unit.id}
    assert found <= {2.2}
    assert all(one.torque_nm is None for one in terminations(job, topology) if one.part == unit.id)


@pytest.mark.parametrize("name", sample_names())
def test_only_storage_of_that_code_is_asked_for_a_shutdown_outside(reckoner, name):
    """From memory: NEC 706.15, of one- and two-family dwellings."""
    job = load_job(sample_path(name))
    asked = told(reckoner, job, "WIRE-ISO: storage")
    assert bool(asked) == (job.pack.conductor_rule == "NEC" and job.mains.grid and bool(job.banks))
    if asked:
        for value, status in (("yes", "passed"), ("no dwelling", "passed"), ("no", "warns")):
            fact = {"value": value, "known": "read on site"}
            there = edit(job, Change("site/supply/storage_shutdown", fact))
            assert told(reckoner, there, "WIRE-ISO: storage") == [(status, False)]


def test_no_dwelling_is_not_asked_again(reckoner):
    job = load_job(sample_path("ocotillo-wash-centre"))
    assert told(reckoner, job, "WIRE-ISO: storage") == [("passed", False)]
    assert told(reckoner, job, "WIRE-ISO: outside") == [("passed", False)]
