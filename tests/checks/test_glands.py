"""Cables of several cores in their glands and at the entries of their cases."""

import math

import pytest

from lodestaff.checks import checks_named
from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning.records import RECORDS
from lodestaff.reckoning.schedules import gland_schedule
from lodestaff.samples import sample_path

FEED = "cables/hybrid-feed"
WAY = {"id": "way", "name": "Yard conduit", "runs": ["hybrid-feed"], "inside": False}


def answers(reckoner, job):
    return {
        one.quantity or "fill": one
        for check in checks_named("WIRE-FILL")
        for record in RECORDS[check.record](reckoner, job, False)
        for one in check.function(record)
    }


@pytest.fixture(scope="module")
def demo():
    return load_job(sample_path("larkmoor"))


def read(job, outside, least=None, most=None):
    values = {"outside_mm": outside, "gland_least_mm": least, "gland_most_mm": most}
    return edit(job, *(Change(f"{FEED}/{field}", value) for field, value in values.items()))


def test_a_cable_is_within_what_its_gland_seals(reckoner, demo):
    """Source: the range that is marked on a gland (common practice)."""
    assert answers(reckoner, read(demo, 11.2, 9, 14))["gland hybrid-feed"].status == "passed"
    thin = answers(reckoner, read(demo, 8.0, 9, 14))["gland hybrid-feed"]
    assert (thin.status, thin.limit, thin.margin) == ("warns", 9, pytest.approx(1.0))
    thick = answers(reckoner, read(demo, 15.0, 9, 14))["gland hybrid-feed"]
    assert (thick.status, thick.limit, thick.margin) == ("warns", 14, pytest.approx(-1.0))
    assert answers(reckoner, read(demo, 11.2, 14, 9))["gland hybrid-feed"].status == "open"


def test_what_was_not_read_is_one_open_answer_that_names_all(reckoner, demo):
    told = answers(reckoner, demo)["unread"]
    assert told.status == "open"
    assert len(told.subjects) == told.figure.value == 3
    assert "hybrid-feed" in told.subjects
    assert "hybrid-feed" not in answers(reckoner, read(demo, 11.2, 9, 14))["unread"].subjects
    assert "hybrid-feed" in answers(reckoner, read(demo, 11.2, 9, None))["unread"].subjects


def test_a_cable_that_lies_there_already_is_not_asked_but_looked_at(reckoner, demo):
    there = edit(demo, Change(f"{FEED}/existing", True))
    assert "hybrid-feed" not in answers(reckoner, there)["unread"].subjects
    assert answers(reckoner, read(there, 15.0, 9, 14))["gland hybrid-feed"].status == "warns"


def test_an_entry_passes_no_wider_cable(reckoner, demo):
    """The sheet of the unit of the demo has entries of 40 mm at most."""
    assert answers(reckoner, read(demo, 39))["entry hybrid-feed"].status == "passed"
    assert answers(reckoner, read(demo, 41))["entry hybrid-feed"].status == "warns"


def test_single_conductors_are_pulled_through_conduits(reckoner):
    """No gland is asked where the pack's conductors lie in conduits; one that was read is looked at."""
    house = load_job(sample_path("cinder-flat-house"))
    assert "unread" not in answers(reckoner, house)
    assert gland_schedule(reckoner, house).rows == ()
    told = edit(
        house,
        Change("cables/hybrid-backup/outside_mm", 20.0),
        Change("cables/hybrid-backup/gland_least_mm", 9.0),
        Change("cables/hybrid-backup/gland_most_mm", 14.0),
    )
    assert answers(reckoner, told)["gland hybrid-backup"].status == "warns"


def test_a_diameter_that_was_read_fills_a_conduit(reckoner, demo):
    """By hand: a cable of three cores, 11.2 mm, fills 98.5 mm² of its conduit; single conductors each."""
    size, inside = next(iter(demo.pack.containment_sizes.items()))
    lying = Change("containments", [{**WAY, "size": size}])
    fill = answers(reckoner, edit(read(demo, 11.2), lying))["fill"]
    assert fill.figure.value == pytest.approx(100 * math.pi / 4 * 11.2**2 / inside)
    house = load_job(sample_path("cinder-flat-house"))
    single = edit(
        house,
        Change("containments", [{**WAY, "runs": ["hybrid-backup"], "size": "EMT 1"}]),
        Change("cables/hybrid-backup/outside_mm", 8.9),
    )
    four = 4 * math.pi / 4 * 8.9**2  # A, B, N and the grounding conductor
    assert answers(reckoner, single)["fill"].figure.value == pytest.approx(
        100 * four / house.pack.containment_sizes["EMT 1"]
    )


def test_what_lies_outside_stands_sun(reckoner, demo):
    size = next(iter(demo.pack.containment_sizes))
    for stands, status in ((True, "passed"), (False, "warns"), (None, "open")):
        told = answers(
            reckoner, edit(demo, Change("containments", [{**WAY, "size": size, "sun_proof": stands}]))
        )
        assert told["sun"].status == status
    indoors = edit(demo, Change("containments", [{**WAY, "size": size, "inside": True}]))
    assert "sun" not in answers(reckoner, indoors)
