"""Boards, tie-backs and posts as things that are bought, fitted and priced; templates of what is drilled."""

import pytest
from tests.places.test_places import PLACES, WALLS

from lodestaff.job import Change, edit, load_job
from lodestaff.places import bodies
from lodestaff.places.supports import supports
from lodestaff.places.templates import template
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.costing import design_cost
from lodestaff.reckoning.visiting import tasks_of
from lodestaff.samples import sample_path
from lodestaff.shelf.prices import PriceBook, SupplierList
from lodestaff.topology import build

FIXINGS = [{"x_mm": 60, "y_mm": 540, "diameter_mm": 8}, {"x_mm": 440, "y_mm": 540, "diameter_mm": 8}]
ENTRIES = [{"x_mm": 250, "y_mm": 40, "diameter_mm": 32}]


def read(value):
    return {"value": value, "known": "read on site"}


@pytest.fixture(scope="module")
def planned():
    job = load_job(sample_path("larkmoor"))
    return edit(
        job,
        Change("arrangements", []),
        Change("walls", WALLS),
        Change("standing", PLACES),
        Change("passages", []),
    )


@pytest.fixture(scope="module")
def held(planned):
    return edit(
        planned,
        Change("standing/battery/backing", read("does not burn")),
        Change("standing/battery/reach_side_m", 0.3),
        Change("standing/battery/reach_above_m", 0.5),
        Change("standing/battery/held", read("on the floor, tied back")),
        Change("standing/battery/guard", True),
        Change("standing/hybrid/held", read("on a board")),
    )


def of(job):
    return bodies(job, build(job))


def test_nothing_is_asked_for_where_nothing_was_decided(planned):
    assert supports(planned, of(planned)) == ()


def test_each_decision_is_a_thing_with_its_size(held):
    """The stack is 0.6 x 1.6 m and may get a module of 0.38 m: 0.6 + 2 x 0.3 by 1.6 + 0.38 + 0.5."""
    found = {(one.part, one.item): one for one in supports(held, of(held))}
    assert set(found) == {
        ("battery", "support-fireboard"), ("battery", "support-tie-back"), ("battery", "support-post"),
        ("hybrid", "support-board"),
    }  # fmt: skip
    board = found["battery", "support-fireboard"]
    assert (board.count, board.unit) == (pytest.approx(1.2 * 2.48), "m²")
    assert "1.20 × 2.48 m" in board.words
    assert found["hybrid", "support-board"].count == pytest.approx(0.5 * 0.6)


def test_one_board_carries_and_does_not_burn(held):
    alone = edit(held, Change("standing/battery/backing", read(None)))
    both = edit(alone, Change("standing/hybrid/backing", read("does not burn")))
    mine = [one for one in supports(both, of(both)) if one.part == "hybrid"]
    assert [one.item for one in mine] == ["support-fireboard"]
    assert mine[0].words.endswith("fixed to carry it")


def test_neighbours_share_a_board(held):
    """The hybrid ends at 1.5 m, the isolator begins at 1.7 m, 1.2 m high like it: 0.8 x 0.6 m."""
    both = edit(held, Change("standing/battery-isolator/held", read("on a board")))
    mine = [one for one in supports(both, of(both)) if one.item == "support-board"]
    assert [one.words for one in mine] == ["Board across the studs for Hybrid and 1 more, 0.80 × 0.60 m"]
    apart = edit(both, Change("standing/battery-isolator/x_m", 1.85))  # 0.35 m from it
    assert len([one for one in supports(apart, of(apart)) if one.item == "support-board"]) == 2


def test_what_stood_there_before_brings_none(held):
    there = edit(held, Change("units/hybrid/existing", True))
    assert supports(there, of(there)) == ()


def test_they_are_priced_fitted_first_and_taken_along(held, reckoner):
    book = PriceBook(lists=(SupplierList(supplier="Trade counter", prices={"support-fireboard": 40.0}),))
    lines = {line.item: line for line in design_cost(reckoner, held, book).lines}
    assert lines["support-fireboard"].total == pytest.approx(40 * 1.2 * 2.48)
    assert lines["support-tie-back"].total is None  # without a price it is open, never nothing
    tasks = {task.id: task for task in tasks_of(reckoner, held)}
    fitted = tasks["supports"]
    assert fitted.hours == pytest.approx(0.25 + 4 * 0.5)  # the library's hours, common practice
    assert len(fitted.items) == 4
    assert "supports" in tasks["battery-battery"].after
    empty = {"held": read(None), "backing": read(None), "guard": False}
    off = [Change(f"standing/{one}/{field}", value) for one in ("battery", "hybrid")
           for field, value in empty.items()]  # fmt: skip
    bare = edit(held, *off)
    assert "supports" not in {task.id for task in tasks_of(reckoner, bare)}


# --- templates -----------------------------------------------------------------------------------------
def test_a_template_says_where_it_goes_and_what_its_sheet_lacks(planned):
    drilled = edit(
        planned, Change("standing/hybrid/fixings", FIXINGS), Change("standing/hybrid/entries", ENTRIES)
    )
    found = template(of(drilled), ["hybrid"])
    assert (found.width_mm, found.height_mm) == (500, 600)
    assert found.pieces[0].holes == (
        ("fixing", 60, 540, 8), ("fixing", 440, 540, 8), ("entry", 250, 40, 32)
    )  # fmt: skip
    assert found.place == "Garage wall: lower left corner 1.00 m along, 1.20 m up"
    assert found.gaps == ()
    bare = template(of(planned), ["battery-isolator"])
    assert len(bare.gaps) == 2


def test_parts_that_meet_are_drilled_together(planned):
    found = template(of(planned), ["hybrid", "battery-isolator"])
    second = found.pieces[1]
    assert (second.x_mm, second.y_mm) == (pytest.approx(700), pytest.approx(0))
    assert found.width_mm == pytest.approx(800)
    with pytest.raises(JobError, match="one wall"):
        template(of(planned), ["hybrid", "board"])


@pytest.mark.parametrize(
    ("names", "said"), [(["hybird"], "no part 'hybird'"), ([], "no part ''")], ids=["misspelt", "none"]
)
def test_what_cannot_be_drilled_for_is_said(planned, names, said):
    with pytest.raises(JobError, match=said):
        template(of(planned), names)


def test_a_hole_beside_its_part_is_refused(planned):
    wide = [{"x_mm": 640, "y_mm": 40, "diameter_mm": 8}]
    drilled = edit(planned, Change("standing/hybrid/fixings", wide))
    with pytest.raises(JobError, match=r"640, 40 mm lies beside it.*within 500 × 600 mm"):
        template(of(drilled), ["hybrid"])
