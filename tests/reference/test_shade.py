"""Shade against closed forms and a second, plain computation, and strings in shade against added curves."""

import math

import numpy as np
import pvlib
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lodestaff.energy.array import Plane, plane_conditions, plane_lights, plane_of_array, remaining_share
from lodestaff.energy.in_series import BYPASS_V, InRow, in_series_kw, modules_in_series_kw
from lodestaff.energy.mismatch import ModulePoints, curve
from lodestaff.energy.modules import Own, Shaded, Unshaded, alone_kw, shaded_year, through_own_kw
from lodestaff.energy.shade import (
    MONTHS_OPAQUE,
    Solid,
    Standing,
    beam_share,
    beam_share_along,
    rays_of,
    sky_share,
)
from lodestaff.energy.sun import Place, sun_over_year
from lodestaff.energy.synthetic import Climate, synthetic_year

FLAT = ((0.001, 0.0, 0.0), (0.0, 0.001, 0.0))  # sides of a level module, next to a point

FREE = Standing((0, 0, 1), (1.1, 0, 0), (0, 1.4, 1.0), groups_along=True, around=())


def box(east, north, low, high):
    """An upright box from its extents (from, to) along each axis."""
    sides = (
        (1.0, 0.0, 0.0, east[1]), (-1.0, 0.0, 0.0, -east[0]), (0.0, 1.0, 0.0, north[1]),
        (0.0, -1.0, 0.0, -north[0]), (0.0, 0.0, 1.0, high), (0.0, 0.0, -1.0, -low),
    )  # fmt: skip
    middle = ((east[0] + east[1]) / 2, (north[0] + north[1]) / 2, (low + high) / 2)
    corner = (east[1] - middle[0], north[1] - middle[1], high - middle[2])
    return Solid(sides, middle, math.dist((0, 0, 0), corner), MONTHS_OPAQUE)


def towards(azimuth_deg, elevation_deg):
    azimuth, elevation = math.radians(azimuth_deg), math.radians(elevation_deg)
    flat = math.cos(elevation)
    return np.array([[flat * math.sin(azimuth), flat * math.cos(azimuth), math.sin(elevation)]])


def share(module, direction, month=0):
    return beam_share_along(module, direction, np.full(len(direction), month))


@given(st.floats(91, 269), st.floats(1, 89), st.floats(0.5, 20), st.floats(0.5, 12))
def test_a_long_wall_shades_below_its_profile_angle(azimuth, elevation, away_m, high_m):
    """The wall runs east-west, south of a point: shaded where tan(elevation) < height x cos(off square) /
    distance. Source: derived (the profile angle of solar geometry)."""
    wall = box((-4000, 4000), (-away_m - 0.3, -away_m), 0.0, high_m)
    edge = math.degrees(math.atan(high_m * math.cos(math.radians(azimuth - 180)) / away_m))
    if abs(elevation - edge) < 0.2:
        return
    lit = share(Standing((0, 0, 0), *FLAT, groups_along=True, around=(wall,)), towards(azimuth, elevation))
    assert lit == pytest.approx(float(elevation > edge))


@pytest.mark.parametrize("pitch_m", [2.0, 3.0, 4.5])
@pytest.mark.parametrize("elevation", [8.0, 12.0, 16.0, 22.0, 30.0])
def test_an_endless_row_shades_the_row_behind_up_to_its_shadow_line(pitch_m, elevation):
    """Rows tilted 30 degrees, slope 2 m, sun square on from the south: the shadow reaches up the slope by
    s = L (1 − pitch x sin(e) / (L sin(e + tilt))) (derived; the row in front ends at its upper edge)."""
    slope, tilt, e = 2.0, math.radians(30), math.radians(elevation)
    up = (0.0, slope * math.cos(tilt), slope * math.sin(tilt))
    top = (-pitch_m + up[1], up[2])  # north, up: the upper edge of the row in front
    front = box((-900, 900), (top[0] - 0.002, top[0]), 0.0, top[1])
    reaches = slope * (1 - pitch_m * math.sin(e) / (slope * math.sin(e + tilt)))
    for place in (0.1, 0.3, 0.5, 0.7, 0.9):
        if abs(place * slope - reaches) < 0.03:
            continue
        at = tuple(place * side for side in up)
        spot = Standing(
            at, (0.001, 0, 0), tuple(side / 2000 for side in up), groups_along=True, around=(front,)
        )
        assert share(spot, towards(180, elevation)) == pytest.approx(float(place * slope > reaches))


