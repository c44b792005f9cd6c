"""Ways to stand it all, side by side: metres against hand sums, what differs and what doesn't."""

import pytest
from tests.places.test_places import PLACES, THROUGH, WALLS

from lodestaff.job import Change, edit, load_job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.standings import AS_IT_IS, as_chosen, cabled, compared, keep, stood
from lodestaff.samples import sample_path
from lodestaff.shelf.prices import PriceBook, SupplierList


@pytest.fixture(scope="module")
def planned():
    job = load_job(sample_path("larkmoor"))
    job = edit(job, Change("arrangements", []), Change("walls", WALLS), Change("standing", PLACES),
               Change("passages", [THROUGH]))  # fmt: skip
    assumed = {"value": "yes", "known": "assumed"}
    return edit(job, *(Change(f"cables/{cable.id}/known", assumed) for cable in job.cables))


@pytest.fixture(scope="module")
def two(planned):
    """In the garage as it is; and with the battery out in the yard."""
    inside = edit(planned, keep(planned, "Battery in the garage"))
    outside = edit(inside, Change("standing/battery/wall", "yard"), Change("standing/battery/x_m", 0.5))
    return edit(outside, keep(outside, "Battery in the yard"))


@pytest.fixture(scope="module")
def found(two, reckoner):
    book = PriceBook(lists=(SupplierList(supplier="Trade counter", prices={}),))
    return {one.name: one for one in compared(reckoner, two, book).ways}


def test_metres_are_those_of_the_ways(found):
    """In the garage: the battery's run 1.75 m, taken as 1.8. From the yard (0.8, 0.8) to the hole (6, 2), 0.3
    through it, (0, 2) to the isolator (1.75, 1.3), 0.7 to the hybrid: 9.85, taken as 9.9."""
    runs = {name: {way.run: way.length_m for way in one.ways} for name, one in found.items()}
    assert runs["Battery in the garage"]["battery-run"] == pytest.approx(1.8)
    assert runs["Battery in the yard"]["battery-run"] == pytest.approx(9.9)
    longer = found["Battery in the yard"].cable_m - found["Battery in the garage"].cable_m
    assert longer == pytest.approx(9.9 - 1.8)


def test_what_differs_is_told(found):
    near, far = found["Battery in the garage"], found["Battery in the yard"]
    assert far.hours > near.hours  # more cable to pull in
    assert far.dark_h == near.dark_h  # the same boards are changed
    asked = {one.quantity for one in far.findings if one.code == "STO-PLACE"}
    assert "sun" in asked
    assert "sun" not in {one.quantity for one in near.findings if one.code == "STO-PLACE"}


def test_one_that_stands_now_is_not_told_twice(reckoner, two, planned):
    book = PriceBook()
    assert compared(reckoner, two, book).now == "places-2"
    moved = edit(two, Change("standing/battery/x_m", 0.9))
    third = compared(reckoner, moved, book)
    assert third.now == AS_IT_IS
    assert third.ways[0].name == "As it stands now"
    assert len(third.ways) == 3


def test_cables_that_were_typed_stay_in_each(reckoner, two):
    typed = edit(two, Change("cables/battery-run/known", {"value": "yes", "known": "measured"}))
    before = next(cable for cable in typed.cables if cable.id == "battery-run")
    assert next(cable for cable in cabled(reckoner, typed).cables if cable.id == "battery-run") == before


def test_the_choice_is_on_record_with_what_was_offered(reckoner, two):
    all_ways = compared(reckoner, two, PriceBook())
    made = as_chosen(
        two, all_ways, "places-1", why="no post on the drive", by="A. Customer", date="2026-11-29"
    )
    assert made.chosen == "Battery in the garage"
    assert "Battery in the yard" in made.offered
    rows = [*(one.model_dump(mode="json") for one in two.choices), made.model_dump(mode="json")]
    first = two.arrangements[0]
    job = edit(two, *stood(first), Change("choices", rows))
    assert job.standing == first.standing
    assert as_chosen(job, all_ways, "places-2", why="", by="", date="").id != made.id


def test_kept_again_under_its_name_it_is_replaced(two):
    again = edit(two, keep(two, "Battery in the garage"))
    assert len(again.arrangements) == 2
    assert again.arrangements[0].standing == two.standing


def test_an_arrangement_on_a_wall_that_is_gone_is_refused(two):
    rows = [wall.model_dump(mode="json") for wall in two.walls if wall.id != "yard"]
    here = [one.model_dump(mode="json") for one in two.standing if one.wall != "yard"]
    with pytest.raises(JobError, match=r"arrangements places-1 standing .* 'yard' is not there"):
        edit(two, Change("walls", rows), Change("standing", here), Change("passages", []))
