"""STO-PLACE and WIRE-ISO's reach: by the pack's places (from memory: PAS 63100, AS/NZS 5139, IRC R328)."""

import pytest
from tests.places.test_places import PLACES, THROUGH, WALLS, placed

from lodestaff.job import Change, edit, load_job
from lodestaff.places import storing
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.findings import answers
from lodestaff.samples import sample_names, sample_path

READ = {"known": "read on site"}


def fact(value):
    return {"value": value, **READ}


GOOD = {
    "behind": fact("outside"), "build": fact("masonry"), "flood_m": fact(0), "vehicles": fact("no"),
    "sun": fact("no"), "free_m": fact(1.2), "low_c": fact(2), "high_c": fact(34),
}  # fmt: skip


@pytest.fixture
def planned():
    job = load_job(sample_path("larkmoor"))
    walls = [{**wall, **GOOD} for wall in WALLS]
    places = [{**one, "held": fact("to masonry")} for one in PLACES]
    return edit(
        job,
        Change("arrangements", []),
        Change("walls", walls),
        Change("standing", places),
        Change("passages", [THROUGH]),
    )


def told(reckoner, job, rule="STO-PLACE: battery", owner="battery"):
    return {one.quantity: one for one in answers(reckoner, job, rule) if one.owner == owner}


def test_a_garage_of_masonry_passes(reckoner, planned):
    found = told(reckoner, planned)
    assert {key: one.status for key, one in found.items()} == dict.fromkeys(
        ("room", "flood", "vehicles", "backing"), "passed"
    )


@pytest.mark.parametrize("name", sample_names())
def test_without_a_place_it_stays_open_in_every_kind(reckoner, name):
    job = load_job(sample_path(name))
    bare = edit(
        job, Change("standing", []), Change("arrangements", []), Change("walls", []), Change("passages", [])
    )
    found = answers(reckoner, bare, "STO-PLACE: battery")
    assert {one.owner for one in found} <= {bank.id for bank in job.banks} | {bank.unit for bank in job.banks}
    assert found
    assert all(one.open for one in found)
    assert answers(reckoner, bare, "STO-PLACE: room about", "WIRE-ISO: reach") == []


@pytest.mark.parametrize(
    ("pack", "room", "status"),
    [("larkmoor", "bedroom", "blocks"), ("larkmoor", "utility room", "passed"),
     ("larkmoor", "loft", "blocks"),
     ("gannet-point-lodge", "kitchen", "blocks"), ("gannet-point-lodge", "garage", "passed"),
     ("wendle-row-14", "living room", "passed"), ("ocotillo-wash-centre", "living room", "blocks")],
)  # fmt: skip
def test_rooms_go_by_the_pack(reckoner, pack, room, status):
    job = load_job(sample_path(pack))
    one = min(storing(job))
    job = edit(
        job,
        Change("arrangements", []),
        Change("walls", [{**WALLS[0], **GOOD, "room": room}]),
        Change("standing", [{"id": one, "wall": "garage", "x_m": 0.2, "y_m": 0.2}]),
        Change("passages", []),
    )
    found = [each for each in answers(reckoner, job, "STO-PLACE: battery") if each.quantity == "room"]
    assert [each.status for each in found][:1] == [status]


@pytest.mark.parametrize(("x_m", "status"), [(3.65, "passed"), (3.55, "blocks")])
def test_openings_keep_their_distance(reckoner, planned, x_m, status):
    """uk: 1 m from openings (from memory: PAS 63100). The stack's right edge is at 2.6 m."""
    window = {"id": "w1", "kind": "window", "x_m": x_m, "y_m": 1.0, "width_m": 0.3, "height_m": 0.5}
    found = told(reckoner, edit(planned, Change("walls/garage/features", [window])))["opening"]
    assert found.value == pytest.approx(x_m - 2.6)
    assert found.status == status


def test_what_burns_behind_a_wall_of_studs_blocks_until_a_board_is_there(reckoner, planned):
    studs = edit(planned, Change("walls/garage/build", fact("studs")))
    assert told(reckoner, studs)["backing"].status == "open"
    none = edit(studs, Change("standing/battery/backing", fact("none")))
    assert told(reckoner, none)["backing"].status == "blocks"
    board = edit(studs, Change("standing/battery/backing", fact("does not burn")))
    assert told(reckoner, board)["backing"].status == "passed"


def test_water_sun_and_vehicles(reckoner, planned):
    wet = edit(planned, Change("walls/garage/flood_m", fact(0.2)))
    assert told(reckoner, wet)["flood"].status == "blocks"
    raised = edit(wet, Change("standing/battery/y_m", 0.3))
    assert told(reckoner, raised)["flood"].status == "passed"
    driven = edit(planned, Change("walls/garage/vehicles", fact("yes")))
    assert told(reckoner, driven)["vehicles"].status == "warns"
    outside = edit(planned, Change("walls/garage/room", ""), Change("walls/garage/sun", {"value": None}))
    assert told(reckoner, outside)["sun"].status == "open"


