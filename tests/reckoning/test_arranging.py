"""Arrangements and families through jobs of unlike kinds."""

import pytest

from lodestaff.job import Change, edit, load_job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.arranging import arranged
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.roof_families import MICRO, ON_ALL, ON_SHADED, STRINGS, families_on
from lodestaff.samples import sample_path

ARRAY = frozenset({"array"})


@pytest.fixture(scope="module")
def roof():
    reckoner, jobs = Reckoner(), {}

    def find(name):
        if name not in jobs:
            jobs[name] = load_job(sample_path(name))
        return reckoner, jobs[name]

    return find


@pytest.mark.parametrize(
    "name", ["larkmoor", "brockle-vicarage", "ludd-hall-annexe", "brindle-mesa-field-station"]
)
def test_what_is_proposed_passes_the_checks_of_strings(roof, name):
    reckoner, job = roof(name)
    found = arranged(reckoner, job)
    assert found.exact
    for way in (found.ways[0], found.ways[-1]):
        changed = edit(job, *way.changes)
        codes = {f.code for f in findings(reckoner, changed, deep=False, stations=ARRAY) if f.blocks}
        assert not codes & {"ARR-VOC", "ARR-VMP", "ARR-ISC"}
        placed = [m.string for face in changed.faces for m in face.modules]
        assert placed.count("") == way.left
        assert way.kwh <= way.alone_kwh * (1 + 1e-6)


def test_the_demo_stands_as_the_best_there_is_and_faces_apart(roof):
    reckoner, job = roof("larkmoor")
    found = arranged(reckoner, job)
    assert found.ways[0].kwh == pytest.approx(found.now_kwh)
    assert {words.replace(", shaded", "") for _, _, words in found.ways[0].strings} == {
        "10 South-east", "7 South-west + 1 South-west",
    }  # fmt: skip
    mixed = next(way for way in found.ways if any("east" in w and "west" in w for _, _, w in way.strings))
    assert mixed.kwh < found.ways[0].kwh


def test_equal_units_are_filled_evenly(roof):
    """Common practice: strings spread evenly over units."""
    _, job = roof("brindle-mesa-field-station")
    best = arranged(Reckoner(), job).ways[0]
    assert [words for _, _, words in best.strings] == ["9 Rack south"] * 4


def test_what_stood_there_before_is_left_alone(roof):
    reckoner, job = roof("tern-quay-boatshed")
    way = arranged(reckoner, job).ways[0]
    changed = edit(job, *way.changes)
    assert [m.string for m in changed.faces[0].modules] == ["string-1"] * 6
    assert changed.strings[0] == job.strings[0]


def test_units_behind_modules_get_their_branches(roof):
    reckoner, job = roof("gannet-point-lodge")
    found = arranged(reckoner, job)
    assert found.ways[0].left == 0
    assert found.fits == ()
    assert found.ways[0].kwh == pytest.approx(found.now_kwh)


def test_where_no_length_fits_it_is_said(roof):
    reckoner, job = roof("larkmoor")
    trackers = [
        {**t.model_dump(mode="json"), "v_start": 520.0, "v_min": 500.0, "v_max": 510.0}
        for t in job.sheets.hybrids["hybrid-6"].trackers
    ]
    found = arranged(reckoner, edit(job, Change("sheets/hybrids/hybrid-6/trackers", trackers)))
    assert found.ways == ()
    assert all(fit.least > fit.most for fit in found.fits)
    assert "520 V to start" in found.fits[0].why
    assert found.now_blocks == ("ARR-VMP",)


def test_nothing_to_arrange_is_an_error_that_says_so(roof):
    reckoner, job = roof("larkmoor")
    bare = edit(job, *(Change(f"faces/{face.id}/modules", []) for face in job.faces))
    with pytest.raises(JobError, match="no module that is free"):
        arranged(reckoner, bare)
    with pytest.raises(JobError, match="no module on a string"):
        families_on(reckoner, bare)


@pytest.mark.parametrize("name", ["larkmoor", "larch-fold-barn", "gannet-point-lodge", "sotol-ridge-house"])
def test_optimisers_give_back_what_the_modules_alone_say_and_never_more(roof, name):
    """Source: derived; the module-level sum is the most that any family can take from the light."""
    reckoner, job = roof(name)
    found = families_on(reckoner, job)
    alone = found.unshaded_kwh - found.shade_kwh
    rows = {family.name: family for family in found.families}
    assert all(family.kwh_dc <= alone * (1 + 1e-6) for family in found.families)
    assert rows[MICRO].kwh_dc == pytest.approx(alone, rel=0.005)
    assert rows[ON_ALL].kwh_dc <= alone * 0.986 * (1 + 1e-6)
    assert rows[STRINGS].kwh_dc < rows[ON_SHADED].kwh_dc, "here a few modules are shaded"
    assert sum(family.present for family in found.families) == 1
    for family in found.families:
        lost = family.lost_mismatch_kwh + family.lost_conversion_kwh
        assert family.kwh_ac + lost == pytest.approx(alone, rel=1e-6)


def test_one_failure_takes_all_of_one_unit_and_one_module_of_many(roof):
    reckoner, job = roof("larkmoor")
    rows = {family.name: family for family in families_on(reckoner, job).families}
    assert rows[STRINGS].unit_fails_share == 1
    assert rows[MICRO].unit_fails_share == pytest.approx(1 / 18)
    assert rows[STRINGS].module_fails_share > 0.5
    assert rows[STRINGS].cost == 0
    assert rows[MICRO].cost is None


def test_optimisers_on_all_some_or_none_give_unlike_years(roof):
    """They gave the same year once."""
    reckoner, job = roof("larch-fold-barn")
    years = {}
    for name, fitted in (("none", set()), ("some", {"m2", "m3", "m4", "m8"}), ("all", None)):
        changes = [
            Change(
                f"faces/{face.id}/modules/{m.id}/optimiser",
                fitted is None or (face.id == "face-2" and m.id in fitted),
            )
            for face in job.faces
            for m in face.modules
        ]
        changes += [Change(f"strings/{s.id}/optimisers", "none") for s in job.strings]
        changed = edit(job, *changes)
        assert {changed.optimisers_on(s) for s in changed.strings} <= {"none", name}
        years[name] = reckoner.pv_dc_kw(changed).sum()
    assert years["none"] < years["some"]
    assert len({round(year) for year in years.values()}) == 3
