"""The array of a simulated site: single-diode curves of strings, added on each tracker."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from lodestaff.catalogue import Tracker
from lodestaff.energy.calendar import Floats
from lodestaff.energy.mismatch import ModulePoints, desoto

POINTS = 160
BYPASS_V = -1.2  # a module with all its bypass diodes conducting
SHADED_MODULES = 3  # of a string that is shaded, the last ones
LEAST_W = 15.0  # a tracker sleeps below
LAG_S = 300.0  # modules follow sun and air with this time constant
# back of module above air at 1000 W/m2; common practice
RISE_K = {"close roof": 33.0, "open rack": 23.0, "in the roof": 45.0}
CELL_ABOVE_BACK_K = 2.5  # at 1000 W/m2; common practice


@lru_cache(maxsize=32)
def gap_ev(points: ModulePoints) -> float:
    """The band gap with which the diode's open-circuit voltage falls with temperature as the sheet says.

    Solved between 25 and 50 °C; a fit to four points alone leaves the fall to chance. Derived.
    """
    from scipy.optimize import brentq

    wanted = points.voc_v + 25 * points.beta_voc_v_per_k

    def excess(gap: float) -> float:
        return float(_volts(points, np.array(0.0), 1000.0, 50.0, gap)) - wanted

    return float(brentq(excess, 0.3, 3.5))


def _volts(points: ModulePoints, amps: Floats, poa_w_m2: float, cell_c: float, gap: float) -> Floats:
    import pvlib

    p = desoto(points)
    parameters = pvlib.pvsystem.calcparams_desoto(
        np.array(max(poa_w_m2, 0.1)),
        np.array(cell_c),
        p["alpha_sc"],
        p["a_ref"],
        p["I_L_ref"],
        p["I_o_ref"],
        p["R_sh_ref"],
        p["R_s"],
        EgRef=gap,
    )
    with np.errstate(all="ignore"):
        return np.asarray(pvlib.pvsystem.v_from_i(amps, *parameters))


@dataclass(frozen=True)
class BuiltString:
    """A string as it was built: for each face its modules; it may differ from the design.

    `freed` are the places in `parts` whose modules each have an optimiser, `shaded` the light left on the
    last ones, `ohm` what a bad joint adds.
    """

    id: str
    tracker: str
    parts: tuple[tuple[str, ModulePoints, int], ...]
    freed: frozenset[int] = frozenset()
    reversed: bool = False
    broken: bool = False
    shaded: float = 1.0
    ohm: float = 0.0

    @property
    def modules(self) -> int:
        return sum(count for *_, count in self.parts)


@dataclass(frozen=True, eq=False)  # a curve is itself: what is made of it is found again
class Curve:
    """Current and voltage of a string; current rises, voltage falls."""

    amps: Floats
    volts: Floats

    @property
    def voc_v(self) -> float:
        return float(self.volts[0])

    @property
    def isc_a(self) -> float:
        return float(np.interp(0.0, -self.volts, self.amps))


def module_volts(
    points: ModulePoints, amps: Floats, poa_w_m2: float, cell_c: float, freed: bool = False
) -> Floats:
    """A module's volts at each current: bypassed where it can't carry it; behind an optimiser as much as its
    best power gives at that current."""
    single = _volts(points, amps, poa_w_m2, cell_c, gap_ev(points))
    single = np.clip(np.nan_to_num(single, nan=BYPASS_V, neginf=BYPASS_V), BYPASS_V, None)
    if not freed:
        return single
    best = best_w(points, poa_w_m2, cell_c)
    with np.errstate(divide="ignore"):
        return np.minimum(best / np.maximum(amps, 1e-6), float(single[0]))


@lru_cache(maxsize=256)
def best_w(points: ModulePoints, poa_w_m2: float, cell_c: float) -> float:
    """The power of a module at its own best point, W."""
    amps = np.linspace(0.0, points.isc_a * max(poa_w_m2, 1.0) / 1000 * 1.1, POINTS)
    volts = _volts(points, amps, poa_w_m2, cell_c, gap_ev(points))
    return max(0.0, float(np.max(amps * np.nan_to_num(volts, nan=0.0, neginf=0.0))))


def string_curve(string: BuiltString, poa_w_m2: dict[str, float], cell_c: dict[str, float]) -> Curve:
    """One current through all modules; a module that can't carry it is bypassed."""
    most = max(points.isc_a * max(poa_w_m2[face], 1.0) / 1000 for face, points, _ in string.parts) * 1.1
    amps = np.linspace(0.0, most, POINTS)
    volts = np.zeros(POINTS)
    for place, (face, points, count) in enumerate(string.parts):
        dim = min(count, SHADED_MODULES) if string.shaded < 1 and place == len(string.parts) - 1 else 0
        freed = place in string.freed
        volts += (count - dim) * module_volts(points, amps, poa_w_m2[face], cell_c[face], freed)
        if dim:
            volts += dim * module_volts(points, amps, poa_w_m2[face] * string.shaded, cell_c[face], freed)
    return Curve(amps, volts - string.ohm * amps)


@lru_cache(maxsize=64)
def tracker_point(curves: tuple[Curve, ...], tracker: Tracker) -> tuple[float, float]:
    """Voltage and current of the best point in a tracker's window and under its operating current; none in
    the dark."""
    if not curves:
        return 0.0, 0.0
    volts = np.linspace(0.0, max(curve.voc_v for curve in curves), POINTS)
    amps = np.zeros(POINTS)
    for curve in curves:  # a string is never driven backwards
        amps += np.clip(np.interp(-volts, -curve.volts, curve.amps, right=0.0), 0.0, None) * (
            volts <= curve.voc_v
        )
    inside = (volts >= tracker.v_min) & (volts <= tracker.v_max) & (amps <= tracker.imp_max_a)
    power = np.where(inside, volts * amps, 0.0)
    best = int(np.argmax(power))
    return (float(volts[best]), float(amps[best])) if power[best] > LEAST_W else (0.0, 0.0)
