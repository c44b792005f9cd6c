"""Shadows and outlines against the rays that the year goes by."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lodestaff.energy.shade import Standing, beam_share_along
from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning import Moment
from lodestaff.reckoning.sun_view import in_the_sun, shadows, sun_now, sun_view
from lodestaff.roof.frame import frame_of
from lodestaff.roof.solids import prisms
from lodestaff.roof.views import before_the_sky, shadow_on, towards
from lodestaff.samples import sample_path

TREE = {"id": "oak", "name": "Oak", "shape": "round", "east_m": 9.0, "north_m": -7.0, "width_m": 5.0,
        "height_m": 11.0, "base_m": 2.0}  # fmt: skip


@pytest.fixture(scope="module")
def roof():
    return edit(
        load_job(sample_path("larkmoor")),
        Change("faces/south-west/azimuth_deg", 180.0),
        Change("faces/south-west/origin", {"east_m": 0, "north_m": 0, "eaves_m": 3}),
        Change("surroundings", [TREE]),
    )


def inside(outline, x, y):
    """Whether a point lies in a convex outline, counter-clockwise; how near its edge."""
    edges = zip(outline, (*outline[1:], outline[0]), strict=True)
    rooms = [
        ((b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])) / max(math.dist(a, b), 1e-9)
        for a, b in edges
    ]
    return min(rooms, default=-1.0)


@given(
    st.sampled_from([0, 1]), st.floats(95, 265), st.floats(3, 60), st.floats(0.1, 7.5), st.floats(0.1, 4.5)
)
def test_a_shadow_lies_where_no_beam_comes(roof, which, azimuth, elevation, x, y):
    """Source: derived; two ways to the same shadow, corners cast along the sun and rays met by solids."""
    face = roof.faces[1]
    prism, frame = prisms(roof, face)[which], frame_of(face)
    outline = shadow_on(face, prism, azimuth, elevation)
    room = inside(outline, x, y) if outline else -1.0
    if abs(room) < 0.02:
        return
    spot = Standing(
        tuple(frame.at(x, y)),
        tuple(0.001 * frame.along),
        up=tuple(0.001 * frame.up),
        groups_along=True,
        around=(prism.solid,),
    )
    lit = beam_share_along(spot, towards(azimuth, elevation)[None, :], np.array([5])).mean()
    on_foot = which == 0 and 5.7 < x < 6.7 and 2.55 < y < 3.55
    assert on_foot or lit == pytest.approx(float(room < 0))


@given(st.floats(-170, 170), st.floats(1, 80))
def test_an_outline_before_the_sky_is_where_rays_end(roof, away, elevation):
    face = roof.faces[1]
    prism = prisms(roof, face)[1]
    point = frame_of(face).at(3.0, 1.0)
    outline = before_the_sky(prism, point, 180.0)
    room = inside(outline, away, elevation)
    if abs(room) < 1.0:
        return
    spot = Standing(tuple(point), (0.001, 0, 0), up=(0, 0.001, 0), groups_along=True, around=(prism.solid,))
    lit = beam_share_along(spot, towards(180 + away, elevation)[None, :], np.array([5])).mean()
    assert lit == pytest.approx(float(room < 0))


def test_the_moment_moves_the_shadow(roof):
    face = roof.faces[1]
    morning, evening = (shadows(roof, face, Moment(month=9, hour=hour)) for hour in (9.0, 15.0))
    assert morning
    middle = [sum(x for x, _ in outline) / len(outline) for outline in (morning[0], evening[0])]
    assert middle[0] < middle[1], "the sun goes from east to west, the shadow from west to east"
    assert shadows(roof, face, Moment(month=1, hour=22.0)) == ()
    assert not in_the_sun(roof, face, Moment(month=1, hour=22.0))


def test_the_view_has_paths_hours_and_what_stands_there(roof):
    view = sun_view(roof, roof.faces[1], "m4", Moment(month=4, hour=12.0))
    assert [path.month for path in view.paths] == [12, 3, 6, 4]
    noon = {path.month: max(high for _, high in path.points) for path in view.paths}
    latitude = roof.site.latitude_deg
    assert noon[6] == pytest.approx(90 - latitude + 23.44, abs=0.3)
    assert noon[12] == pytest.approx(90 - latitude - 23.44, abs=0.3)
    assert [name for name, _ in view.things] == ["chimney", "Oak"]
    assert view.now is not None
    assert abs(view.now[0]) < 5
    south = edit(roof, Change("site/latitude_deg", -38.0))
    assert sun_view(south, south.faces[1], "m4", Moment(month=4, hour=12.0)).middle_deg == 0


def test_the_sun_at_a_moment_is_that_of_the_almanac(roof):
    """Source: pvlib, the NREL algorithm, at the minute of standard time."""
    import pandas as pd
    import pvlib

    azimuth, elevation = sun_now(roof, Moment(month=6, hour=9.0))
    at = pd.DatetimeIndex(["2025-06-16 09:00"], tz="UTC") - pd.Timedelta(hours=roof.site.utc_offset_h)
    site = roof.site
    theirs = pvlib.solarposition.spa_python(at, site.latitude_deg, site.longitude_deg, site.altitude_m)
    assert azimuth == pytest.approx(theirs["azimuth"].iloc[0], abs=0.6)
    assert elevation == pytest.approx(theirs["apparent_elevation"].iloc[0], abs=0.4)
