"""Each fault is found by a step that is declared beside it, and by no other, where it can occur."""

from functools import cache

import pytest

from lodestaff.commissioning.procedure import procedure
from lodestaff.commissioning.reading import Status
from lodestaff.job import load_job
from lodestaff.measuring.rehearsal import as_if_permitted, rehearse
from lodestaff.plant import FAULTS, PlantStart
from lodestaff.plant.faults import fault_named, faults_of
from lodestaff.quantities.errors import JobError
from lodestaff.samples import sample_names, sample_path
from lodestaff.topology import build


@cache
def site(name):
    job = as_if_permitted(load_job(sample_path(name)))
    return job, build(job)


@cache
def where():
    """For each fault the samples in which it can occur."""
    found = {fault.name: [] for fault in FAULTS}
    for name in sample_names():
        for fault in faults_of(*site(name)):
            found[fault.name].append(name)
    return found


@pytest.mark.parametrize("number", range(len(FAULTS)), ids=[fault.name for fault in FAULTS])
def test_each_fault_is_found_by_a_step_that_is_declared(number):
    """In another kind for each fault, so that together they go through most; all of them are the
    benchmark's."""
    fault = FAULTS[number]
    names = where()[fault.name]
    job, _ = site(names[number % len(names)])
    found = rehearse(job, PlantStart(seed=number, faults=(fault,)))
    assert found.stopped_at is not None, job.id
    assert fault.is_caught_by(found.stopped_at), (job.id, found.stopped_at)
    assert found.proof.result(found.stopped_at).status is Status.FAILED


@pytest.mark.parametrize("name", sample_names())
def test_what_is_declared_is_a_step_of_the_job(name):
    job, topology = site(name)
    steps = [step.id for step in procedure(job, topology) if not step.needs]
    for fault in faults_of(job, topology):
        assert any(fault.is_caught_by(step) for step in steps), fault.name


def test_every_fault_occurs_somewhere_and_none_everywhere_by_chance():
    assert all(where().values())
    off_grid = {name for name in sample_names() if not site(name)[0].mains.grid}
    assert off_grid
    for fault in ("ct-reversed", "meter-lost", "profile-wrong", "charger-live"):
        assert not off_grid & set(where()[fault]), fault
    assert set(where()["module-unit-silent"]) <= {"gannet-point-lodge", "pinfold-terrace-3"}
    assert set(where()["start-pair-open"]) == {
        name for name in sample_names() if any(getattr(p, "started_by", "") for p in site(name)[0].parts)
    }


def test_a_fault_that_a_site_cannot_have_is_refused_with_those_it_can():
    job, _ = site("wendle-row-14")
    with pytest.raises(JobError, match="choose from ct-reversed"):
        rehearse(job, PlantStart(faults=(fault_named("bond-open"),)))
