"""Whose neutral is earthed in a generator: it makes a bond or none, and what was read there decides.

*Common practice*: a portable set usually floats, a standing one is often bonded inside; two bonds trip the
residual-current devices, none leaves a fault uncleared.
"""

import pytest

from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning.findings import answers
from lodestaff.samples import sample_path

GENERATORS = {
    "brindle-mesa-field-station": False,
    "skerry-light-cottage": True,
    "ocotillo-wash-centre": False,
}


def read(value):
    return {"value": value, "known": "read on site"} if value else {"value": None}


def bonds(reckoner, name, value):
    job = load_job(sample_path(name))
    part = next(part for part in job.parts if part.kind == "generator")
    job = edit(job, Change(f"parts/{part.id}/neutral_earthed", read(value)))
    found = answers(reckoner, job, "WIRE-BOND")
    return job, part, [one for one in found if "generator" in one.quantity], found


@pytest.mark.parametrize("name", GENERATORS)
def test_unread_it_stays_open_where_the_generator_feeds_and_only_there(reckoner, name):
    _, part, of_it, found = bonds(reckoner, name, None)
    assert of_it
    for one in of_it:
        assert one.open
        assert any(part.name in why and "neutral" in why for why in one.open_because)
    assert not any("earthed neutral" in why for one in found if one not in of_it for why in one.open_because)


@pytest.mark.parametrize(("name", "bonded"), GENERATORS.items())
def test_read_as_it_was_designed_it_counts(reckoner, name, bonded):
    _, part, of_it, _ = bonds(reckoner, name, "yes" if bonded else "no")
    assert of_it
    assert not any(part.name in why for one in of_it for why in one.open_because)
    assert {one.verdict.name for one in of_it} == {"PASSED"}


@pytest.mark.parametrize(("name", "bonded"), GENERATORS.items())
def test_read_otherwise_it_blocks_and_the_design_can_follow(reckoner, name, bonded):
    job, part, of_it, _ = bonds(reckoner, name, "no" if bonded else "yes")
    assert {one.verdict.name for one in of_it} == {"BLOCKS"}
    cure = next(cure for cure in of_it[0].remedies if f"parts/{part.id}/bonded" in str(cure.changes))
    after = answers(reckoner, edit(job, *cure.changes), "WIRE-BOND")
    told = [one for one in after if "generator" in one.quantity]
    assert told
    assert not any("is read" in one.text for one in told)  # bonds are counted as they are now
