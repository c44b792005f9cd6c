"""A faultless rehearsal of every sample: it passes, save what is open and says why."""

import pytest

from lodestaff.commissioning.reading import Status
from lodestaff.commissioning.step import OPEN_KIND
from lodestaff.job import load_job
from lodestaff.measuring.rehearsal import rehearse
from lodestaff.plant import PlantStart
from lodestaff.samples import sample_names, sample_path

# What a person must bring, beside what the program has no rule for: nothing that a step invents.
BRINGS = ("obeys no transformer", "proves no limit", "no circuit of", "no charger of")


def rehearsed(job):
    found = rehearse(job, PlantStart(seed=3))
    assert found.passed, (found.stopped_at, found.proof.result(found.stopped_at).judgement)
    for one in found.proof.results:
        if one.status is Status.OPEN:
            assert OPEN_KIND in one.judgement.words or any(word in one.judgement.words for word in BRINGS), (
                one.step.id
            )
    return found


@pytest.mark.parametrize("name", sample_names())
def test_a_sample_without_a_fault_passes(name):
    rehearsed(load_job(sample_path(name)))


def test_a_reversed_transformer_is_caught_where_units_are_sealed():
    from lodestaff.plant import FAULTS

    fault = next(one for one in FAULTS if one.name == "ct-reversed")
    found = rehearse(load_job(sample_path("gannet-point-lodge")), PlantStart(faults=(fault,)))
    assert found.stopped_at == "ct"
