"""Days: the largest sample laid, and what a window asks after a piece of work was moved."""

from datetime import date

import pytest

from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.visiting import programme, wanted
from lodestaff.samples import sample_path
from lodestaff.visits import lay

BEGIN = date(2027, 3, 1)


@pytest.mark.parametrize("name", ["ocotillo-wash-centre", "sotol-ridge-house"])
def test_a_large_job_is_laid(benchmark, seconds, noted, job, name):
    """Feasible within 5 s is what is wanted of the largest."""
    reckoner, large = Reckoner(), edit(load_job(sample_path(name)), Change("visits", {}))
    asked = wanted(reckoner, large, BEGIN)
    small = wanted(reckoner, edit(job, Change("visits", {})), BEGIN)
    found = benchmark.pedantic(lambda: lay(asked), rounds=2, iterations=1)
    assert found.laid
    noted(benchmark, "laying the demo", seconds(lambda: lay(small), 1))


def test_the_days_after_a_piece_was_moved(benchmark, seconds, noted, job, reckoner):
    programme(reckoner, job)
    state = {"job": job, "at": 0}

    def moved():
        rows = [one.model_dump(mode="json") for one in state["job"].visits.laid]
        state["at"] += 1
        rows[0]["at_h"] = 8.0 + 0.25 * (state["at"] % 8)
        state["job"] = edit(state["job"], Change("visits/laid", rows))
        return programme(reckoner, state["job"])

    assert benchmark(moved).tasks
    noted(benchmark, "made anew", seconds(lambda: programme(Reckoner(), job), 1))