@given(st.integers(0, 359), st.integers(2, 88), st.floats(-3, 3), st.floats(-3, 3), st.floats(0.3, 4))
def test_rays_met_one_small_step_after_the_other_say_the_same(azimuth, elevation, east, north, high):
    """A second computation that walks each ray in steps of a centimetre. Source: derived."""
    chimney, ray = box((-0.4, 0.5), (-0.3, 0.6), 0.0, high), towards(azimuth, elevation)
    if -0.45 < east < 0.55 and -0.35 < north < 0.65:
        return
    walk = np.array([east, north, 0.0]) + np.arange(0.01, 12, 0.01)[:, None] * ray

    def met(wider):
        return bool(
            (
                (walk[:, 0] > -0.4 - wider)
                & (walk[:, 0] < 0.5 + wider)
                & (walk[:, 1] > -0.3 - wider)
                & (walk[:, 1] < 0.6 + wider)
                & (walk[:, 2] < high + wider)
            ).any()
        )

    if met(0.02) != met(-0.02):
        return  # a corner that it grazes, between two steps or within a few
    spot = Standing((east, north, 0.0), *FLAT, groups_along=True, around=(chimney,))
    assert share(spot, ray) == pytest.approx(float(not met(0.0)))


@pytest.mark.parametrize("angle", [10, 25, 40, 60])
def test_a_long_wall_hides_its_part_of_an_even_sky(angle):
    """A level surface at a wall whose top stands `angle` high sees (1 + cos(angle)) / 2 of the sky. Source:
    published (view factor of a half plane, heat-transfer tables; from memory)."""
    wall = box((-9000, 9000), (-1.3, -1.0), 0.0, math.tan(math.radians(angle)))
    seen = sky_share(Standing((0, 0, 0), *FLAT, groups_along=True, around=(wall,)))
    assert seen == pytest.approx((1 + math.cos(math.radians(angle))) / 2, abs=0.02)


def test_a_tree_lets_light_through_by_its_months():
    tree = box((-50, 50), (-6, -5), 0.0, 9.0)
    tree = Solid(tree.sides, tree.centre, tree.radius, (0.7,) * 3 + (0.2,) * 9)
    spot = Standing((0, 0, 0), *FLAT, groups_along=True, around=(tree,))
    assert share(spot, towards(180, 40), month=1) == pytest.approx(0.7)
    assert share(spot, towards(180, 40), month=6) == pytest.approx(0.2)


def test_the_lower_half_in_shade_leaves_half_the_current():
    """Half cells, two halves in parallel: a shadow over the lower one halves what the beam gives."""
    kerb = box((-5, 5), (-0.6, -0.5), 0.0, 1.0)
    upright = Standing((-0.5, 0, 0.0), (1.0, 0, 0), (0, 1e-9, 1.8), groups_along=True, around=(kerb,))
    across = Standing((-0.5, 0, 0.0), (1.8, 0, 0), (0, 1e-9, 1.0), groups_along=False, around=(kerb,))
    low = towards(180, 12)  # the shadow of 1 m at 0.5 m reaches 0.89 m up
    assert share(upright, low)[:, 0] == pytest.approx([0.5, 0.5, 0.5])
    assert share(across, low)[:, 0] == pytest.approx(
        [0.0, 0.0, 0.0]
    )  # no: its groups lie one above the other


@pytest.fixture(scope="module")
def year():
    place = Place(52.2, 0.1, 20, 0)
    sun = sun_over_year(place)
    weather = synthetic_year(
        place, Climate((0.4,) * 12, (4.0,) * 12, (14.0,) * 12, wind_m_s=(3.0,) * 12, seed=3)
    )
    return sun, weather


