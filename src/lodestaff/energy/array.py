"""From weather to DC power: transposition, cell temperature, module power, by pvlib's models."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import Floats
from lodestaff.energy.kept import kept
from lodestaff.energy.sun import Sun
from lodestaff.energy.weather import Weather

ALBEDO = 0.2
# Faiman coefficients by mounting, W/(m² K) and W s/(m³ K); common practice, no source.
FAIMAN = {"open rack": (25.0, 6.84), "close roof": (20.0, 3.2), "in the roof": (15.0, 1.0)}
# Shares of the DC energy that are lost before the tracker; common practice, no source.
LOSSES = {"reflection": 0.03, "soiling": 0.02, "mismatch": 0.01, "wiring": 0.01}


@dataclass(frozen=True)
class Plane:
    """A plane of modules: tilt from horizontal, azimuth clockwise from north, STC power in kW."""

    tilt_deg: float
    azimuth_deg: float
    stc_kw: float
    gamma_pct_per_k: float
    u0_w_m2_k: float
    u1_w_s_m3_k: float
    sky_model: str = "hay-davies"  # or "perez": how the sky's light is spread


def remaining_share(losses: dict[str, float] = LOSSES) -> float:
    """What is left after all losses, as a share."""
    return float(np.prod([1 - loss for loss in losses.values()]))


@dataclass(frozen=True)
class Lights:
    """What falls on a plane over the year in W/m², shape (35040,) each: what comes from where the sun stands,
    from the rest of the sky, and from the ground."""

    beam_w_m2: Floats
    sky_w_m2: Floats
    ground_w_m2: Floats


@kept
def plane_lights(plane: Plane, sun: Sun, weather: Weather) -> Lights:
    """The parts of the light on a plane; the bright ring around the sun counts with the beam.

    Source: pvlib, Hay-Davies or Perez transposition; the bright horizon of Perez counts with the sky.
    """
    import pvlib

    facing = (plane.tilt_deg, plane.azimuth_deg)
    beam = pvlib.irradiance.beam_component(
        *facing, sun.apparent_zenith_deg, sun.azimuth_deg, dni=weather.dni_w_m2
    )
    known = (
        weather.dhi_w_m2,
        weather.dni_w_m2,
        sun.extra_normal_w_m2,
        sun.apparent_zenith_deg,
        sun.azimuth_deg,
    )
    if plane.sky_model == "perez":
        mass = pvlib.atmosphere.get_relative_airmass(sun.apparent_zenith_deg)
        sky = pvlib.irradiance.perez(*facing, *known, mass, return_components=True)
        ring = np.nan_to_num(np.asarray(sky["poa_horizon"], dtype=float))
    else:
        sky = pvlib.irradiance.haydavies(*facing, *known, return_components=True)
        ring = 0.0
    ground = pvlib.irradiance.get_ground_diffuse(plane.tilt_deg, weather.ghi_w_m2, ALBEDO)

    def whole(part: object) -> Floats:
        return np.asarray(np.nan_to_num(np.asarray(part, dtype=float)).clip(min=0))

    return Lights(
        whole(beam) + whole(sky["poa_circumsolar"]), whole(sky["poa_isotropic"] + ring), whole(ground)
    )


def plane_of_array(plane: Plane, sun: Sun, ghi: Floats, dni: Floats, dhi: Floats) -> Floats:
    """Global irradiance on the plane in W/m², shape as given. Source: pvlib, Hay-Davies or Perez."""
    import pvlib

    total = pvlib.irradiance.get_total_irradiance(
        plane.tilt_deg,
        plane.azimuth_deg,
        sun.apparent_zenith_deg,
        sun.azimuth_deg,
        dni,
        ghi,
        dhi,
        dni_extra=sun.extra_normal_w_m2,
        albedo=ALBEDO,
        model=plane.sky_model.replace("-", ""),
    )
    return np.asarray(np.nan_to_num(np.asarray(total["poa_global"], dtype=float)).clip(min=0))


def cell_temperature(plane: Plane, poa_w_m2: Floats, temp_air_c: Floats, wind_m_s: Floats) -> Floats:
    """Cell temperature in °C. Source: pvlib, Faiman (IEC 61853-2)."""
    import pvlib

    return np.asarray(
        pvlib.temperature.faiman(poa_w_m2, temp_air_c, wind_m_s, u0=plane.u0_w_m2_k, u1=plane.u1_w_s_m3_k)
    )


def dc_power(plane: Plane, poa_w_m2: Floats, temp_cell_c: Floats) -> Floats:
    """DC power of the modules in kW, before losses. Source: pvlib, PVWatts DC model."""
    import pvlib

    return np.asarray(
        pvlib.pvsystem.pvwatts_dc(poa_w_m2, temp_cell_c, plane.stc_kw, plane.gamma_pct_per_k / 100)
    )


@kept
def plane_conditions(plane: Plane, sun: Sun, weather: Weather) -> tuple[Floats, Floats]:
    """Irradiance on the plane and cell temperature over the year, shape (35040,) each."""
    poa = plane_of_array(plane, sun, weather.ghi_w_m2, weather.dni_w_m2, weather.dhi_w_m2)
    return poa, cell_temperature(plane, poa, weather.temp_air_c, weather.wind_m_s)


@kept
def plane_dc_kw(plane: Plane, sun: Sun, weather: Weather) -> Floats:
    """DC power of one plane at the tracker over the year in kW, shape (35040,), after LOSSES."""
    poa, cell = plane_conditions(plane, sun, weather)
    return np.clip(dc_power(plane, poa, cell) * remaining_share(), 0, None)


def tracker_kw(
    strings: list[tuple[Floats, int, float]], imp_max_a: float, together_kw: Floats | None = None
) -> tuple[Floats, Floats]:
    """Power of a tracker's strings in kW and what its current limit clips, shape (step,) each; `together_kw`
    is what they give in parallel, where that is less than each at its own best.

    Strings are (power in kW, modules, module Vmp in V); current at Vmp of standard conditions.
    """
    power = np.sum([kw for kw, _, _ in strings], axis=0) if together_kw is None else together_kw
    amps = np.sum([kw * 1000 / (count * vmp) for kw, count, vmp in strings], axis=0)
    share = np.minimum(1.0, imp_max_a / np.maximum(amps, 1e-9))
    return np.asarray(power * share), np.asarray(power * (1 - share))
