"""Legs and phases: what each carries, the neutral's current, the imbalance."""

import cmath
import math
from dataclasses import dataclass

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
    currents = tuple(leg_va / leg_v for leg_va in va)
    neutral = abs(
        sum(
            (apparent / leg_v) * cmath.exp(1j * math.radians(a))
            for apparent, a in zip(to_neutral, angles, strict=True)
        )
    )
    mean = sum(va) / len(va)
    imbalance = 100 * max(abs(leg_va - mean) for leg_va in va) / mean if mean > 0 else 0.0
    return LegLoad(tuple(va), currents, float(neutral), imbalance)
