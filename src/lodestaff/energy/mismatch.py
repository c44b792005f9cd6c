"""What parallel strings on one tracker lose against trackers of their own, by adding their I-V curves."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from lodestaff.catalogue import ModuleSheet
from lodestaff.energy.calendar import Floats
from lodestaff.energy.kept import kept
from lodestaff.quantities.errors import JobError

SAMPLE_EVERY = 5  # steps; daylight of a year still gives some 3,500 curves
GOLDEN = 0.6180339887498949
VOC_PER_CELL_V = 0.66  # silicon, where the sheet doesn't say how many cells stand in series (common practice)


@dataclass(frozen=True)
class ModulePoints:
    """A module's sheet at standard conditions, for the single-diode fit."""

    vmp_v: float
    imp_a: float
    voc_v: float
    isc_a: float
    alpha_isc_a_per_k: float
    beta_voc_v_per_k: float
    cells_in_series: int


def module_points(sheet: ModuleSheet) -> ModulePoints:
    """The points of a sheet, coefficients in A/K and V/K."""
    return ModulePoints(
        sheet.vmp_v,
        sheet.imp_a,
        voc_v=sheet.voc_v,
        isc_a=sheet.isc_a,
        alpha_isc_a_per_k=sheet.alpha_isc_pct_per_k / 100 * sheet.isc_a,
        beta_voc_v_per_k=sheet.beta_pct_per_k / 100 * sheet.voc_v,
        cells_in_series=sheet.cells_in_series or round(sheet.voc_v / VOC_PER_CELL_V),
    )


@lru_cache(maxsize=32)
@kept
def desoto(points: ModulePoints) -> dict[str, float]:
    """Five parameters at standard conditions that give back the sheet's points.

    Source: pvlib, De Soto model fitted to the sheet's points; where that fit finds no solution (very square
    curves), the largest ideality below 1.3 with which a series resistance of 0 or more meets the operating
    point, with no shunt (derived).
    """
    import pvlib

    try:
        parameters, _ = pvlib.ivtools.sdm.fit_desoto(
            points.vmp_v,
            points.imp_a,
            points.voc_v,
            points.isc_a,
            points.alpha_isc_a_per_k,
            points.beta_voc_v_per_k,
            points.cells_in_series,
        )
        return {name: float(value) for name, value in parameters.items()}
    except RuntimeError:
        return _without_shunt(points)


def _without_shunt(points: ModulePoints) -> dict[str, float]:
    thermal_v = points.cells_in_series * 0.025693  # k T / q at 25 °C
    for ideality in np.arange(1.3, 0.5, -0.02):
        a = ideality * thermal_v
        dark = points.isc_a / np.expm1(points.voc_v / a)
        # Imp = Isc - Io (exp((Vmp + Imp Rs)/a) - 1), solved for Rs
        series = (a * np.log1p((points.isc_a - points.imp_a) / dark) - points.vmp_v) / points.imp_a
        if series >= 0:
            return {
                "alpha_sc": points.alpha_isc_a_per_k,
                "a_ref": float(a),
                "I_L_ref": points.isc_a,
                "I_o_ref": float(dark),
                "R_sh_ref": 1e5,
                "R_s": float(series),
            }
    raise JobError(
        "the sheet's points fit no diode", "module sheet", "check Voc, Vmp, Isc and Imp against each other"
    )


def curve(points: ModulePoints, poa_w_m2: Floats, temp_cell_c: Floats) -> tuple[Any, ...]:
    """The five parameters at each irradiance and cell temperature."""
    import pvlib

    p = desoto(points)
    return tuple(
        pvlib.pvsystem.calcparams_desoto(
            poa_w_m2,
            temp_cell_c,
            p["alpha_sc"],
            p["a_ref"],
            p["I_L_ref"],
            p["I_o_ref"],
            p["R_sh_ref"],
            p["R_s"],
        )
    )


@kept
def parallel_loss(strings: list[tuple[ModulePoints, int, Floats, Floats]]) -> float:
    """Share of the year's energy that strings (module, number in series, POA, cell temperature) lose in
    parallel.

    At a common voltage the currents add; the tracker takes the best voltage, found by golden section
    between the strings' own best ones. Against the sum of their own best powers.
    """
    import pvlib

    day = np.min([poa for _, _, poa, _ in strings], axis=0) > 5
    pick = np.flatnonzero(day)[::SAMPLE_EVERY]
    curves = [(curve(points, poa[pick], temp[pick]), count) for points, count, poa, temp in strings]
    own, volts = np.zeros(pick.size), []
    for parameters, count in curves:
        best = pvlib.pvsystem.max_power_point(*parameters, method="newton")
        own += count * np.asarray(best["p_mp"])
        volts.append(count * np.asarray(best["v_mp"]))

    def power(v: Floats) -> Floats:
        total = np.zeros_like(v)
        for parameters, count in curves:
            current = np.asarray(pvlib.pvsystem.i_from_v(v / count, *parameters))
            total += v * np.clip(np.nan_to_num(current), 0, None)  # blocked: no string is driven backwards
        return total

    low, high = np.min(volts, axis=0), np.max(volts, axis=0)
    for _ in range(24):
        a, b = high - GOLDEN * (high - low), low + GOLDEN * (high - low)
        left = power(a) > power(b)
        low, high = np.where(left, low, a), np.where(left, b, high)
    together = power((low + high) / 2)
    return float(max(0.0, 1 - together.sum() / own.sum())) if own.sum() > 0 else 0.0
