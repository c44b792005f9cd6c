"""Bodies on walls, distances and the ways of cables, against sums by hand."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lodestaff.job import Change, edit, load_job
from lodestaff.places import Rect, apart_m, bodies, routes
from lodestaff.places.room import modules_that_fit
from lodestaff.quantities.errors import JobError
from lodestaff.samples import sample_names, sample_path
from lodestaff.topology import build

WALLS = [
    {"id": "garage", "name": "Garage wall", "width_m": 4.0, "height_m": 2.4, "room": "garage"},
    {"id": "yard", "name": "Yard wall", "width_m": 6.0, "height_m": 3.0},
]


def placed(id, wall, x_m, y_m, *size):
    sides = ("width_m", "height_m", "depth_m")
    return {"id": id, "wall": wall, "x_m": x_m, "y_m": y_m, **dict(zip(sides, size))}


PLACES = [
    placed("hybrid", "garage", 1.0, 1.2, 0.5, 0.6, 0.2),
    placed("battery", "garage", 2.0, 0.0, 0.6, 1.6, 0.3),
    placed("battery-isolator", "garage", 1.7, 1.2, 0.1, 0.2, 0.1),
    placed("board", "yard", 4.0, 1.4, 0.4, 0.2, 0.1),
    placed("block", "yard", 3.0, 1.4, 0.2, 0.2, 0.1),
]
THROUGH = {"id": "hole", "a": "garage", "a_x_m": 0.0, "a_y_m": 2.0, "b": "yard", "b_x_m": 6.0, "b_y_m": 2.0,
           "length_m": 0.3, "way": "through the wall"}  # fmt: skip


@pytest.fixture(scope="module")
def planned():
    job = load_job(sample_path("larkmoor"))
    return edit(
        job,
        Change("arrangements", []),
        Change("walls", WALLS),
        Change("standing", PLACES),
        Change("passages", [THROUGH]),
    )


rects = st.builds(Rect, *[st.floats(0, 5)] * 2, *[st.floats(0.05, 2)] * 2)


@given(rects, rects)
def test_distance_is_that_of_the_nearest_points(a, b):
    steps = [place / 40 for place in range(41)]

    def edge(rect):
        xs = [rect.x + share * rect.width for share in steps]
        ys = [rect.y + share * rect.height for share in steps]
        return xs, ys

    (ax, ay), (bx, by) = edge(a), edge(b)
    level, upright = _overlap(a.x, a.right, b.x, b.right), _overlap(a.y, a.top, b.y, b.top)
    across = 0 if level else min(abs(p - q) for p, q in itertools.product(ax, bx))
    up = 0 if upright else min(abs(p - q) for p, q in itertools.product(ay, by))
    assert apart_m(a, b) == pytest.approx((across**2 + up**2) ** 0.5, abs=1e-9)
    assert apart_m(a, b) == apart_m(b, a)


def _overlap(a, b, c, d):
    return a <= d and c <= b


def test_a_way_on_one_wall_is_level_and_upright(planned):
    found = routes(planned, build(planned))
    # battery's middle (2.3, 0.8), its isolator's (1.75, 1.3), the hybrid's (1.25, 1.5)
    assert found["battery-run"].length_m == pytest.approx(0.55 + 0.5 + 0.5 + 0.2)
    assert found["battery-run"].stops == ("battery", "battery-isolator", "hybrid")


def test_from_wall_to_wall_it_goes_by_the_passage(planned):
    feed = routes(planned, build(planned))["hybrid-feed"]
    # block's middle (3.1, 1.5) to the hole (6, 2), through it, (0, 2) to the hybrid (1.25, 1.5)
    assert feed.length_m == pytest.approx(2.9 + 0.5 + 0.3 + 1.25 + 0.5)
    assert feed.passages == ("hole",)
    assert feed.stops == ("block", "hybrid")  # its breaker sits in the block


def test_a_run_whose_end_has_no_place_has_no_length(planned):
    """An array's run begins on its roof: the metres on the wall alone would be too few for its drop."""
    there = [*PLACES, placed("hybrid-array-a-isolator", "garage", 0.5, 1.3, 0.1, 0.2, 0.1)]
    job = edit(planned, Change("standing", there))
    assert "hybrid-array-a" not in routes(job, build(job))


def test_what_is_not_joined_has_no_length_and_dc_goes_only_where_it_may(planned):
    apart = edit(planned, Change("passages", []))
    assert "hybrid-feed" not in routes(apart, build(apart))
    moved = edit(planned, Change("standing/battery/wall", "yard"), Change("passages/hole/dc", False))
    assert "battery-run" not in routes(moved, build(moved))
    may = edit(moved, Change("passages/hole/dc", True))
    assert "battery-run" in routes(may, build(may))


@pytest.mark.parametrize("name", sample_names())
def test_every_kind_has_its_bodies_once_and_nothing_that_is_not_there(name):
    job = load_job(sample_path(name))
    found = bodies(job, build(job))
    ids = [body.id for body in found]
    assert len(ids) == len(set(ids))
    behind = {unit.id for unit in job.units if job.sheet_of(unit).module_level}
    assert not behind & set(ids)  # on the roof, behind its module
    stacks = {bank.id for bank in job.banks}
    inside = {bank.id for bank in job.banks if bank.id not in ids}
    assert all(job.bank(one).unit in ids if hasattr(job, "bank") else True for one in inside)
    assert all(body.width_m > 0 and body.height_m > 0 for body in found)
    assert stacks  # every kind stores something


def test_a_stack_is_as_high_as_its_modules_and_grows(planned):
    job = edit(planned, Change("standing", [placed("battery", "garage", 2.0, 0.0)]))
    battery = next(body for body in bodies(job, build(job)) if body.id == "battery")
    assert (battery.width_m, battery.height_m) == (0.6, pytest.approx(4 * 0.38))
    assert battery.grows_m == pytest.approx(0.38)  # a fifth; the sixth would go above two metres
    assert battery.sized == "data sheet"


def test_a_place_on_no_wall_is_refused_with_what_is_there(planned):
    with pytest.raises(JobError, match="'shed' is not there; choose from 'garage', 'yard'"):
        edit(planned, Change("standing/hybrid/wall", "shed"))


@pytest.mark.parametrize(("y_m", "height_m", "modules"), [(0.0, 2.4, 5), (0.0, 3.0, 7), (0.3, 2.4, 4)])
def test_a_place_takes_so_many_modules(planned, y_m, height_m, modules):
    """Modules of 0.38 m, 0.2 m free above them: by hand (2.4 - 0.2) / 0.38 = 5.8, (3.0 - 0.2) / 0.38 = 7.4,
    (2.4 - 0.3 - 0.2) / 0.38 = 5.0, less what rounding the four that stand there leaves."""
    job = edit(planned, Change("walls/garage/height_m", height_m),
               Change("standing", [placed("battery", "garage", 2.0, y_m)]))  # fmt: skip
    found = modules_that_fit(job, build(job), "battery")
    free = height_m - y_m - 0.2
    assert found == int(free / 0.38 + 1e-9)
    assert found >= modules


def test_without_a_place_nothing_says_how_many(planned):
    job = edit(planned, Change("standing", []))
    assert modules_that_fit(job, build(job), "battery") is None
