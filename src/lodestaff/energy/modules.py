"""Modules one by one: what each makes behind its bypass diodes, alone, in a row, or through a converter of
its own."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from lodestaff.energy.array import Lights, Plane, remaining_share
from lodestaff.energy.calendar import STEP_H, Floats, Ints
from lodestaff.energy.in_series import Groups, InRow, modules_in_series_kw
from lodestaff.energy.kept import kept
from lodestaff.energy.mismatch import ModulePoints, curve
from lodestaff.energy.shade import GROUPS, Rays, Standing

STC_C, STC_W_M2 = 25.0, 1000.0
BRIGHT_W_M2 = 20.0  # of beam on the plane: below it a shadow can't be seen; common practice, no source
PARALLEL_X = np.linspace(0.4, 1.6, 241)


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
    """A module's year among solids, after LOSSES, at the steps with light: DC power of its first bypass group
    in kW, shape (lit step,); where its groups differ, that of each, `unlike_kw`, shape (len(unlike), 3); and
    the hours in which the sun shines on its plane and something stands before part of it."""

    group_kw: Groups
    unlike: Ints
    unlike_kw: Groups
    hours: float

    @property
    def groups_kw(self) -> Groups:
        """Of each bypass group, shape (3, lit step)."""
        whole = np.repeat(self.group_kw[None, :], GROUPS, axis=0)
        whole[:, self.unlike] = self.unlike_kw.T
        return whole

    def in_row(self, vmp_v: float) -> InRow:
        """This module in a string."""
        return InRow(self.group_kw, float(GROUPS), vmp_v / GROUPS, self.unlike, self.unlike_kw)


def shaded_year(plane: Plane, rays: Rays, year: Unshaded, lit: Ints) -> Shaded:
    """The year of a module among solids, at the steps with light, `lit`.

    A cell rises above the air in proportion to the light on its module (the Faiman model is linear in it).
    """
    share, sky, lights = rays.beam(year.temp_air_c.size)[:, lit], rays.sky, year.lights
    beam, around, ground = (of[lit] for of in (lights.beam_w_m2, lights.sky_w_m2, lights.ground_w_m2))
    poa, air_c = beam * share + around * sky + ground, year.temp_air_c[lit]
    rise = (year.temp_cell_c[lit] - air_c) * poa.mean(axis=0) / np.maximum(beam + around + ground, 1e-9)
    # the PVWatts DC model of pvlib, written out
    warm = 1 + plane.gamma_pct_per_k / 100 * (air_c + rise - STC_C)
    kw = plane.stc_kw * poa / STC_W_M2 * warm * remaining_share() / GROUPS
    hidden = (share.min(axis=0) < 1) & (beam > BRIGHT_W_M2)
    groups = np.clip(kw, 0, None).astype(np.float32)
    unlike = np.flatnonzero((groups != groups[0]).any(axis=0))
    return Shaded(groups[0].copy(), unlike, groups[:, unlike].T.copy(), float(hidden.sum() * STEP_H))


def alone_kw(module: Shaded, vmp_v: float, rise: float = 0.0) -> Floats:
    """What a module gives by itself: the best of its groups with the weaker ones bypassed, shape (lit
    step,)."""
    return modules_in_series_kw([module.in_row(vmp_v)], rise=rise)


def through_own_kw(alone: Floats, own: Own) -> Floats:
    """What a module gives through a converter of its own, shape (step,): its own best, whatever others do."""
    return np.minimum(alone, own.most_kw) * own.eta


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
