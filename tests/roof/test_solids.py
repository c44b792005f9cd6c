"""Faces in space, and what throws shade on them, through a job."""

import math

import numpy as np
import pytest

from lodestaff.energy.shade import beam_share_along
from lodestaff.job import Change, edit
from lodestaff.job.array import Face, Origin
from lodestaff.quantities.errors import JobError
from lodestaff.roof.frame import frame_of
from lodestaff.roof.solids import around, standings, unknown_heights


def towards(azimuth_deg, elevation_deg):
    azimuth, elevation = math.radians(azimuth_deg), math.radians(elevation_deg)
    flat = math.cos(elevation)
    return np.array([[flat * math.sin(azimuth), flat * math.cos(azimuth), math.sin(elevation)]])


def lit(job, face, module, azimuth, elevation, month=5):
    stands = standings(job, face)[module]
    return float(beam_share_along(stands, towards(azimuth, elevation), np.array([month])).mean())


@pytest.mark.parametrize(("azimuth", "right"), [(180, (1, 0)), (0, (-1, 0)), (90, (0, 1)), (270, (0, -1))])
def test_seen_square_on_a_face_has_its_right_hand_where_it_is(azimuth, right):
    """Who looks at a south face looks north and has east at the right."""
    face = Face(id="f", name="F", tilt_deg=30, azimuth_deg=azimuth, width_m=5, height_m=3, module="m")
    frame = frame_of(face)
    assert frame.along[:2] == pytest.approx(right, abs=1e-12)
    assert frame.up[2] == pytest.approx(0.5)
    assert np.cross(frame.along, frame.up) == pytest.approx(frame.out)
    looks = (math.sin(math.radians(azimuth)) / 2, math.cos(math.radians(azimuth)) / 2, math.sqrt(0.75))
    assert frame.out == pytest.approx(looks)


@pytest.fixture
def south(larkmoor):
    """The demo, one face turned south, with a chimney 1.2 m high at the east of its modules."""
    return edit(
        larkmoor,
        Change("faces/south-west/azimuth_deg", 180.0),
        Change("faces/south-west/obstacles/obstacle-1/height_m", 1.2),
    )


def test_a_chimney_in_the_east_shades_in_the_morning(south):
    face = next(face for face in south.faces if face.id == "south-west")
    assert lit(south, face, "m8", 95, 15) < 1
    assert lit(south, face, "m8", 265, 15) == 1
    assert lit(south, face, "m1", 95, 60) == 1


def test_without_a_height_nothing_is_shaded_and_it_is_said(larkmoor):
    flat = edit(larkmoor, Change("faces/south-west/obstacles/obstacle-1/height_m", None))
    face = next(face for face in flat.faces if face.id == "south-west")
    assert around(flat, face) == ()
    assert unknown_heights(flat, face) == (f"how high chimney rises above {face.name}",)
    level = edit(larkmoor, Change("faces/south-west/obstacles/obstacle-1/height_m", 0.0))
    assert around(level, level.faces[1]) == ()
    assert unknown_heights(level, level.faces[1]) == ()


TREE = {"id": "oak", "name": "Oak", "shape": "round", "east_m": 12.0, "north_m": -8.0, "width_m": 6.0,
        "height_m": 14.0, "light_bare": 0.6}  # fmt: skip


def test_a_tree_shades_only_a_face_that_has_a_place(south):
    with_tree = edit(south, Change("surroundings", [TREE]))
    face = next(face for face in with_tree.faces if face.id == "south-west")
    assert unknown_heights(with_tree, face) == (f"where {face.name} stands among Oak",)
    placed = edit(with_tree, Change("faces/south-west/origin", {"east_m": 0, "north_m": 0, "eaves_m": 3}))
    face = next(face for face in placed.faces if face.id == "south-west")
    assert unknown_heights(placed, face) == ()
    way = math.degrees(math.atan2(12 - 5, -8)) % 360
    assert lit(placed, face, "m4", way, 20, month=6) == 0
    assert lit(placed, face, "m4", way, 20, month=0) == pytest.approx(0.6)
    assert lit(placed, face, "m4", 240, 20, month=6) == 1


def test_a_higher_wing_shades_and_a_ridge_does_not_shade_its_own_other_side(larkmoor):
    """A gable, north and south; then a higher wing that looks west stands east of the south face."""
    tilt = math.radians(34)
    depth, rise = 4.6 * math.cos(tilt), 4.6 * math.sin(tilt)
    gable = edit(
        larkmoor,
        Change("faces/south-west/azimuth_deg", 180.0),
        Change("faces/south-west/obstacles/obstacle-1/height_m", 0.0),
        Change("faces/south-west/origin", {"east_m": 0, "north_m": 0, "eaves_m": 2.4}),
        Change("faces/south-east/azimuth_deg", 0.0),
        Change("faces/south-east/origin", {"east_m": 7.6, "north_m": 2 * depth, "eaves_m": 2.4}),
    )
    assert around(gable, gable.faces[1]) == ()
    assert around(gable, gable.faces[0]) == ()
    wing = edit(
        gable,
        Change("faces/south-east/azimuth_deg", 270.0),
        Change("faces/south-east/origin", {"east_m": 9.0, "north_m": 5.0, "eaves_m": 5.0}),
    )
    face = wing.faces[1]
    assert len(around(wing, face)) == 1
    assert lit(wing, face, "m4", 90, 5) < 1
    assert lit(wing, face, "m4", 200, 30) == 1
    assert rise > 2


@pytest.mark.parametrize(
    ("outline", "words"),
    [
        ([[0, 0], [1, 0]], "encloses nothing"),
        ([[0, 0], [9, 0], [9, 3]], "lies beyond its"),
        ([[0, 0], [7, 4], [7, 0], [0, 4]], "encloses nothing|crosses itself"),
        ([[0, 0], [7.6, 0], [0, 4.6]], "reaches beyond the outline"),
    ],
)
def test_an_outline_that_cannot_be_is_refused(larkmoor, outline, words):
    with pytest.raises(JobError, match=words):
        edit(larkmoor, Change("faces/south-west/outline", outline))


def test_modules_lie_inside_an_outline(larkmoor):
    """A hip: the lower corners as they are, the ridge shorter."""
    hip = edit(larkmoor, Change("faces/south-west/outline", [[0, 0], [7.6, 0], [6.9, 4.6], [0.5, 4.6]]))
    assert hip.faces[1].corners[2] == (6.9, 4.6)
    backwards = edit(larkmoor, Change("faces/south-west/outline", [[0.5, 4.6], [6.9, 4.6], [7.6, 0], [0, 0]]))
    assert backwards.faces[1].corners == ((0, 0), (7.6, 0), (6.9, 4.6), (0.5, 4.6))


def test_a_turned_module_takes_its_room_the_other_way(larkmoor):
    with pytest.raises(JobError, match="lies on"):
        edit(larkmoor, Change("faces/south-west/modules/m1/turned", True))


def test_an_origin_is_typed_in_metres():
    with pytest.raises(ValueError, match="less than or equal to 500"):
        Origin(east_m=900, north_m=0, eaves_m=3)
