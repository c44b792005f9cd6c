"""What one code asks to stand at the service besides (from memory: NEC 690.56, 702.7), and no other asks."""

import pytest

from lodestaff.job import Change, edit, load_job
from lodestaff.samples import sample_names, sample_path
from lodestaff.wiring.labels import labels


def of_the_code(reckoner, job):
    return [one for one in labels(job, reckoner.wiring(job).topology) if "NEC" in one.reason]


@pytest.mark.parametrize("name", sample_names())
def test_only_that_code_asks_and_only_for_what_stands_there(reckoner, name):
    job = load_job(sample_path(name))
    found = of_the_code(reckoner, job)
    if job.pack.conductor_rule != "NEC" or not job.mains.grid:
        assert found == []
        return
    standby = [one.text for one in found if one.text.startswith("Standby")]
    assert len(standby) == reckoner.asked(job).has_backup
    assert all(unit.name in standby[0] for unit in reckoner.leads(job))


def test_roofs_that_are_shut_down_are_named_and_those_that_are_not(reckoner):
    job = load_job(sample_path("cinder-flat-house"))
    plan = next(one for one in of_the_code(reckoner, job) if "Plan of the roof" in one.text)
    assert plan.text.endswith("shut down: East, South")
    bare = edit(job, Change("parts", [part.model_dump(mode="json") for part in job.parts
                                      if part.kind != "shutdown"]))  # fmt: skip
    assert not any("Plan of the roof" in one.text for one in of_the_code(reckoner, bare))


def test_a_standby_source_is_named_with_its_wall(reckoner):
    job = load_job(sample_path("ocotillo-wash-centre"))
    text = next(one.text for one in of_the_code(reckoner, job) if one.text.startswith("Standby"))
    assert "Hybrid 1, South wall of the wash hall" in text


@pytest.mark.parametrize("name", sample_names())
def test_a_batterys_disconnect_says_its_fault_current_there_alone(reckoner, name):
    """From memory: NEC 706.15. Of modules side by side it adds up."""
    job = load_job(sample_path(name))
    rows = [one for one in labels(job, reckoner.wiring(job).topology) if "terminals stay live" in one.text]
    code = job.pack.conductor_rule == "NEC"
    assert all(("fault current" in one.text) == code for one in rows)
    if code and rows:
        sheet = job.sheets.batteries[job.banks[0].sheet]
        known = {f"sheets/batteries/{job.banks[0].sheet}/{field}": value for field, value in
                 (("fault_ka", 2.5), ("wired", "parallel"))}  # fmt: skip
        changed = edit(job, *(Change(path, value) for path, value in known.items()))
        texts = [one.text for one in labels(changed, reckoner.wiring(changed).topology)]
        assert any(f"fault current {2.5 * job.banks[0].modules:.2f} kA" in text for text in texts), sheet
