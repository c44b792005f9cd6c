"""The far horizon takes the beam while the sun is below it, and nothing else."""

import numpy as np
import pytest

from lodestaff.energy.horizon import elevation_deg, read_horizon, seen_from
from lodestaff.energy.sun import Place, sun_over_year
from lodestaff.energy.synthetic import synthetic_year
from lodestaff.job import Change, edit
from lodestaff.quantities.errors import JobError
from tests.energy.test_weather import climate

PLACE = Place(54.0, -2.0, 140, 0)
FLAT = ((0.0, 0.0), (180.0, 0.0))


@pytest.fixture(scope="module")
def year():
    clearness = (0.29, 0.34, 0.38, 0.43, 0.46, 0.45, 0.44, 0.43, 0.41, 0.36, 0.31, 0.27)
    return sun_over_year(PLACE), synthetic_year(PLACE, climate(clearness))


def test_a_flat_horizon_changes_nothing(year):
    sun, weather = year
    seen = seen_from(FLAT, sun, weather)
    assert seen.ghi_w_m2 == pytest.approx(weather.ghi_w_m2, abs=1e-9)
    assert seen_from((), sun, weather) is weather


def test_behind_a_wall_all_round_only_the_sky_is_left(year):
    sun, weather = year
    seen = seen_from(((0.0, 85.0), (180.0, 85.0)), sun, weather)
    assert seen.dni_w_m2.max() == 0
    assert seen.ghi_w_m2 == pytest.approx(weather.dhi_w_m2)


def test_a_hill_in_the_south_takes_midwinter_noon_and_leaves_midsummer(year):
    """At 54 degrees north the noon sun stands at 90 - 54 - 23.4 = 12.6 degrees in December, 59.4 in June."""
    sun, weather = year
    seen = seen_from(((0.0, 0.0), (120.0, 0.0), (150.0, 14.0), (210.0, 14.0), (240.0, 0.0)), sun, weather)
    noons = lambda month: slice((month * 30 + 20) * 96 + 46, (month * 30 + 20) * 96 + 50)  # noqa: E731
    assert seen.dni_w_m2[noons(11)].max() == 0
    assert np.array_equal(seen.dni_w_m2[noons(5)], weather.dni_w_m2[noons(5)])
    closes = seen.dni_w_m2 * sun.cos_zenith + seen.dhi_w_m2
    assert seen.ghi_w_m2 == pytest.approx(closes, abs=1e-6)


def test_it_runs_on_through_north():
    assert elevation_deg(((10.0, 4.0), (350.0, 8.0)), np.array([0.0, 350.0, 10.0])) == pytest.approx(
        [6, 8, 4]
    )


@pytest.mark.parametrize(
    ("text", "zero", "points"),
    [
        ("azimuth,elevation\n0,5\n90,0\n270,7.5", "", ((0, 5), (90, 0), (270, 7.5))),
        (
            "# made on site\nA\tH\n-180\t1\n-90\t2\n0\t3\n90\t4",
            "south",
            ((0, 1), (90, 2), (180, 3), (270, 4)),
        ),
        ("-90;2\n90;4", "north", ((90, 4), (270, 2))),
        ("0 5\n360 6\n180 1", "", ((0, 6), (180, 1))),
    ],
)
def test_files_in_either_count(text, zero, points):
    assert read_horizon(text.encode(), "h.csv", zero) == points


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("-90,2\n90,4", "from north or from south?"),
        ("0,5\nx,y", "line 2"),
        ("0,95\n90,1", "elevation from 0 to 85"),
        ("0,5", "holds 1 points"),
        ("hello\nworld", "holds 0 points"),
    ],
)
def test_what_is_no_horizon_is_refused(text, words):
    with pytest.raises(JobError, match=words):
        read_horizon(text.encode(), "h.csv")


def test_a_job_behind_a_hill_makes_less(larkmoor, reckoner):
    points = [{"azimuth_deg": a, "elevation_deg": e} for a, e in ((90, 0), (135, 25), (225, 25), (270, 0))]
    hidden = edit(larkmoor, Change("site/horizon", points))
    open_kwh, hidden_kwh = reckoner.figures(larkmoor).pv_kwh, reckoner.figures(hidden).pv_kwh
    assert 0.6 * open_kwh < hidden_kwh < 0.95 * open_kwh
