"""Modules one by one: what each makes behind its bypass diodes, alone, in a row, or through a converter of
its own."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from lodestaff.energy.array import Lights, Plane, remaining_share
from lodestaff.energy.calendar import STEP_H, Floats, Ints
from lodestaff.energy.compiled import njit
from lodestaff.energy.kept import kept
from lodestaff.energy.mismatch import ModulePoints, curve
from lodestaff.energy.shade import GROUPS, Standing, beam_share, sky_share
from lodestaff.energy.sun import Sun

Groups = NDArray[np.float32]
STC_C, STC_W_M2 = 25.0, 1000.0
BRIGHT_W_M2 = 20.0  # of beam on the plane: below it a shadow can't be seen; common practice, no source
PARALLEL_X = np.linspace(0.4, 1.6, 241)
BLOCK = 64  # steps
BYPASS_V = 0.5  # across a bypass diode that carries the string's current; common practice, no source


@dataclass(frozen=True)
class Own:
    """A converter of a module's own (an optimiser, a microinverter): its efficiency on DC, and the most DC
    power in kW that it takes."""

    eta: float = 1.0
    most_kw: float = np.inf


@dataclass(frozen=True)
class ModulesAt:
    """Modules of one plane that see the same: `count` of them, or one that stands among solids.

    `vmp_v` and `rise` are a module's operating voltage at standard conditions, and how far its open-circuit
    voltage lies above, as a share.
    """

    plane: Plane
    count: int
    vmp_v: float
    rise: float
    standing: Standing | None = None
    own: Own | None = None


@dataclass(frozen=True)
class Unshaded:
    """A plane's year without shade: the parts of its light, and the cell temperature, °C, shape (step,)."""

    lights: Lights
    temp_cell_c: Floats
    temp_air_c: Floats


@dataclass(frozen=True)
class Shaded:
    """A module's year among solids: DC power of each of its bypass groups in kW, shape (3, step), after
    LOSSES; and the hours in which the sun shines on its plane and something stands before part of it."""

    groups_kw: Groups
    hours: float


def shaded_year(plane: Plane, standing: Standing, year: Unshaded, sun: Sun) -> Shaded:
    """The year of a module among solids.

    A cell rises above the air in proportion to the light on its module (the Faiman model is linear in it).
    """
    share, sky = beam_share(standing, sun), sky_share(standing)
    lights = year.lights
    poa = lights.beam_w_m2 * share + lights.sky_w_m2 * sky + lights.ground_w_m2
    whole = lights.beam_w_m2 + lights.sky_w_m2 + lights.ground_w_m2
    rise = (year.temp_cell_c - year.temp_air_c) * poa.mean(axis=0) / np.maximum(whole, 1e-9)
    # the PVWatts DC model of pvlib, written out
    warm = 1 + plane.gamma_pct_per_k / 100 * (year.temp_air_c + rise - STC_C)
    kw = plane.stc_kw * poa / STC_W_M2 * warm * remaining_share() / GROUPS
    hidden = (share.min(axis=0) < 1) & (lights.beam_w_m2 > BRIGHT_W_M2)
    groups: Groups = np.clip(kw, 0, None).astype(np.float32)
    return Shaded(groups, float(hidden.sum() * STEP_H))


def alone_kw(groups: Groups, vmp_v: float, rise: float = 0.0) -> Floats:
    """What a module gives by itself: the best of its groups with the weaker ones bypassed, shape (step,)."""
    return in_series_kw(groups, np.ones(GROUPS), np.full(GROUPS, vmp_v / GROUPS), rise=rise)


def through_own_kw(alone: Floats, own: Own) -> Floats:
    """What a module gives through a converter of its own, shape (step,): its own best, whatever others do."""
    return np.minimum(alone, own.most_kw) * own.eta


def in_series_kw(
    powers: Groups,
    counts: Floats,
    volts: Floats,
    least_v: float = 0.0,
    rise: float = 0.0,
    first: Ints | None = None,
) -> Floats:
    """Power of parts in series in kW, shape (step,), from that of one group of cells of each part, (part,
    step), how many such groups the part has, and a group's operating volts.

    All carry one current. The tracker takes the best of: all at the current of the weakest, or the stronger
    ones with the weaker bypassed, as long as `least_v` is left. What could carry more than that stands at
    higher volts, up to `rise` above its operating ones: by 1 − (share of its own current)³. Source: derived
    from the bypass diodes; checked against added single-diode curves. `first`, for each part the first of its
    module, makes it quicker and changes nothing.
    """
    own = np.arange(len(counts)) if first is None else first
    return np.asarray(_row_kw(np.ascontiguousarray(powers), counts, volts, own, least_v, rise))


