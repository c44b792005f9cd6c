"""Weather: the synthetic year hits what it was told; files with gaps are refused by place."""

from pathlib import Path

import numpy as np
import pvlib
import pytest

from lodestaff.energy.calendar import month_of_step
from lodestaff.energy.sun import Place, sun_over_year
from lodestaff.energy.synthetic import Climate, synthetic_year
from lodestaff.energy.weather import extraterrestrial_horizontal, read_file, spread
from lodestaff.quantities.errors import JobError

TMY3 = (Path(pvlib.__file__).parent / "data" / "723170TYA.CSV").read_bytes()
NORTH = Place(54.3, -2.4, 140, 0)
PLACES = [
    (NORTH, (0.29, 0.34, 0.38, 0.43, 0.46, 0.45, 0.44, 0.43, 0.41, 0.36, 0.31, 0.27)),
    (Place(-36.9, 146.0, 200, 10), (0.62, 0.6, 0.57, 0.52, 0.46, 0.43, 0.45, 0.49, 0.53, 0.57, 0.59, 0.61)),
    (Place(8.5, -79.5, 20, -5), (0.58, 0.6, 0.6, 0.55, 0.45, 0.42, 0.43, 0.43, 0.42, 0.41, 0.44, 0.52)),
]


def climate(clearness, seed=7):
    return Climate(
        clearness,
        (0.8, 0.9, 1.9, 3.4, 6.0, 9.0, 11.0, 10.8, 8.8, 6.2, 3.3, 1.2),
        (6.0, 6.6, 8.8, 11.6, 15.0, 17.6, 19.4, 19.0, 16.6, 12.8, 8.9, 6.4),
        (5.0,) * 12,
        seed,
    )


@pytest.mark.parametrize(("place", "clearness"), PLACES, ids=["54 N", "37 S", "9 N"])
@pytest.mark.parametrize("seed", [1, 7, 23])
class TestSyntheticYear:
    def test_each_month_hits_its_clearness_within_a_percent(self, place, clearness, seed):
        weather = synthetic_year(place, climate(clearness, seed))
        outside = extraterrestrial_horizontal(sun_over_year(place))
        months = month_of_step()
        for month, wanted in enumerate(clearness):
            here = months == month
            assert weather.ghi_w_m2[here].sum() / outside[here].sum() == pytest.approx(wanted, rel=0.01)

    def test_irradiance_closes_and_is_possible(self, place, clearness, seed):
        """GHI = DNI cos z + DHI; no darkness below 0, no sun at night, no beam above the sun's own."""
        weather = synthetic_year(place, climate(clearness, seed))
        sun = sun_over_year(place)
        up = sun.cos_zenith > 0.02
        closes = weather.dni_w_m2 * sun.cos_zenith + weather.dhi_w_m2
        assert closes[up] == pytest.approx(weather.ghi_w_m2[up], abs=1e-6)
        assert weather.ghi_w_m2[sun.cos_zenith <= 0].max() == 0
        assert min(weather.ghi_w_m2.min(), weather.dni_w_m2.min(), weather.dhi_w_m2.min()) >= 0
        assert (weather.dni_w_m2 <= sun.extra_normal_w_m2).all()

    def test_days_persist(self, place, clearness, seed):
        """A dull day follows a dull one more often than chance: correlation of neighbours well above 0."""
        weather = synthetic_year(place, climate(clearness, seed))
        outside = extraterrestrial_horizontal(sun_over_year(place)).reshape(365, -1).sum(axis=1)
        daily = weather.ghi_w_m2.reshape(365, -1).sum(axis=1) / outside
        months = month_of_step()[::96]
        rest = daily - np.array([daily[months == month].mean() for month in range(12)])[months]
        assert 0.25 < np.corrcoef(rest[:-1], rest[1:])[0, 1] < 0.8

    def test_temperature_and_wind_are_as_told(self, place, clearness, seed):
        told = climate(clearness, seed)
        weather = synthetic_year(place, told)
        months = month_of_step()
        for month in range(12):
            days = weather.temp_air_c[months == month].reshape(-1, 96)
            assert days.min(axis=1).mean() == pytest.approx(told.temperature_low_c[month], abs=0.01)
            assert days.max(axis=1).mean() == pytest.approx(told.temperature_high_c[month], abs=0.01)
            assert weather.wind_m_s[months == month].mean() == pytest.approx(told.wind_m_s[month])


def test_the_same_seed_is_the_same_year_and_another_is_not():
    first = synthetic_year(NORTH, climate(PLACES[0][1], 7))
    synthetic_year.cache_clear()
    again = synthetic_year(NORTH, climate(PLACES[0][1], 7))
    other = synthetic_year(NORTH, climate(PLACES[0][1], 8))
    assert np.array_equal(first.ghi_w_m2, again.ghi_w_m2)
    assert not np.array_equal(first.ghi_w_m2, other.ghi_w_m2)


def test_a_clearness_above_the_clear_sky_is_refused():
    with pytest.raises(JobError, match=r"December.*give at most"):
        synthetic_year(NORTH, climate((*PLACES[0][1][:11], 0.8)))


# --- files --------------------------------------------------------------------------------------------
def tmy3_lines():
    return TMY3.decode().splitlines()


def with_cell(row, column, value):
    """The TMY3 text with one cell changed; row 0 is the first hour."""
    lines = tmy3_lines()
    cells = lines[2 + row].split(",")
    cells[lines[1].split(",").index(column)] = value
    lines[2 + row] = ",".join(cells)
    return "\n".join(lines).encode()


