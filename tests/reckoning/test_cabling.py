"""Cables proposed for every run: of every kind, in every pack, the smallest that passes."""

from dataclasses import replace

import pytest

from lodestaff.checks.finding import Verdict
from lodestaff.job import Change, edit, load_job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.cabling import findings_of, proposed, taking, with_cables
from lodestaff.reckoning.records.paths import paths_of
from lodestaff.reckoning.records.runs import runs
from lodestaff.samples import sample_names, sample_path
from lodestaff.templates import KINDS, compose

BAD = (Verdict.BLOCKS, Verdict.WARNS)
SYSTEMS = {"uk": {"120/240 V": "single phase", "120/208 V": "two of three phases"},
           "anz": {"120/240 V": "single phase", "120/208 V": "two of three phases"},
           "na": {"single phase": "120/240 V", "two of three phases": "120/208 V"}}  # fmt: skip


def bare(job):
    return edit(job, Change("cables", []))


def in_pack(letter, pack):
    """A kind as another pack has it; None where its parts can't stand there."""
    wanted = KINDS[letter].wanted
    if pack != wanted.pack:
        system = SYSTEMS[pack].get(wanted.system, wanted.system)
        wanted = wanted.model_copy(update={"pack": pack, "system": system, "unit_sheet": "", "rating_a": 200})
    try:
        return compose(type(wanted).model_validate(wanted.model_dump()))
    except (JobError, ValueError):
        return None


@pytest.mark.parametrize("letter", sorted(KINDS))
def test_every_kind_in_every_pack_is_proposed_without_a_finding(reckoner, letter):
    """What a pack proposes no check of cables blocks, nor warns of; every run has one, or is said why not."""
    tried = 0
    for pack in ("uk", "na", "anz"):
        job = in_pack(letter, pack)
        if job is None:
            continue
        tried += 1
        found = proposed(reckoner, bare(job))
        assert {one.run.id for one in found} == {run.id for run in runs(reckoner, job, False)}
        for one in found:
            assert one.cable is not None, (pack, one.run.id, one.why_not)
            assert not one.left, (pack, [finding.text for finding in one.left])
        wired = with_cables(reckoner, bare(job))
        assert not proposed(reckoner, wired)
        for path in paths_of(wired, reckoner.wiring(wired).before, tuple(runs(reckoner, wired, False))):
            drops = [drop for _, drop in path.parts()]
            assert all(drops)
            assert path.limit is not None
            assert sum(drop.drop_pct for drop in drops if drop) <= path.limit.value + 1e-9
    assert tried


@pytest.mark.parametrize("name", sample_names())
def test_what_is_proposed_is_the_smallest_that_passes(reckoner, name):
    """By brute force over the rows: none smaller passes by itself and with the way as a whole."""
    job = load_job(sample_path(name))
    found = proposed(reckoner, bare(job))
    before, everything = reckoner.wiring(job).before, tuple(one.run for one in found)
    for one in found:
        cable, pack = one.cable, job.pack
        table = pack.table("dc_cables" if cable.table == "DC class 5" else "cables")
        least = pack.usual_runs.runs[one.run.use].least_mm2 or 0.0
        for size in table.row_keys():
            if not least <= size < cable.size_mm2:
                continue
            smaller = replace(one.run, cable=cable.model_copy(update={"size_mm2": size}))
            alone = any(finding.verdict in BAD for finding in findings_of(smaller))
            now = tuple(smaller if run.id == smaller.id else run for run in everything)
            whole = any(
                sum(drop.drop_pct for _, drop in path.parts() if drop) > path.limit.value
                for path in paths_of(job, before, now)
                if smaller in path.runs and path.limit is not None
            )
            assert alone or whole, (one.run.id, size, cable.size_mm2)


def test_samples_ship_with_their_cables(reckoner):
    """No run of a sample waits for its cable."""
    for name in sample_names():
        assert not proposed(reckoner, load_job(sample_path(name))), name


def test_a_typed_way_is_kept_and_sized_anew(reckoner, larkmoor):
    """Length, method, grouping and insulation stay as they were typed; size and device follow.

    By hand: 30.1 A behind 32 A, 22 m, 35 °C, 3 circuits, 100 mm of insulation: 32 / 0.5132 = 62.35 A, 10 mm²
    (64 A): BS 7671 tables 4D5, 4B1, 4C1, 52.2, from memory.
    """
    path = "cables/hybrid-backup"
    way = {
        "length_m": 22,
        "ambient_c": 35,
        "grouping": 3,
        "insulation_mm": 100,
        "size_mm2": 2.5,
        "device_a": 6,
    }
    job = edit(larkmoor, *(Change(f"{path}/{field}", value) for field, value in way.items()))
    (one,) = proposed(reckoner, job, only="hybrid-backup")
    assert (one.cable.length_m, one.cable.ambient_c, one.cable.grouping, one.cable.insulation_mm) == (
        22, 35, 3, 100)  # fmt: skip
    assert (one.cable.size_mm2, one.cable.device_a, one.cable.table) == (10, 32, "4D5 C")
    assert next(cable for cable in taking(job, (one,)).cables if cable.id == one.run.id) == one.cable


def test_generation_at_one_per_cent(reckoner, larkmoor):
    """Source: BS 7671 Appendix 4 tables 4D5, 4B1, 4C1 (from memory); 1 % for generation: common practice.

    5 kW on 18 m at 40 °C beside another circuit, behind 25 A: 4 mm² carries 25.75 A, but 1 % asks for 10 mm²
    (0.749 %).
    """
    job = edit(bare(larkmoor), Change("circuits", []), Change("banks", []))
    run = next(run for run in runs(reckoner, job, False) if run.id == "hybrid-feed")
    run = replace(run, load_a=(), source_a=(("L1", 5000 / 230),), two_way=False, asked_rcd_type=None)
    (one,) = proposed(reckoner, bare(larkmoor), only="hybrid-feed")
    fields = {"length_m": 18, "ambient_c": 40, "grouping": 2, "device_a": 25}

    def passes(size):
        cable = one.cable.model_copy(update={**fields, "size_mm2": size})
        return not any(finding.verdict in BAD for finding in findings_of(replace(run, cable=cable)))

    assert [passes(size) for size in (2.5, 4, 6, 10, 16)] == [False, False, False, True, True]


def test_a_size_that_no_table_has_is_not_made_up(reckoner, larkmoor):
    """A pack whose tables end too early proposes nothing, and says why."""
    rows = [row for row in larkmoor.pack.table("cables").rows if row[0] <= 6]
    job = edit(bare(larkmoor), Change("pack/tables/cables", {
        **larkmoor.pack.table("cables").model_dump(mode="json"), "rows": rows}))  # fmt: skip
    feed = next(one for one in proposed(reckoner, job) if one.run.id == "hybrid-feed")
    assert feed.cable is None
    assert "carries" in feed.why_not
    assert "hybrid-feed" not in {cable.id for cable in taking(job, (feed,)).cables}
    # the tails were read on site: they are what they are, and the finding stays
    tails = next(one for one in proposed(reckoner, job) if one.run.id == "tails")
    assert tails.cable.size_mm2 == job.site.supply.tails_mm2.value == 25
    assert tails.cable.existing
    assert tails.left
    with pytest.raises(JobError, match="no run 'nowhere'"):
        proposed(reckoner, job, only="nowhere")