def test_the_parts_of_the_light_add_up_to_the_plane_of_array(year):
    """Source: pvlib, Hay-Davies, whole against its parts."""
    sun, weather = year
    plane = Plane(35, 210, stc_kw=0.4, gamma_pct_per_k=-0.35, u0_w_m2_k=20, u1_w_s_m3_k=3.2)
    lights = plane_lights(plane, sun, weather)
    whole = plane_of_array(plane, sun, weather.ghi_w_m2, weather.dni_w_m2, weather.dhi_w_m2)
    assert lights.beam_w_m2 + lights.sky_w_m2 + lights.ground_w_m2 == pytest.approx(whole, abs=1e-6)


def test_a_shaded_modules_power_is_that_of_the_models_at_its_own_light(year):
    """Source: pvlib, Faiman cell temperature and PVWatts DC at the light that is left."""
    sun, weather = year
    plane = Plane(35, 180, stc_kw=0.4, gamma_pct_per_k=-0.35, u0_w_m2_k=20, u1_w_s_m3_k=3.2)
    wall = box((-4, 3), (-4, -3), 0.0, 4.0)
    stands = Standing((0, 0, 1), (1.1, 0, 0), (0, 1.4, 1.0), groups_along=True, around=(wall,))
    lights = plane_lights(plane, sun, weather)
    _, cell = plane_conditions(plane, sun, weather)
    unshaded = Unshaded(lights, cell, weather.temp_air_c)
    lit = np.flatnonzero(weather.ghi_w_m2 + weather.dni_w_m2 + weather.dhi_w_m2 > 0)
    ours = shaded_year(plane, rays_of(stands, sun), unshaded, lit).groups_kw
    left = (
        lights.beam_w_m2 * beam_share(stands, sun) + lights.sky_w_m2 * sky_share(stands) + lights.ground_w_m2
    )
    warm = pvlib.temperature.faiman(left.mean(axis=0), weather.temp_air_c, weather.wind_m_s, u0=20, u1=3.2)
    theirs = pvlib.pvsystem.pvwatts_dc(left, warm, 0.4, -0.0035) / 3 * remaining_share()
    assert ours == pytest.approx(theirs[:, lit], abs=1e-7)
    assert theirs.sum() == pytest.approx(theirs[:, lit].sum())  # in the dark there is nothing
    assert 0.3 < ours.sum() / (shaded_year(plane, rays_of(FREE, sun), unshaded, lit).groups_kw).sum() < 0.9


# --- power behind bypass diodes -----------------------------------------------------------------------------
MODULE = ModulePoints(
    33.9, 12.98, voc_v=40.9, isc_a=13.7, alpha_isc_a_per_k=0.0062, beta_voc_v_per_k=-0.105, cells_in_series=66
)


def added_curves_w(groups):
    """The best power of groups in series, 22 cells each, by single-diode curves at one current, 0.5 V across
    a conducting bypass diode, at 25 °C. Source: pvlib's single diode."""
    amps = np.linspace(0, 15, 3000)
    volts = np.zeros_like(amps)
    for poa in groups:
        parameters = curve(MODULE, np.array(float(poa)), np.array(25.0))
        with np.errstate(all="ignore"):
            third = np.asarray(pvlib.pvsystem.v_from_i(amps, *parameters)) / 3
        volts += np.clip(np.nan_to_num(third, nan=-0.5, neginf=-0.5), -0.5, None)
    return float((amps * volts).max())


@pytest.mark.parametrize(
    "groups",
    [
        [800] * 30,
        [800] * 27 + [200] * 3,
        [800] * 20 + [300] * 10,
        [600] * 15 + [450] * 15,
        [900] * 10 + [500] * 10 + [150] * 10,
        [700] * 29 + [60],
        [400] * 6 + [390] * 24,
    ],
)
def test_a_string_in_shade_gives_what_its_added_curves_give(groups):
    """Within 2 %, from each group's own best power. Source: pvlib."""
    powers = np.array([[added_curves_w([poa] * 3) / 3000] for poa in groups], dtype=np.float32)
    ones, volts = np.ones(len(groups)), np.full(len(groups), 33.9 / 3)
    ours = in_series_kw(powers, ones, volts, rise=40.9 / 33.9 - 1)[0] * 1000
    assert ours == pytest.approx(added_curves_w(groups), rel=0.02)


