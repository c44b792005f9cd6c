"""Lengths flow from the walls into cables: assumed ones follow, typed ones stay."""

import pytest
from tests.places.test_places import planned  # noqa: F401

from lodestaff.job import Change, edit
from lodestaff.reckoning.cabling import proposed
from lodestaff.reckoning.lengths import lengths, taken


def fact(known):
    return {"value": "yes", "known": known}


def test_an_assumed_length_follows_and_a_typed_one_stays(reckoner, planned):  # noqa: F811
    job = edit(planned, Change("cables/hybrid-feed/known", fact("assumed")),
               Change("cables/battery-run/known", fact("read on site")))  # fmt: skip
    found = {one.run: one for one in lengths(reckoner, job)}
    assert found["battery-run"].typed
    assert not found["battery-run"].changes
    assert found["hybrid-feed"].length_m == pytest.approx(5.5)  # 2.9 + 0.5 + 0.3 + 1.25 + 0.5, rounded up
    after = edit(job, *taken(job, tuple(found.values())))
    now = {cable.id: cable.length_m for cable in after.cables}
    was = {cable.id: cable.length_m for cable in job.cables}
    assert now["hybrid-feed"] == pytest.approx(5.5)
    assert now["battery-run"] == was["battery-run"]
    again = {one.run: one for one in lengths(reckoner, after)}
    assert not any(one.changes for one in again.values())


def test_what_is_proposed_has_the_length_of_its_way(reckoner, planned):  # noqa: F811
    bare = edit(planned, Change("cables", []))
    found = {one.run.id: one.cable for one in proposed(reckoner, bare) if one.cable is not None}
    assert found["hybrid-feed"].length_m == pytest.approx(5.5)
    assert "places" in found["hybrid-feed"].known.note
    assert "usual" in found["tails"].known.note  # its ends have no places
