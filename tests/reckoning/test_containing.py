"""Conduits and trunkings from the ways of cables: what lies in them, bends counted by hand, sizes."""

import pytest
from tests.places.test_places import PLACES, THROUGH, WALLS

from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning.containing import contained, containments
from lodestaff.reckoning.findings import answers
from lodestaff.reckoning.lengths import lengths, taken
from lodestaff.samples import sample_path

ASSUMED = {"value": "yes", "known": "assumed"}


@pytest.fixture(scope="module")
def planned():
    job = load_job(sample_path("larkmoor"))
    hole = {**THROUGH, "way": "conduit", "bends_deg": 90, "metal": True}
    return edit(
        job, Change("arrangements", []), Change("walls", WALLS), Change("standing", PLACES),
        Change("passages", [hole]),
        Change("walls/garage/cables", "trunking"), Change("walls/yard/cables", "conduit"),
        Change("cables/hybrid-feed/known", ASSUMED), Change("cables/battery-run/known", ASSUMED),
    )  # fmt: skip


def test_each_way_is_in_what_it_goes_by(reckoner, planned):
    found = {one.id: one for one in containments(reckoner, planned)}
    assert {id: one.runs for id, one in found.items()} == {
        "hole": ("hybrid-feed",), "garage-trunking": ("hybrid-feed",),
        "garage-trunking-dc": ("battery-run",),
        "yard-hybrid-feed": ("hybrid-feed",),
    }  # fmt: skip
    assert (found["hole"].bends_deg, found["hole"].metal) == (90, True)
    assert found["yard-hybrid-feed"].bends_deg == 90  # up half a metre, then along: one right angle
    assert found["garage-trunking"].bends_deg is None
    assert found["garage-trunking"].size == "trunking 50x50"
    assert found["hole"].size.startswith("conduit ")
    assert not found["yard-hybrid-feed"].inside


def test_the_size_is_the_smallest_that_its_check_lets_pass(reckoner, planned):
    """uk, from memory: singles of 16 mm² have 47.8 mm² each; two and a protective conductor of as much fill
    222 mm² of conduit 20 to 65 %."""
    rows = [(f"cables/hybrid-feed/{name}", value)
            for name, value in (("table", "4D1 B"), ("size_mm2", 16), ("cpc_mm2", 16))]  # fmt: skip
    job = edit(planned, *contained(reckoner, planned), *(Change(path, value) for path, value in rows))
    again = {one.id: one for one in containments(reckoner, job)}
    every = sorted((area, size) for size, area in job.pack.containment_sizes.items())
    sizes = [size for _, size in every if "conduit" in size]
    assert sizes.index(again["hole"].size) > 0
    smaller = sizes[sizes.index(again["hole"].size) - 1]
    tight = edit(job, Change("containments/hole/size", smaller))
    mine = [one for one in answers(reckoner, tight, "WIRE-FILL") if one.owner == "hole" and not one.quantity]
    assert [one.status for one in mine] == ["blocks"]


def test_cables_follow_with_how_many_lie_together(reckoner, planned):
    job = edit(planned, *taken(planned, lengths(reckoner, planned)))
    now = {cable.id: cable for cable in job.cables}
    assert now["hybrid-feed"].grouping == now["battery-run"].grouping == 1  # each in a trunking of its own
    one = edit(planned, Change("standing/battery/wall", "yard"), Change("standing/battery/x_m", 0.5),
               Change("cables/battery-run/grouping", 1))  # fmt: skip
    one = edit(one, *taken(one, lengths(reckoner, one)))
    assert {cable.grouping for cable in one.cables if cable.id in ("hybrid-feed", "battery-run")} == {2}
    assert not any(one.changes for one in lengths(reckoner, job))


def test_dc_beside_ac_in_one_is_told(reckoner, planned):
    job = edit(planned, *contained(reckoner, planned))
    assert not [one for one in answers(reckoner, job, "WIRE-FILL") if one.quantity == "apart"]
    mixed = edit(job, Change("containments/garage-trunking/runs", ["hybrid-feed", "battery-run"]))
    told = [one for one in answers(reckoner, mixed, "WIRE-FILL") if one.quantity == "apart"]
    assert [(one.owner, one.status) for one in told] == [("garage-trunking", "warns")]


def test_what_was_read_stays_and_what_no_cable_takes_goes(reckoner, planned):
    job = edit(planned, *contained(reckoner, planned))
    read = {"value": "yes", "known": "read on site"}
    job = edit(job, Change("containments/hole/size", "conduit 32"), Change("containments/hole/known", read))
    assert {one.id: one.size for one in containments(reckoner, job)}["hole"] == "conduit 32"
    clipped = edit(job, Change("walls/garage/cables", "clipped to it"))
    assert {one.id for one in containments(reckoner, clipped)} == {
        "hole",
        "yard-hybrid-feed",
    }  # both trunkings went
    again = edit(clipped, *contained(reckoner, clipped))
    assert contained(reckoner, again) == ()


def test_shallow_cables_are_asked_for_their_device(reckoner, planned):
    """BS 7671 522.6.202, from memory: less than 50 mm deep in a wall needs 30 mA."""
    job = edit(planned, Change("walls/yard/cables", "in the wall"), Change("walls/yard/cable_depth_mm", 30))
    job = edit(job, *taken(job, lengths(reckoner, job)))
    cable = next(one for one in job.cables if one.id == "hybrid-feed")
    assert cable.depth_mm == 30
    told = [one for one in answers(reckoner, job, "WIRE-RCD") if one.owner == "hybrid-feed"]
    assert "blocks" in {one.status for one in told} or any("30 mm deep" in one.text for one in told)
    back = edit(job, Change("walls/yard/cables", ""))
    back = edit(back, *taken(back, lengths(reckoner, back)))
    assert next(one for one in back.cables if one.id == "hybrid-feed").depth_mm is None
