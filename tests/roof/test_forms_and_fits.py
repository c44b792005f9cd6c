"""Forms of roofs against their own geometry; what fits against counting by hand and against the job's own
rules."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lodestaff.job import Change, edit, load_job
from lodestaff.job.array import Face, Obstacle
from lodestaff.job.array_fits import check_places
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.filling import fillings
from lodestaff.roof.fits import Clear, clear_of, filled, fills
from lodestaff.roof.forms import Building, faces_of, wind_of
from lodestaff.roof.frame import frame_of
from lodestaff.roof.solids import around
from lodestaff.samples import sample_path

LARKMOOR = load_job(sample_path("larkmoor"))
MODULE = LARKMOOR.sheets.modules[LARKMOOR.faces[0].module]


def in_space(face):
    frame = frame_of(face)
    return [frame.at(x, y) for x, y in face.corners]


def area(face):
    corners = face.corners
    pairs = zip(corners, (*corners[1:], corners[0]), strict=True)
    return abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in pairs)) / 2


@pytest.mark.parametrize("azimuth", [0, 30, 180, 270])
@pytest.mark.parametrize("form", ["gable", "hip"])
def test_faces_of_a_roof_meet_at_ridge_and_hips(form, azimuth):
    faces = faces_of(form, Building(11, 7, 38, azimuth, 3.2), "m")
    highest = 3.2 + 3.5 * math.tan(math.radians(38))
    tops = [[p for p in in_space(face) if p[2] > 3.3] for face in faces]
    assert all(p[2] == pytest.approx(highest, abs=0.01) for top in tops for p in top)
    ends = tops[0]
    assert len(ends) == 2, "one ridge"
    for p in itertools.chain(*tops):
        assert min(float(np.linalg.norm(p - end)) for end in ends) < 0.01
    flat = sum(area(face) for face in faces) * math.cos(math.radians(38))
    assert flat == pytest.approx(77, rel=1e-3), "from above they cover the building"
    assert not any(around(LARKMOOR.model_copy(update={"faces": faces}), face) for face in faces)


def test_the_other_forms_are_one_face_and_open_frames_where_they_stand_free():
    lean, flat, ground = (faces_of(form, Building(6, 4, 15), "m") for form in ("lean-to", "flat", "ground"))
    assert [len(made) for made in (lean, flat, ground)] == [1, 1, 1]
    assert lean[0].height_m == pytest.approx(4 / math.cos(math.radians(15)), abs=1e-3)
    assert (flat[0].tilt_deg, flat[0].height_m) == (0, 4)
    assert [made[0].mounting for made in (lean, flat, ground)] == ["close roof", "open rack", "open rack"]
    assert faces_of("gable", Building(), "m", frozenset({"face-1"}))[0].id == "face-2"
    assert [wind_of(a) for a in (0, 44, 180, 359)] == ["North", "North-east", "South", "North"]


def rectangle(width, height, obstacles=()):
    return Face(
        id="f",
        name="F",
        tilt_deg=30,
        azimuth_deg=180,
        width_m=width,
        height_m=height,
        module="m",
        obstacles=obstacles,
    )


@given(st.floats(2, 14), st.floats(2, 8), st.floats(0, 0.5))
def test_on_a_bare_rectangle_it_is_what_one_counts_by_hand(width, height, edge):
    """Rows times columns: floor((room + gap) / (size + gap)) each way. Source: derived."""
    clear = Clear(edge, edge)

    def many(room, size):
        return max(0, math.floor((room - 2 * edge + clear.gap_m + 1e-6) / (size + clear.gap_m)))

    face = rectangle(round(width, 2), round(height, 2))
    for way, (w, h) in (("upright", MODULE.lying(True)), ("across", MODULE.lying(False))):
        assert len(filled(face, MODULE, clear, way)) == many(face.width_m, w) * many(face.height_m, h)


@given(
    st.lists(
        st.tuples(st.floats(0, 8), st.floats(0, 4), st.floats(0.2, 1.5), st.floats(0.2, 1.5)), max_size=3
    ),
    st.booleans(),
    st.floats(0, 3),
)
def test_whatever_fits_obeys_the_rules_and_mixing_never_holds_fewer(things, symmetric, cut):
    obstacles = tuple(
        Obstacle(id=f"o{n}", name="o", x_m=x, y_m=y, w_m=w, h_m=h) for n, (x, y, w, h) in enumerate(things)
    )
    face = rectangle(10.0, 5.4, obstacles).model_copy(
        update={"outline": ((0.0, 0.0), (10.0, 0.0), (10.0 - cut, 5.4), (cut, 5.4))}
    )
    clear = Clear(0.3, 0.2)
    found = {way: filled(face, MODULE, clear, way, symmetric) for way in ("upright", "across", "mixed")}
    assert len(found["mixed"]) >= max(len(found["upright"]), len(found["across"]))
    for modules in found.values():
        check_places(face.model_copy(update={"modules": modules}), MODULE)
        for module in modules:
            assert module.y_m >= 0.3 - 1e-6
            assert module.y_m + face.size_of(module, MODULE)[1] <= 5.4 - 0.2 + 1e-6


def test_a_symmetric_roof_is_symmetric():
    face = rectangle(9.3, 5.0, (Obstacle(id="o", name="o", x_m=7.6, y_m=3.4, w_m=0.8, h_m=0.8),))
    most, even = (filled(face, MODULE, Clear(0.3, 0.3), "upright", symmetric) for symmetric in (False, True))
    assert len(even) <= len(most)
    w = MODULE.lying(True)[0]
    for _, row in itertools.groupby(even, key=lambda module: module.y_m):
        places = [module.x_m for module in row]
        assert places[0] + places[-1] + w == pytest.approx(9.3, abs=0.01)


def test_the_ways_of_a_face_have_modules_and_a_year_and_can_be_taken():
    reckoner, face = Reckoner(), LARKMOOR.faces[1]
    found = fillings(reckoner, LARKMOOR, face)
    assert len(found) >= 2
    assert found[0].kwh == max(filling.kwh for filling in found)
    assert {filling.symmetric for filling in found} == {False, True}
    for filling in found:
        taken = edit(LARKMOOR, *filling.changes)
        assert len(taken.faces[1].modules) == filling.modules
        assert filling.kw == pytest.approx(filling.modules * MODULE.pmp_w / 1000)
    assert clear_of(LARKMOOR) == Clear(0.3, 0.3)
    assert fills(face, MODULE, Clear(9, 9))[0].modules == ()


def test_an_edge_of_ones_own_pack_is_obeyed():
    wide = edit(LARKMOOR, Change("pack/values/roof_edge_m/value", 0.9))
    fewer = max(filling.modules for filling in fillings(Reckoner(), wide, wide.faces[0]))
    assert fewer < max(filling.modules for filling in fillings(Reckoner(), LARKMOOR, LARKMOOR.faces[0]))
