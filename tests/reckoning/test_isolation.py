"""A value of the job that can't be used opens the check that needs it; the others stand."""

from dataclasses import replace

import pytest

from lodestaff.checks import CHECKS, Verdict
from lodestaff.job import save_job
from lodestaff.main import main
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.findings import ISOLATION, findings


@pytest.fixture
def isolated(monkeypatch):
    monkeypatch.setattr(ISOLATION, "on", True)


def without(job, name):
    """The job with a pack that lacks a value, as an older edition does."""
    values = {key: value for key, value in job.pack.values.items() if key != name}
    return job.model_copy(update={"pack": job.pack.model_copy(update={"values": values})})


def test_one_check_is_open_and_the_others_stand(isolated, larkmoor, reckoner):
    before = findings(reckoner, larkmoor, deep=False)
    after = findings(reckoner, without(larkmoor, "isc_factor"), deep=False)
    (one,) = [one for one in after if one.code == "ARR-ISC"]
    assert (one.verdict, one.open, one.status) == (Verdict.BLOCKS, True, "blocks")
    assert "isc_factor" in one.text
    assert one.figure is None  # no number is made up
    touched = {one.code for one in after if one.text.startswith("Not reckoned")}
    assert touched < {check.code for check in CHECKS}
    assert [one.text for one in after if one.code not in touched] == [
        one.text for one in before if one.code not in touched
    ]


@pytest.mark.parametrize("part", range(4))
def test_no_value_of_a_pack_takes_the_findings_away(isolated, larkmoor, part):
    for name in sorted(larkmoor.pack.values)[part::4]:
        found = findings(
            Reckoner(), without(larkmoor, name), deep=False, stations=frozenset(["site", "wire", "storage"])
        )
        assert len(found) > 30, name


def test_a_fault_of_the_program_is_no_finding(isolated, monkeypatch, larkmoor, reckoner):
    bad = replace(CHECKS[0], function=lambda record: [][1])
    monkeypatch.setattr("lodestaff.reckoning.findings.CHECKS", (bad, *CHECKS[1:]))
    with pytest.raises(IndexError):
        findings(reckoner, larkmoor, deep=False)


def test_without_isolation_it_is_raised(larkmoor, reckoner):
    with pytest.raises(JobError, match="isc_factor"):
        findings(reckoner, without(larkmoor, "isc_factor"), deep=False)


def test_the_command_line_says_it_and_blocks(isolated, larkmoor, tmp_path, capsys):
    path = tmp_path / "job.json"
    save_job(without(larkmoor, "isc_factor"), path)
    assert main(["check", str(path)]) == 1
    out = capsys.readouterr().out
    assert "Not reckoned. pack uk: no value 'isc_factor'." in out
    assert "LOAD-SURGE" in out


def test_a_state_that_never_rests_blocks(larkmoor):
    reckoner = Reckoner()
    wiring = reckoner.wiring(larkmoor)
    restless = replace(wiring.answers[0], settled=replace(wiring.answers[0].settled, at_rest=False))
    wiring._found[restless.state] = restless
    found = [
        one for one in findings(reckoner, larkmoor, deep=False) if one.code == "WIRE-LIVE" and one.blocks
    ]
    assert [one.state for one in found] == ["grid"]
    assert "never come to rest" in found[0].text