def test_what_stands_in_the_way_is_named(reckoner, planned):
    moved = edit(planned, Change("standing/hybrid/x_m", 1.8))
    found = told(reckoner, moved, "STO-PLACE: room about", "battery")["clear"]
    assert found.status == "blocks"
    assert "Hybrid" in found.text
    over = edit(planned, Change("standing/hybrid/x_m", 3.8))
    assert "beyond the wall" in told(reckoner, over, "STO-PLACE: room about", "hybrid")["clear"].text


def test_heavy_things_are_held(reckoner, planned):
    """*Common practice*: 192 kg stand tied back or hang on what carries them."""
    held = told(reckoner, planned, "STO-PLACE: room about")["held"]
    assert (held.status, held.value) == ("passed", 192.0)
    free = edit(planned, Change("standing/battery/held", fact("free")))
    assert told(reckoner, free, "STO-PLACE: room about")["held"].status == "blocks"
    studs = edit(planned, Change("walls/garage/build", fact("studs")))
    assert told(reckoner, studs, "STO-PLACE: room about")["held"].status == "blocks"


def test_hands_reach_the_isolator_and_it_is_in_sight(reckoner, planned):
    found = told(reckoner, planned, "WIRE-ISO: reach", "battery-isolator")
    assert {key: one.status for key, one in found.items()} == {"height": "passed", "sight": "passed"}
    high = edit(planned, Change("standing/battery-isolator/y_m", 2.1))
    assert told(reckoner, high, "WIRE-ISO: reach", "battery-isolator")["height"].status == "warns"
    away = edit(planned, Change("standing/battery-isolator/wall", "yard"))
    assert told(reckoner, away, "WIRE-ISO: reach", "battery-isolator")["sight"].status == "notes"


def test_the_walls_range_is_the_batterys_and_its_place_closes_what_waited(reckoner, planned):
    warm = {one.quantity: one for one in answers(reckoner, planned, "STO-TEMP")}
    assert (warm["cold"].value, warm["heat"].value) == (2, 34)
    typed = edit(planned, Change("banks/battery/place_low_c", fact(-6)))
    assert {one.quantity: one.value for one in answers(reckoner, typed, "STO-TEMP")}["cold"] == -6
    grow = answers(reckoner, planned, "STO-GROW")[0]
    assert "the place on the wall isn't planned yet" not in grow.open_because


def test_room_in_front_is_what_is_free_less_its_depth(reckoner, planned):
    found = told(reckoner, planned, "STO-PLACE: room about")["front"]
    assert (found.status, found.value) == ("passed", pytest.approx(1.2 - 0.3))
    narrow = edit(planned, Change("walls/garage/free_m", fact(0.7)))
    assert told(reckoner, narrow, "STO-PLACE: room about")["front"].status == "blocks"
    unread = edit(planned, Change("walls/garage/free_m", {"value": None}))
    assert told(reckoner, unread, "STO-PLACE: room about")["front"].status == "open"


def test_one_stud_alone_is_told(reckoner, planned):
    walls = [Change("walls/garage/build", fact("studs")), Change("walls/garage/stud_pitch_m", 0.6)]
    studs = edit(planned, *walls, Change("standing/battery/held", fact("to studs")))
    assert told(reckoner, studs, "STO-PLACE: room about")["held"].status == "passed"  # 0.6 m wide
    wide = edit(studs, Change("walls/garage/stud_pitch_m", 0.9))
    assert told(reckoner, wide, "STO-PLACE: room about")["held"].status == "warns"


def test_a_generators_disconnect_is_in_sight_of_the_generator(reckoner):
    found = told(reckoner, load_job(sample_path("ocotillo")), "WIRE-ISO: reach", "generator-isolator")
    assert found["sight"].status == "passed"
    assert "Generator" in found["sight"].text


def test_a_stack_grows_only_as_far_as_its_place(reckoner, planned):
    one = {**PLACES[1], "width_m": None, "height_m": None, "depth_m": None}
    low = edit(planned, Change("standing", [one]), Change("walls/garage/height_m", 2.0))
    grow = answers(reckoner, low, "STO-GROW")[0]  # 2.0 - 4 x 0.38 - 0.2 m: less than another module
    assert "no room" in grow.text
    assert grow.status == "notes"
    high = edit(low, Change("walls/garage/height_m", 2.5))
    assert answers(reckoner, high, "STO-GROW")[0].status == "passed"