@given(st.lists(st.floats(0, 0.15), min_size=1, max_size=24), st.floats(0, 300), st.floats(0, 0.3))
def test_a_row_never_gives_more_than_its_modules_alone_and_an_even_one_all(powers, least_v, rise):
    kw = np.array(powers, dtype=np.float32)[:, None]
    ones, volts = np.ones(len(powers)), np.full(len(powers), 11.0)
    given_kw = in_series_kw(kw, ones, volts, least_v, rise)[0]
    assert given_kw <= kw.sum() + 1e-6
    even = np.full_like(kw, kw.max())
    assert in_series_kw(even, ones, volts, least_v, rise)[0] == pytest.approx(even.sum(), rel=1e-5)


@given(st.lists(st.sampled_from([0.0, 0.03, 0.05, 0.1]), min_size=3, max_size=18), st.floats(0, 120))
def test_modules_give_what_their_groups_give(powers, least_v):
    """The groups that differ, told apart only where they do; against all of them as parts."""
    kw = np.array(powers[: len(powers) // 3 * 3], dtype=np.float32)
    rows = []
    for groups in kw.reshape(-1, 3):
        unlike = np.flatnonzero([len(set(groups.tolist())) > 1])
        rows.append(InRow(groups[:1], 3.0, 11.0, unlike, groups[None, :][: unlike.size]))
    apart = in_series_kw(kw[:, None], np.ones(kw.size), np.full(kw.size, 11.0), least_v, 0.2)
    assert modules_in_series_kw(rows, least_v, 0.2) == pytest.approx(apart, rel=1e-6)


@given(st.lists(st.floats(0.001, 0.2), min_size=1, max_size=16), st.floats(0, 200), st.floats(0, 0.6))
def test_nothing_better_is_left_out(powers, least_v, rise):
    """Against every way to bypass the weakest, reckoned one by one. Derived."""
    kw = np.array(powers, dtype=np.float32)[:, None]
    amps = np.sort(kw[:, 0].astype(float) / 11.0)[::-1] * 1000
    ways = [0.0]
    for count in range(1, amps.size + 1):
        across = 11.0 * (1 + rise * (1 - (amps[count - 1] / amps[:count]) ** 3)).sum()
        across -= (amps.size - count) * BYPASS_V
        if across >= least_v or count == amps.size:
            ways.append(across * amps[count - 1] / 1000)
    ones, volts = np.ones(amps.size), np.full(amps.size, 11.0)
    assert in_series_kw(kw, ones, volts, least_v, rise)[0] == pytest.approx(max(ways), rel=1e-6)


def test_the_trackers_least_volts_forbid_bypassing_too_much():
    kw = np.array([[0.1]] * 6 + [[0.01]] * 6, dtype=np.float32)
    ones, volts = np.ones(12), np.full(12, 11.0)
    assert in_series_kw(kw, ones, volts)[0] > 0.5
    assert in_series_kw(kw, ones, volts, 100.0)[0] == pytest.approx(0.12, rel=1e-5)


@given(st.lists(st.floats(0.001, 0.15), min_size=3, max_size=3))
def test_a_converter_of_its_own_gives_the_modules_best_and_no_more(groups):
    kw = np.array(groups, dtype=np.float32)
    module = Shaded(kw[:1], np.array([0]), kw[None, :], 0.0)
    assert module.groups_kw[:, 0] == pytest.approx(kw)
    best = alone_kw(module, 33.0)
    assert through_own_kw(best, Own()) == pytest.approx(best)
    assert through_own_kw(best, Own(eta=0.98)) <= kw.sum() * 0.98 + 1e-6
    assert through_own_kw(best, Own(most_kw=0.05)).max() <= 0.05
