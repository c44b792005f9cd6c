"""Limits of a unit's own: in its settings, in the year, held against the site's."""

import pytest

from lodestaff.commissioning.settings_sheet import settings_sheet
from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.findings import answers
from lodestaff.samples import sample_path


def reckoned(name):
    from lodestaff.job.attachments import read_attachment

    path = sample_path(name)
    return load_job(path), Reckoner(lambda digest: read_attachment(path, digest))


def exported(reckoner, job):
    return reckoner.year(job).export_kw.sum(axis=0).max()


def test_one_unit_keeps_its_own_below_the_sites():
    job, reckoner = reckoned("larkmoor")
    own = edit(job, Change("units/hybrid/export_kw", 1.5))
    assert exported(reckoner, job) > 1.6
    assert exported(reckoner, own) == pytest.approx(1.5, abs=0.02)
    rows = {row.key: row for row in settings_sheet(own, reckoner.wiring(own).topology)}
    assert rows["export_kw"].value == 1.5
    assert "its own, of" in rows["export_kw"].because
    assert [one.status for one in answers(reckoner, own, "LIM-EXPORT: own")] == ["passed"]
    assert answers(reckoner, job, "LIM-EXPORT: own") == []


def test_more_than_the_site_may_blocks():
    job, reckoner = reckoned("larkmoor")
    over = edit(job, Change("units/hybrid/export_kw", job.limits.export_kw + 0.5))
    (told,) = answers(reckoner, over, "LIM-EXPORT: own")
    assert told.blocks
    assert told.margin == pytest.approx(-0.5)
    assert exported(reckoner, over) <= job.limits.export_kw + 0.02  # the year goes no higher than the site's
    fuse = edit(job, Change("units/hybrid/import_kw", job.limits.import_kw + 1))
    (told,) = answers(reckoner, fuse, "LIM-EXPORT: own")
    assert (told.quantity, told.blocks) == ("import", True)


def test_the_import_limit_of_its_own_holds_charging_back():
    """At night it charges no faster than its own limit leaves beside the circuits."""
    job, reckoner = reckoned("larkmoor")
    own = edit(job, Change("units/hybrid/import_kw", 2.0))
    before, after = (reckoner.year(one).import_kw.sum(axis=0) for one in (job, own))
    load = reckoner.load_kw(job).sum(axis=0)
    assert (before > load + 0.1).any()  # it charges from the grid
    charging = after > load + 0.05
    assert after[charging].max(initial=0.0) <= 2.0 + 0.02
