"""Findings gathered by their cause: none is lost, none counted twice, and one remedy does for all."""

from dataclasses import replace

import pytest

from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.job import Change, edit, load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.gathered import gathered
from lodestaff.samples import sample_path


def finding(text, rule="WIRE-AMP", **more):
    more.setdefault("verdict", Verdict.WARNS)
    return Finding(text=text, rule=rule, code=rule.split(":")[0], **more)


def cure(path, value):
    return (Remedy(f"Set {path} to {value}", (Change(path, value),)),)


WAITING = {"verdict": Verdict.PASSED, "open_because": ("the cable is unknown",)}


def test_what_waits_for_one_thing_is_one_line_whatever_the_check():
    several = [finding(f"run {n}", rule, **WAITING) for n in range(3) for rule in ("WIRE-AMP", "WIRE-DROP")]
    (cause,) = gathered(several)
    assert cause.findings == tuple(several)
    assert cause.codes == "WIRE-AMP, WIRE-DROP"
    assert "cable is unknown" in cause.text
    assert "6" in cause.text


@pytest.mark.parametrize(
    "other",
    [{"verdict": Verdict.BLOCKS}, {"quantity": "peak"}, {"rule": "WIRE-DROP"}],
    ids=lambda other: next(iter(other)),
)
def test_another_verdict_question_or_check_is_another_line(other):
    assert len(gathered([finding("one"), finding("two"), replace(finding("three"), **other)])) == 2


def test_one_remedy_for_all_where_each_has_one():
    cables = [finding(f"run {n}", remedies=cure(f"cables/{n}/size_mm2", 10)) for n in range(3)]
    (cause,) = gathered(cables)
    (remedy,) = cause.remedies
    assert [change.path for change in remedy.changes] == [f"cables/{n}/size_mm2" for n in range(3)]
    assert "2 more" in remedy.name
    (lacking,) = gathered([*cables, finding("run 3")])
    assert lacking.remedies == ()


def test_remedies_that_undo_each_other_are_not_offered_together():
    (cause,) = gathered([finding("low", remedies=cure("limits/reserve_soc", share)) for share in (0.3, 0.5)])
    assert cause.remedies == ()


@pytest.mark.parametrize("name", ["harrow-mill-flats", "ocotillo-wash-centre"])
def test_the_one_remedy_cures_all_answers_of_its_cause(name):
    """Each of several remedies is worked out on the job as it stands: taken together they still cure."""
    path = sample_path(name)
    reckoner, job = Reckoner(lambda digest: read_attachment(path, digest)), load_job(path)
    several = [cause for cause in gathered(findings(reckoner, job, deep=True)) if cause.count > 1]
    causes = [cause for cause in several if cause.remedies and cause.status in ("blocks", "warns")]
    assert causes
    for cause in causes:
        after = findings(reckoner, edit(job, *cause.remedies[0].changes), deep=True)
        now = {found.key: found.status for found in after}
        assert [found.key for found in cause.findings if now.get(found.key) == cause.status] == []
