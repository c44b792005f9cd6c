"""Checks, findings and figures are known by keys, never by the words that are shown."""

import re
from collections import Counter
from pathlib import Path

import pytest
from tests.unlike import UNLIKE

import lodestaff
from lodestaff.checks import CHECKS
from lodestaff.commissioning.procedure import procedure
from lodestaff.job import load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.reckoning import Moment, Reckoner
from lodestaff.reckoning.compare import _all_readings, compare
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.gathered import gathered
from lodestaff.reckoning.results import compute
from lodestaff.samples import sample_path

SOURCES = sorted(Path(lodestaff.__file__).parent.rglob("*.py"))


@pytest.fixture(scope="module", params=("larkmoor", *UNLIKE))
def site(request):
    path = sample_path(request.param)
    return Reckoner(lambda digest: read_attachment(path, digest)), load_job(path)


def test_every_check_has_a_rule_of_its_own():
    assert [rule for rule, count in Counter(check.rule for check in CHECKS).items() if count > 1] == []


def test_a_job_compared_with_itself_shows_nothing(site):
    reckoner, job = site
    assert [row for row in compare(reckoner, job, reckoner, job) if not row.same] == []


def test_a_figures_key_names_one_value(site):
    reckoner, job = site
    results = compute(reckoner, job, Moment(), True, True)
    values: dict = {}
    for reading in _all_readings(results):
        assert reading.key[0], reading.name
        values.setdefault(reading.key, set()).add(reading.text)
    assert {key: found for key, found in values.items() if len(found) > 1} == {}


def test_every_finding_says_which_check_made_it_and_has_a_key_of_its_own(site):
    reckoner, job = site
    rules = {check.rule: check.code for check in CHECKS}
    found = compute(reckoner, job, Moment(), deep=False).findings
    assert [one.rule for one in found if rules[one.rule] != one.code] == []
    assert [key for key, count in Counter(one.key for one in found).items() if count > 1] == []
    causes = gathered(found)  # and each belongs to one cause, which stands where its first finding does
    assert len(found) == len({finding.key for cause in causes for finding in cause.findings})
    assert len({cause.key for cause in causes}) == len(causes)
    assert [found.index(cause.worst) for cause in causes] == sorted(found.index(c.worst) for c in causes)


def test_every_step_and_every_remedy_has_a_key_of_its_own(site):
    reckoner, job = site
    steps = Counter(step.id for step in procedure(job, reckoner.wiring(job).topology))
    assert [id for id, count in steps.items() if count > 1] == []
    for one in findings(reckoner, job, deep=True):
        assert len({remedy.key for remedy in one.remedies}) == len(one.remedies), one.key


def test_two_islands_stand_side_by_side_with_their_names():
    job = load_job(sample_path("harrow-mill-flats"))
    reckoner = Reckoner()
    names = [
        row.name for row in compare(reckoner, job, reckoner, job) if row.name.startswith("Backed up together")
    ]
    assert names == ["Backed up together, Hybrid 1", "Backed up together, Hybrid 2"]


def test_nothing_is_found_by_the_beginning_of_a_title():
    """A title may be reworded: what it names is found by its key."""
    words = re.compile(r"(figure\.name|\.text|reading\.name|finding\.\w+)\.startswith\(")
    assert [path.name for path in SOURCES if words.search(path.read_text())] == []


def test_no_id_is_taken_apart():
    """What a part, a step or a run is, it says itself; the one address of job files is read in one place."""
    apart = re.compile(
        r"\b(part|step|run|one|unit|p|board)(\.id|\.step)?\.(startswith|endswith|removeprefix|removesuffix)\("
        r"|\.id\.split\(|split\(\":\"\)\[0\]|partition\(\":\"\)|\"-array-\" in"
    )
    aside = {
        "address.py",
        "samples.py",
        "parser.py",
        "live.py",
    }  # names of files, hours and minutes, a host's port
    found = [
        f"{path.name}: {line.strip()}"
        for path in SOURCES
        if path.name not in aside
        for line in path.read_text().splitlines()
        if apart.search(line)
    ]
    assert found == []
