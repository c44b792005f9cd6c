"""Legs and phases: what each carries, the neutral's current, and circuits dealt out with the least
imbalance."""

import cmath
import math
from dataclasses import dataclass
from typing import Any

import numpy as np

# Angles of the line-to-neutral voltages, degrees: one transformer with a middle tap, two of three phases,
# three phases.
ANGLES = {"120/240 V": (0.0, 180.0), "120/208 V": (0.0, -120.0), "two of three phases": (0.0, -120.0),
          "three phases": (0.0, -120.0, 120.0), "single phase": (0.0,)}  # fmt: skip


@dataclass(frozen=True)
class LegLoad:
    """Apparent power and current of each leg, the neutral's current, and the imbalance in percent."""

    va: tuple[float, ...]
    current_a: tuple[float, ...]
    neutral_a: float
    imbalance_pct: float


def leg_load(circuits: tuple[tuple[tuple[int, ...], float], ...], system: str, leg_v: float) -> LegLoad:
    """What circuits put on the legs. Each is (legs, VA): a circuit on several legs takes an equal part of
    each.

    I = VA / V of the leg. Only circuits from leg to neutral load the neutral; it carries their phasor sum, at
    equal power factors. Imbalance is the largest deviation from the mean over the mean (derived).
    """
    angles = ANGLES[system]
    va, to_neutral = [0.0] * len(angles), [0.0] * len(angles)
    for legs, power in circuits:
        for leg in legs:
            va[leg] += power / len(legs)
            if len(legs) == 1:
                to_neutral[leg] += power
    currents = tuple(one / leg_v for one in va)
    neutral = abs(
        sum(
            (one / leg_v) * cmath.exp(1j * math.radians(a)) for one, a in zip(to_neutral, angles, strict=True)
        )
    )
    mean = sum(va) / len(va)
    imbalance = 100 * max(abs(one - mean) for one in va) / mean if mean > 0 else 0.0
    return LegLoad(tuple(va), currents, float(neutral), imbalance)


@dataclass(frozen=True)
class Dealt:
    """Where each circuit goes (by leg), how far the legs are apart, and how many were moved."""

    legs: tuple[int, ...]
    difference: float
    moved: int
    exact: bool


def deal(
    loads: tuple[float, ...],
    legs: int,
    now: tuple[int | None, ...] = (),
    fixed: tuple[float, ...] = (),
    time_limit_s: float = 1.0,
) -> Dealt:
    """Deal circuits over legs so that the largest and the smallest leg are least apart, moving as few as
    possible.

    `now` says where each circuit is (None: nowhere yet); `fixed` what each leg carries besides. Two exact
    programmes:
    the least difference first, then the fewest moves that keep it.
    """
    from scipy.optimize import Bounds, LinearConstraint, milp

    n = len(loads)
    base = fixed or (0.0,) * legs
    here = now or (None,) * n
    size = n * legs + 2  # which leg each circuit is on; the highest and the lowest leg
    rows, low, high = [], [], []
    for index in range(n):
        row = np.zeros(size)
        row[index * legs : (index + 1) * legs] = 1
        rows.append(row)
        low.append(1.0)
        high.append(1.0)
    for leg in range(legs):
        carried = np.zeros(size)
        carried[leg : n * legs : legs] = loads
        for extreme, lowest, highest in ((n * legs, -np.inf, -base[leg]), (n * legs + 1, -base[leg], np.inf)):
            row = carried.copy()
            row[extreme] = -1.0
            rows.append(row)
            low.append(lowest)
            high.append(highest)
    apart = np.zeros(size)
    apart[n * legs], apart[n * legs + 1] = 1.0, -1.0
    kinds = np.append(np.ones(n * legs), [0, 0])
    bounds = Bounds(np.zeros(size), np.append(np.ones(n * legs), [np.inf, np.inf]))
    options: Any = {"time_limit": time_limit_s, "mip_rel_gap": 0.0}
    constraint = LinearConstraint(np.array(rows), low, high)
    first = milp(c=apart, constraints=constraint, integrality=kinds, bounds=bounds, options=options)
    moves = np.zeros(size)
    for index, before in enumerate(here):
        if before is not None:
            moves[index * legs : (index + 1) * legs] = 1.0
            moves[index * legs + before] = 0.0
    kept = LinearConstraint(apart.reshape(1, -1), -np.inf, max(0.0, float(first.fun or 0.0)) + 1e-6)
    second = milp(c=moves, constraints=[constraint, kept], integrality=kinds, bounds=bounds, options=options)
    best = second.x if second.x is not None else first.x
    assert best is not None  # dealing is always possible; only the time can run out, with a start in hand
    where = tuple(int(np.argmax(best[index * legs : (index + 1) * legs])) for index in range(n))
    carried_by = list(base)
    for load, leg in zip(loads, where, strict=True):
        carried_by[leg] += load
    moved = sum(1 for leg, before in zip(where, here, strict=True) if before is not None and leg != before)
    exact = first.status == 0 and second.status == 0
    return Dealt(where, max(carried_by) - min(carried_by), moved, bool(exact))
