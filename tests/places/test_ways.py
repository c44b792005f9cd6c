"""Ways of cables by their terms, against every order of passages tried by hand."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.places.test_places import PLACES, THROUGH, WALLS, placed

from lodestaff.job import Change, edit, load_job
from lodestaff.job.walls import Passage, Wall
from lodestaff.places import routes
from lodestaff.places.ways import INDOORS_DC, Terms, Ways
from lodestaff.samples import sample_path
from lodestaff.topology import build

AT = st.floats(0, 5).map(lambda x: round(x, 2))
ROOMS = {"a": "garage", "b": "", "c": "hall"}
LOFT = {"id": "loft", "a": "garage", "a_x_m": 0.5, "a_y_m": 2.4, "b": "yard", "b_x_m": 4.0, "b_y_m": 2.4,
        "length_m": 6.0, "way": "loft"}  # fmt: skip


def walls(**shallow):
    return {
        name: Wall(id=name, name=name, width_m=6, height_m=6, room=room,
                   cables="in the wall" if name in shallow else "", cable_depth_mm=shallow.get(name))
        for name, room in ROOMS.items()
    }  # fmt: skip


def cost(start, end, passages, there, terms):
    """The least that any order of passages counts for: metres, those of DC indoors three times."""

    def weight(inside):
        return 3.0 if terms.direct and inside else 1.0

    def indoors(one):
        if one.way in ("loft", "trench"):
            return one.way == "loft"
        return bool(ROOMS[one.a] and ROOMS[one.b])

    best = float("inf")
    for count in range(len(passages) + 1):
        for order in itertools.permutations(passages, count):
            for turned in itertools.product((False, True), repeat=count):
                here, total = start, 0.0
                stretches = []
                for one, back in zip(order, turned):
                    ends = [(one.a, one.a_x_m, one.a_y_m), (one.b, one.b_x_m, one.b_y_m)]
                    into, out = ends[::-1] if back else ends
                    stretches.append((here, into))
                    total += one.length_m * weight(indoors(one))
                    here = out
                    if not (one.dc if terms.direct else one.ac):
                        total = float("inf")
                stretches.append((here, end))
                if any(a[0] != b[0] for a, b in stretches):
                    continue
                for a, b in stretches:
                    metres = abs(a[1] - b[1]) + abs(a[2] - b[2])
                    if terms.guardless and metres > 1e-9 and there[a[0]].cables == "in the wall":
                        metres = float("inf")
                    total += metres * weight(bool(ROOMS[a[0]]))
                best = min(best, total)
    return best


@given(st.data())
def test_what_is_counted_is_the_least_of_all_orders(data):
    kinds = st.sampled_from(["along the wall", "loft", "trench", "conduit"])
    name, yes = st.sampled_from(sorted(ROOMS)), st.booleans()
    passages = [
        Passage(id=f"p{n}", a=data.draw(name), b=data.draw(name), a_x_m=data.draw(AT), a_y_m=data.draw(AT),
                b_x_m=data.draw(AT), b_y_m=data.draw(AT), length_m=data.draw(AT), way=data.draw(kinds),
                dc=data.draw(yes), ac=data.draw(yes))
        for n in range(data.draw(st.integers(0, 4)))
    ]  # fmt: skip
    terms = Terms(direct=data.draw(yes), depth_mm=50.0, guardless=data.draw(yes))
    there = walls(b=20.0) if data.draw(yes) and not terms.direct else walls()
    start = ("a", data.draw(AT), data.draw(AT))
    end = (data.draw(name), data.draw(AT), data.draw(AT))
    least = cost(start, end, passages, there, terms)
    way = Ways(passages, there, terms).between(start, end)
    if least == float("inf"):
        assert way is None
        return
    assert way is not None
    inside = {one.id: one.way == "loft" or (one.way != "trench" and bool(ROOMS[one.a] and ROOMS[one.b]))
              for one in passages}  # fmt: skip
    lengths = {one.id: one.length_m for one in passages}
    through = sum(lengths[one] for one in way.passages)
    counted = sum(
        lengths[one] * (INDOORS_DC if terms.direct and inside[one] else 1.0) for one in way.passages
    )
    on_walls = way.length_m - through
    if not terms.direct:
        assert counted + on_walls == pytest.approx(least, abs=1e-3)
    else:
        assert counted + on_walls <= least + 1e-3 <= counted + INDOORS_DC * on_walls + 2e-3


@pytest.fixture(scope="module")
def planned():
    job = load_job(sample_path("larkmoor"))
    return edit(
        job,
        Change("arrangements", []),
        Change("walls", WALLS),
        Change("standing", PLACES),
        Change("passages", [THROUGH, LOFT]),
    )


def route(job, run="hybrid-feed"):
    return routes(job, build(job)).get(run)


def test_the_way_that_needs_no_device_stands_beside_the_shortest(planned):
    """uk, from memory (BS 7671 522.6.202): 50 mm deep, or guarded. The yard's cables lie 30 mm deep; by the
    loft they come out right above the board's block."""
    job = edit(planned, Change("walls/yard/cables", "in the wall"), Change("walls/yard/cable_depth_mm", 30))
    found = route(job)
    assert found.shallow
    assert found.depth_mm == 30
    assert found.guardless is None  # the block itself is on that wall
    over = edit(job, Change("standing/block/x_m", 3.9), Change("standing/block/y_m", 2.3))
    found = route(over)
    assert found.passages == ("hole",)
    assert found.guardless.passages == ("loft",)
    assert found.guardless.length_m == pytest.approx(0.75 + 0.9 + 6.0)  # (1.25, 1.5) to (0.5, 2.4), the loft
    deep = edit(over, Change("walls/yard/cable_depth_mm", 60))
    assert not route(deep).shallow
    assert route(deep).guardless is None


