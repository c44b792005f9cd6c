"""A faultless rehearsal of every sample and of new jobs of all kinds: it passes, save what a person must
bring."""

import pytest
from tests.measuring.new_jobs import new_job

from lodestaff.commissioning.reading import Status
from lodestaff.job import load_job
from lodestaff.measuring.rehearsal import rehearse
from lodestaff.plant import PlantStart
from lodestaff.samples import sample_names, sample_path

# What a person must bring: nothing that a step invents, nothing that the program hasn't learned.
BRINGS = ("obeys no transformer", "proves no limit", "no charger of", "noted on the roof", "faces: shut off",
          "no board hangs", "the band of a limit")  # fmt: skip


def rehearsed(job, seed=3):
    found = rehearse(job, PlantStart(seed=seed))
    if found.stopped_at:
        one = found.proof.result(found.stopped_at)
        raise AssertionError((found.stopped_at, one.step.text, one.reading.numbers, one.judgement))
    for one in found.proof.results:
        if one.status is Status.OPEN:
            assert any(word in one.judgement.words for word in BRINGS), (one.step.id, one.judgement.words)
    return found


@pytest.mark.parametrize("name", sample_names())
def test_a_sample_without_a_fault_passes(name):
    rehearsed(load_job(sample_path(name)))


@pytest.mark.parametrize("seed", range(10))
def test_a_new_job_without_a_fault_passes(seed):
    """The first of two hundred; the rest are run by the benchmark."""
    rehearsed(new_job(seed), seed)


@pytest.mark.parametrize("name", ["juniper-draw-ranch", "gannet-point-lodge", "wendle-row-14"])
def test_without_permission_only_the_island_is_tried(name):
    """Nothing goes onto the grid; what has a backup proves it with the main switch open."""
    job = load_job(sample_path(name))
    found = rehearse(job, PlantStart(seed=3), permitted=False)
    assert found.passed
    status = {one.step.id: one.status for one in found.proof.results}
    assert all(status[one] is Status.OPEN for one in status if one.endswith("-grid"))
    assert all(status[one] is Status.OPEN for one in status if one.startswith(("ct", "export", "return")))
    assert status.get("outage", Status.PASSED) is Status.PASSED
