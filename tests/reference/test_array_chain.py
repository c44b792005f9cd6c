"""Sun, transposition, cell temperature and yield, against pvlib 0.16.1 called by its own defaults."""

from pathlib import Path

import numpy as np
import pandas as pd
import pvlib
import pytest

from lodestaff.energy.array import FAIMAN, Plane, cell_temperature, dc_power, plane_lights, plane_of_array
from lodestaff.energy.calendar import STEP_H
from lodestaff.energy.sun import Place, Sun, sun_at, sun_over_year
from lodestaff.energy.weather import read_file, spread

TMY3 = Path(pvlib.__file__).parent / "data" / "723170TYA.CSV"


@pytest.mark.parametrize(
    ("when", "place", "zenith", "azimuth"),
    # Source: pvlib 0.16.1 (nrel_numpy); tolerance 0.05 degree.
    [
        ("2025-06-21 12:00+00:00", Place(52.2, 0.1, 20, 0), 28.755, 179.305),
        ("2025-12-21 09:30-05:00", Place(36.1, -79.95, 273, -5), 71.505, 139.662),
        ("2025-03-20 15:00+02:00", Place(-33.9, 18.5, 40, 2), 45.088, 312.182),
    ],
)
def test_solar_position(when, place, zenith, azimuth):
    sun = sun_at(pd.DatetimeIndex([pd.Timestamp(when)]).tz_convert("UTC"), place)
    assert sun.apparent_zenith_deg[0] == pytest.approx(zenith, abs=0.05)
    assert sun.azimuth_deg[0] == pytest.approx(azimuth, abs=0.05)


def test_sun_of_the_year_is_taken_at_the_middle_of_the_step():
    """At the equinox the sun crosses the meridian of the time zone near 12:07 (equation of time), not at
    12:00."""
    sun = sun_over_year(Place(0.0, 0.0, 0, 0))
    day = slice(78 * 96, 79 * 96)
    assert np.argmin(sun.apparent_zenith_deg[day]) == 48


def test_plane_of_array_by_hay_davies():
    """Source: pvlib 0.16.1; tolerance 0.2 %."""
    sun = sun_at(
        pd.DatetimeIndex([pd.Timestamp("2025-04-15 14:30+02:00")]).tz_convert("UTC"),
        Place(48.1, 11.6, 520, 2),
    )
    plane = Plane(32, 205, 1, -0.35, *FAIMAN["open rack"])
    poa = plane_of_array(plane, sun, np.array([695.0]), np.array([760.0]), np.array([125.0]))
    assert poa[0] == pytest.approx(902.5, rel=2e-3)


@pytest.mark.parametrize(
    ("wind", "u0", "u1", "expected"),
    # Source: IEC 61853-2 / Faiman.
    [(2.4, 25.0, 6.84, 51.52), (0.5, 20.0, 3.2, 70.35)],
)
def test_cell_temperature(wind, u0, u1, expected):
    plane = Plane(30, 180, 1, -0.35, u0, u1)
    cell = cell_temperature(plane, np.array([850.0]), np.array([31.0]), np.array([wind]))
    assert cell[0] == pytest.approx(expected, rel=1e-3)


@pytest.fixture(scope="module")
def greensboro():
    return read_file(TMY3.read_bytes(), "tmy3", TMY3.name)


def test_a_year_on_a_typical_year_file(greensboro):
    """Source: pvlib 0.16.1 and its TMY3 file; hourly, no losses; tolerance 0.5 %."""
    place = greensboro.place
    hours = pd.date_range("1990-01-01 00:30", periods=8760, freq="h", tz="Etc/GMT+5").tz_convert("UTC")
    sun = sun_at(hours, place)
    plane = Plane(30, 180, 1.0, -0.35, *FAIMAN["open rack"])
    columns = greensboro.columns
    poa = plane_of_array(plane, sun, columns["ghi"], columns["dni"], columns["dhi"])
    cell = cell_temperature(plane, poa, columns["temp_air"], columns["wind_speed"])
    dc = dc_power(plane, poa, cell)
    month = hours.tz_convert("Etc/GMT+5").month
    assert poa.sum() / 1000 == pytest.approx(1744, rel=5e-3)
    assert dc.sum() == pytest.approx(1698, rel=5e-3)
    assert dc.max() == pytest.approx(1.060, rel=5e-3)
    assert dc[month == 6].sum() == pytest.approx(164.6, rel=5e-3)
    assert dc[month == 12].sum() == pytest.approx(110.4, rel=5e-3)
    assert (cell * poa).sum() / poa.sum() == pytest.approx(32.57, rel=5e-3)