@lru_cache(maxsize=16)
@kept
def power_over_volts(points: ModulePoints) -> Floats:
    """A module's power over its best, at shares PARALLEL_X of its best voltage, from its curve at standard
    conditions; none of it backwards. Source: pvlib's single diode."""
    import pvlib

    volts = PARALLEL_X * points.vmp_v
    amps = pvlib.pvsystem.i_from_v(volts, *curve(points, np.array(STC_W_M2), np.array(STC_C)))
    power = volts * np.clip(np.nan_to_num(np.asarray(amps)), 0, None)
    return np.asarray(power / power.max())


def in_parallel_kw(strings: list[tuple[Floats, float]], points: ModulePoints) -> Floats:
    """Power of strings in parallel in kW, shape (step,), from each one's own best and its operating volts.

    They share one voltage: the tracker takes the one at which their curves add up to the most. Strings of
    like volts lose nothing by this, whatever their light; what light does to the best voltage is left out
    (under a tenth of a per cent; checked against added curves).
    """
    shape = power_over_volts(points)
    volts = [volt for _, volt in strings]
    if max(volts) - min(volts) < 1e-6:
        return np.asarray(np.sum([kw for kw, _ in strings], axis=0))
    best = np.zeros(strings[0][0].size)
    for common in np.linspace(min(volts), max(volts), 13):
        shares = [float(np.interp(common / volt, PARALLEL_X, shape)) for volt in volts]
        best = np.maximum(
            best, np.sum([kw * share for (kw, _), share in zip(strings, shares, strict=True)], axis=0)
        )
    return best


@njit(cache=True, nogil=True, error_model="numpy")
def _row_kw(
    powers: Groups, counts: Floats, volts: Floats, first: Ints, least_v: float, rise: float
) -> Floats:
    parts, steps = powers.shape
    out = np.zeros(steps)
    many, all_v, amps_per_kw = counts.sum(), (counts * volts).sum(), 1000.0 / volts
    order, near, weight = np.arange(parts), np.empty((BLOCK, parts)), np.empty(parts)
    for begin in range(0, steps, BLOCK):
        size = min(BLOCK, steps - begin)
        for part in range(parts):  # step by step they lie far apart in memory
            for place in range(size):
                near[place, part] = powers[part, begin + place] * amps_per_kw[part]
        for place in range(size):
            amps = near[place]
            even = True
            for part in range(1, parts):
                if abs(amps[part] - amps[0]) > 1e-6 * amps[0]:
                    even = False
                    break
            if even:
                out[begin + place] = amps[0] * all_v / 1000.0
                continue
            weight[:] = counts
            for part in range(1, parts):  # groups of one module that give the same are one
                whose = first[part]
                if whose != part and amps[part] == amps[whose]:
                    weight[whose] += counts[part]
                    amps[part] = -1.0
            _strongest_first(amps, order)
            best, carried, steep, cells = 0.0, 0.0, 0.0, 0.0
            for rank in range(parts):
                part = order[rank]
                if amps[part] <= 0.0:
                    break
                cells += weight[part]
                carried += weight[part] * volts[part]
                cubed = amps[part] * amps[part] * amps[part]
                steep += weight[part] * volts[part] / cubed
                across = carried * (1.0 + rise) - rise * steep * cubed - (many - cells) * BYPASS_V
                if across >= least_v or cells >= many - 1e-9:
                    best = max(best, across * amps[part] / 1000.0)
            out[begin + place] = best
    return out


@njit(cache=True, nogil=True, error_model="numpy")
def _strongest_first(amps: Floats, order: Ints) -> None:
    """Put an order of parts right; that of the step before is nearly so."""
    for ahead in range(1, order.size):
        held, at = order[ahead], ahead
        while at > 0 and amps[order[at - 1]] < amps[held]:
            order[at] = order[at - 1]
            at -= 1
        order[at] = held