def epw_of(hourly):
    """An EPW file with the same hours, written by the format's published field order."""
    head = ["LOCATION,Invented,-,-,SYN,999999,36.1,-79.95,-5.0,273.0", *["COMMENT,-"] * 7]
    rows = []
    for hour in range(8760):
        day = np.datetime64("2001-01-01") + hour // 24
        stamp = f"{str(day)[:4]},{int(str(day)[5:7])},{int(str(day)[8:])},{hour % 24 + 1},0,-"
        c = {name: values[hour] for name, values in hourly.columns.items()}
        rows.append(
            f"{stamp},{c['temp_air']:.2f},5.0,50,98000,0,0,300,{c['ghi']:.1f},{c['dni']:.1f},{c['dhi']:.1f},0,0,0,0,180,"
            f"{c['wind_speed']:.2f},5,5,20,7777,9,999999999,10,0.1,0,88,0.2,0.0,0.0"
        )
    return "\n".join(head + rows).encode()


@pytest.fixture(scope="module")
def hourly():
    return read_file(TMY3, "tmy3", "greensboro")


def test_an_epw_file_gives_the_same_year(hourly):
    """The same hours through the other format: same place in the year, same values."""
    again = read_file(epw_of(hourly), "epw", "same.epw")
    for column, values in hourly.columns.items():
        assert again.columns[column] == pytest.approx(values, abs=0.06), column
    assert again.place == hourly.place == Place(36.1, -79.95, 273, -5)


def test_noon_is_noon(hourly):
    """The brightest hours of the file stand around noon after spreading (an hour's slip would show)."""
    place = Place(36.1, -79.95, 273, -5)
    weather = spread(hourly, place, "file")
    mean = weather.ghi_w_m2.reshape(365, 96).mean(axis=0)
    centre = (mean * (np.arange(96) + 0.5) / 4).sum() / mean.sum()
    sun = sun_over_year(place).cos_zenith.reshape(365, 96).mean(axis=0)
    assert centre == pytest.approx((sun * (np.arange(96) + 0.5) / 4).sum() / sun.sum(), abs=0.2)


@pytest.mark.parametrize(
    ("raw", "words"),
    [
        (
            with_cell(100, "GHI (W/m^2)", "-9900"),
            ["ghi has no usable value", "-9900", "for 1 h", "hour 4 of day 5"],
        ),
        (with_cell(3000, "Dry-bulb (C)", "99.9"), ["temp_air", "99.9"]),
        ("\n".join(tmy3_lines()[:5000]).encode(), ["holds 4998 hours", "8760"]),
        (b"hello", ["cannot be read as TMY3"]),
        (b"", ["cannot be read as TMY3"]),
    ],
    ids=["gap", "impossible", "short", "other", "empty"],
)
def test_gaps_and_damage_are_named(raw, words):
    with pytest.raises(JobError) as caught:
        read_file(raw, "tmy3", "weather.csv")
    for word in ["weather.csv", *words]:
        assert word in str(caught.value)
    assert "\n" not in str(caught.value)


def test_a_gap_in_an_epw_file_is_named(hourly):
    text = epw_of(hourly).decode().splitlines()
    cells = text[8 + 12].split(",")
    cells[13] = "9999"
    text[8 + 12] = ",".join(cells)
    with pytest.raises(JobError, match="ghi has no usable value"):
        read_file("\n".join(text).encode(), "epw", "weather.epw")


# --- what can be parsed and can't be ------------------------------------------------------------------------
def with_head(*cells):
    """The TMY3 text with another head: 3 is the zone, 4 latitude, 5 longitude, 6 altitude."""
    lines = tmy3_lines()
    head = lines[0].split(",")
    for index, value in cells:
        head[index] = value
    return "\n".join([",".join(head), *lines[1:]]).encode()


def with_rows(order):
    lines = tmy3_lines()
    return "\n".join([*lines[:2], *(lines[2 + row] for row in order)]).encode()


ROWS = list(range(8760))


@pytest.mark.parametrize(
    ("raw", "words"),
    [
        (with_head((4, "91")), "latitude is 91"),
        (with_head((4, "-51")), "not that of the place that it names"),
        (with_head((5, "280")), "longitude is 280"),
        (with_head((5, "79.95")), "from its longitude"),
        (with_head((3, "7")), "from its longitude"),
        (with_head((3, "nan")), "cannot be read"),
        (with_head((6, "99999")), "altitude is 99999"),
        (with_rows(ROWS[::-1]), "row 2 is of 31 December"),
        (with_rows([*ROWS[:100], 99, *ROWS[101:]]), "row 101 is of"),
        (with_rows([*ROWS[12:], *ROWS[:12]]), "row 1 is of"),
    ],
)
def test_a_year_that_cannot_be_is_refused(raw, words):
    with pytest.raises(JobError, match=words):
        read_file(raw, "tmy3", "weather.csv")


@pytest.mark.parametrize("place", [Place(-36.1, -79.95, 273, -5), Place(36.1, -79.95, 273, 0)])
def test_a_year_of_another_place_is_refused(hourly, place):
    with pytest.raises(JobError, match="not that of this job's place"):
        spread(hourly, place, "file")


def test_a_year_from_the_next_town_is_taken(hourly):
    assert spread(hourly, Place(37.0, -78.5, 100, -5), "file").ghi_w_m2.sum() > 0