def test_fifteen_minutes_keep_the_year_of_the_hours(greensboro):
    """Spreading hours over steps keeps each hour's irradiance; the yield differs by under 1 %."""
    place = greensboro.place
    weather = spread(greensboro, place, "file")
    for name, column in (("ghi_w_m2", "ghi"), ("dhi_w_m2", "dhi"), ("dni_w_m2", "dni")):
        by_hour = getattr(weather, name).reshape(8760, 4).mean(axis=1)
        assert by_hour == pytest.approx(greensboro.columns[column], abs=1e-9), name
    sun: Sun = sun_over_year(place)
    plane = Plane(30, 180, 1.0, -0.35, *FAIMAN["open rack"])
    poa = plane_of_array(plane, sun, weather.ghi_w_m2, weather.dni_w_m2, weather.dhi_w_m2)
    cell = cell_temperature(plane, poa, weather.temp_air_c, weather.wind_m_s)
    assert dc_power(plane, poa, cell).sum() * STEP_H == pytest.approx(1698, rel=1e-2)


@pytest.fixture(scope="module")
def year():
    """A real year of another place, at our steps."""
    place = Place(36.1, -79.95, 273, -5)
    return place, sun_over_year(place), spread(read_file(TMY3.read_bytes(), "tmy3", "tmy3"), place, "tmy3")


@pytest.mark.parametrize("model", ["hay-davies", "perez"])
@pytest.mark.parametrize(("tilt", "azimuth"), [(30.0, 180.0), (15.0, 95.0)])
def test_the_arrays_year_is_that_of_the_librarys_chain(year, model, tilt, azimuth):
    """Source: pvlib 0.16.1, ModelChain with PVWatts and Faiman, its own sun; without losses, the same
    year.
    """
    place, sun, weather = year
    plane = Plane(tilt, azimuth, 1.0, -0.35, *FAIMAN["close roof"], sky_model=model)
    poa = plane_of_array(plane, sun, weather.ghi_w_m2, weather.dni_w_m2, weather.dhi_w_m2)
    cell = cell_temperature(plane, poa, weather.temp_air_c, weather.wind_m_s)
    ours = dc_power(plane, poa, cell).sum() * STEP_H
    u0, u1 = FAIMAN["close roof"]
    array = pvlib.pvsystem.Array(
        pvlib.pvsystem.FixedMount(tilt, azimuth),
        albedo=0.2,
        module_parameters={"pdc0": 1000.0, "gamma_pdc": -0.0035},
        temperature_model_parameters={"u0": u0, "u1": u1},
    )
    chain = pvlib.modelchain.ModelChain(
        pvlib.pvsystem.PVSystem([array], inverter_parameters={"pdc0": 1e6}),
        pvlib.location.Location(place.latitude_deg, place.longitude_deg, "Etc/GMT+5", place.altitude_m),
        transposition_model=model.replace("-", ""),
        aoi_model="no_loss",
        spectral_model="no_loss",
        losses_model="no_loss",
        temperature_model="faiman",
    )
    times = pd.date_range("2025-01-01 00:07:30", periods=35_040, freq="15min", tz="Etc/GMT+5")
    data = {"ghi": weather.ghi_w_m2, "dni": weather.dni_w_m2, "dhi": weather.dhi_w_m2,
            "temp_air": weather.temp_air_c, "wind_speed": weather.wind_m_s}  # fmt: skip
    chain.run_model(pd.DataFrame(data, index=times))
    assert ours == pytest.approx(float(chain.results.dc.sum()) / 1000 * STEP_H, rel=0.003)


def test_perez_gives_a_little_more_than_hay_davies(year):
    """1 to 4 % on a tilted plane (common practice, no source); the parts of the light add up either way."""
    _, sun, weather = year
    sums = []
    for model in ("hay-davies", "perez"):
        plane = Plane(30.0, 180.0, 1.0, -0.35, *FAIMAN["close roof"], sky_model=model)
        poa = plane_of_array(plane, sun, weather.ghi_w_m2, weather.dni_w_m2, weather.dhi_w_m2)
        parts = plane_lights(plane, sun, weather)
        whole = parts.beam_w_m2 + parts.sky_w_m2 + parts.ground_w_m2
        assert whole.sum() == pytest.approx(poa.sum(), rel=0.002)
        sums.append(poa.sum())
    assert 1.0 < sums[1] / sums[0] < 1.05