# --- what stands behind, by its size ---------------------------------------------------------------------
@pytest.mark.parametrize(
    ("side_m", "above_m", "status"),
    [(0.6, 0.9, {"passed"}), (0.5, 0.9, {"blocks", "passed"}), (0.6, 0.8, {"blocks", "passed"}),
     (None, None, {"blocks"})],
)  # fmt: skip
def test_anz_wants_a_barrier_that_reaches_beyond(reckoner, side_m, above_m, status):
    """From memory, AS/NZS 5139:2019: before a habitable room 0.6 m beyond the sides, 0.9 m above."""
    job = load_job(sample_path("gannet-point-lodge"))
    one = min(storing(job))
    wall = {**WALLS[0], **GOOD, "build": fact("studs"), "behind": fact("bedroom")}
    at = {"id": one, "wall": "garage", "x_m": 1.2, "y_m": 0.2, "backing": fact("does not burn"),
          "reach_side_m": side_m, "reach_above_m": above_m}  # fmt: skip
    there = edit(
        job,
        Change("arrangements", []),
        Change("walls", [wall]),
        Change("standing", [at]),
        Change("passages", []),
    )
    found = [each for each in answers(reckoner, there, "STO-PLACE: battery") if "beyond" in each.quantity]
    assert len(found) == 2
    assert {each.status if not each.open else "blocks" for each in found} == status
    assert all(each.open for each in found) == (side_m is None)
    solid = edit(there, Change("walls/garage/build", fact("masonry")))
    assert not [e for e in answers(reckoner, solid, "STO-PLACE: battery") if "beyond" in e.quantity]
    other = edit(there, Change("walls/garage/behind", fact("outside")))
    assert not [e for e in answers(reckoner, other, "STO-PLACE: battery") if "beyond" in e.quantity]


# --- rain, people who sleep, walls that are no rectangles -----------------------------------------------
@pytest.mark.parametrize(
    ("may", "rain", "status"),
    [("in the open", "yes", "passed"), ("in the open", None, "passed"), ("under a roof", "no", "passed"),
     ("under a roof", "yes", "warns"), ("under a roof", None, "open"), ("indoors", "no", "blocks"),
     (None, "no", "open")],
)  # fmt: skip
def test_rain_goes_by_the_sheet(reckoner, planned, may, rain, status):
    wall = {**WALLS[1], **GOOD, "rain": fact(rain)}
    job = edit(planned, Change("walls", [{**WALLS[0], **GOOD}, wall]), Change("standing/hybrid/wall", "yard"),
               Change("sheets/hybrids/hybrid-6/weather", may))  # fmt: skip
    assert told(reckoner, job, "STO-PLACE: room about", "hybrid")["weather"].status == status


def test_indoors_nobody_asks_for_rain(reckoner, planned):
    assert "weather" not in told(reckoner, planned, "STO-PLACE: room about", "hybrid")


@pytest.mark.parametrize(("quiet", "status"), [("yes", "warns"), ("no", "passed"), (None, "open")])
def test_a_generator_is_heard(reckoner, quiet, status):
    job = load_job(sample_path("skerry-light-cottage"))
    job = edit(job, Change("walls/lee/quiet", fact(quiet)))
    assert told(reckoner, job, "STO-PLACE: room about", "generator")["noise"].status == status
    assert "noise" not in told(reckoner, job, "STO-PLACE: room about", "hybrid")


def test_a_gable_holds_what_lies_under_its_slope(reckoner, planned):
    """7 m wide, 3 m at its eaves, 6 m at its ridge: at 0.5 m along it is 3 + 0.5 x 3 / 3.5 = 3.43 m high."""
    gable = {
        **WALLS[1],
        **GOOD,
        "width_m": 7,
        "height_m": 6,
        "outline": [[0, 0], [7, 0], [7, 3], [3.5, 6], [0, 3]],
    }
    at = placed("hybrid", "yard", 0.5, 2.8, 0.5, 0.6, 0.2)
    for y_m, fits in ((2.8, True), (2.9, False)):
        job = edit(planned, Change("walls", [{**WALLS[0], **GOOD}, gable]),
                   Change("standing", [{**at, "y_m": y_m}]), Change("passages", []))  # fmt: skip
        clear = told(reckoner, job, "STO-PLACE: room about", "hybrid")["clear"]
        assert ("it fits" in clear.text) == fits
    for outline, said in (
        ([[0, 0], [9, 0], [0, 3]], "lies beyond"),
        ([[0, 0], [7, 0], [0, 3], [7, 3]], "three corners"),
    ):
        with pytest.raises(JobError, match=said):
            edit(job, Change("walls/yard/outline", outline))