def test_a_laid_way_goes_by_its_points_in_their_order(planned):
    by = [{"wall": "garage", "x_m": 3.0, "y_m": 2.2}, {"wall": "garage", "x_m": 0.2, "y_m": 2.2}]
    job = edit(planned, Change("courses", [{"id": "hybrid-feed", "by": by[::-1]}]))
    found = route(job)  # the run goes from the block to the hybrid
    assert found.laid
    # (3.1, 1.5) to the hole (6, 2), 0.3 through it, (0, 2) to (0.2, 2.2), (3, 2.2), the hybrid (1.25, 1.5)
    assert found.length_m == pytest.approx(2.9 + 0.5 + 0.3 + 0.4 + 2.8 + 1.75 + 0.7)
    apart = edit(job, Change("passages", []))
    assert route(apart) is None
    loose = edit(job, Change("passages/hole/ac", False), Change("passages/loft/ac", False))
    assert route(loose) is None


def test_the_turns_of_a_run_with_three_stops_are_shared_out(planned):
    by = [{"wall": "garage", "x_m": 1.75, "y_m": 2.3}]
    job = edit(planned, Change("courses", [{"id": "battery-run", "by": by}]))
    found = route(job, "battery-run")
    # battery (2.3, 0.8) to its isolator (1.75, 1.3), up to (1.75, 2.3), to the hybrid (1.25, 1.5); or the
    # turn first: 0.55 + 1.5 up, 1.0 down, then 0.5 + 0.2
    assert found.length_m == pytest.approx(min(0.55 + 0.5 + 1.0 + 0.5 + 0.8, 0.55 + 1.5 + 1.0 + 0.5 + 0.2))
    assert found.stops == ("battery", "battery-isolator", "hybrid")


def test_dc_keeps_out_of_the_conduit_of_ac_where_it_can(planned):
    moved = edit(planned, Change("standing/battery/wall", "yard"), Change("passages/hole/way", "conduit"))
    assert route(moved, "battery-run").passages == ("loft",)
    alone = edit(moved, Change("passages/loft/dc", False))
    assert route(alone, "battery-run").passages == ("hole",)  # else not at all


def test_dc_indoors_lies_in_metal_where_the_pack_asks():
    """na, from memory (NEC 690.31(D)): metal where PV system DC runs in a building."""
    metal = Terms(direct=True, metal=True)
    passage = Passage(id="p", a="a", b="c", a_x_m=0, a_y_m=0, b_x_m=0, b_y_m=0, length_m=1, way="conduit",
                      metal=False)  # fmt: skip
    start, end = ("a", 0.0, 0.0), ("c", 0.0, 0.0)
    assert Ways([passage], walls(), metal).between(start, end) is None
    assert Ways([passage], walls(), Terms(direct=True)).between(start, end) is not None
    steel = passage.model_copy(update={"metal": True})
    assert Ways([steel], walls(), metal).between(start, end) is not None


def test_an_array_comes_in_where_its_cables_do(planned):
    """Metres on the roof are typed: 7.5; then from (0.25, 2.25) by its isolator (0.55, 1.4) to the hybrid."""
    entry = {"id": "hybrid-array-a", "wall": "garage", "x_m": 0.2, "y_m": 2.2}
    there = [*PLACES, placed("hybrid-array-a-isolator", "garage", 0.5, 1.3, 0.1, 0.2, 0.1), entry]
    job = edit(planned, Change("standing", there))
    assert route(job, "hybrid-array-a") is None  # how far its modules are isn't known
    known = edit(job, Change("standing/hybrid-array-a/beyond_m", 7.5))
    found = route(known, "hybrid-array-a")
    assert found.beyond_m == 7.5
    assert found.length_m == pytest.approx(7.5 + 0.3 + 0.85 + 0.7 + 0.1)
