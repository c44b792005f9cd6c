"""Which circuits to hold: the exact best set by people's priorities under the source's limits.

SciPy's `milp` searches it, bounded in nodes and never in time: the same circuits give the same set, however
busy the machine is.
"""

import math
from dataclasses import dataclass

import numpy as np

NODES = 20_000


@dataclass(frozen=True)
class Candidate:
    """A circuit that may be held: what it is worth to people, and what it takes.

    `power` is its running power on each leg, in the unit of the limits; `must` holds it in any case.
    """

    name: str
    points: float
    power: tuple[float, ...]
    running: float
    start: float
    energy_kwh: float
    must: bool = False
    kw: float = 0.0  # active power, for the rating in kW


@dataclass(frozen=True)
class HoldLimits:
    """What the source gives: continuous on each leg and in all, surge in all, energy through the night,
    active power."""

    leg: tuple[float, ...]
    continuous: float
    surge: float
    energy_kwh: float
    kw: float = float("inf")


@dataclass(frozen=True)
class Choice:
    """The best set. No set that fits is worth more than `most_points`, which is proven; where the set falls
    short of it (`exact` is False) the search ended before more was known.

    `left_out` gives for each circuit that is not in it the limits that forbid adding it to the set as it
    stands; () where the exchange for others is what forbids it.
    """

    chosen: tuple[str, ...]
    points: float
    running: float
    peak: float
    energy_kwh: float
    exact: bool
    most_points: float
    left_out: tuple[tuple[str, tuple[str, ...]], ...]


def choose(candidates: tuple[Candidate, ...], limits: HoldLimits, nodes: int = NODES) -> Choice:
    """The set of most points within all limits; of equal sets the one that takes least energy.

    Worst start: sum of running + the largest (start - running) among the chosen (common practice). It is
    linear in one more unknown that is at least every chosen step. Raises ValueError where what must be held
    does not fit.
    """
    from scipy.optimize import Bounds, LinearConstraint, milp

    n = len(candidates)
    if n == 0:
        return _choice((), limits, np.array([], bool), 0.0)
    running = np.array([candidate.running for candidate in candidates])
    steps = np.array([max(0.0, candidate.start - candidate.running) for candidate in candidates])
    energy = np.array([candidate.energy_kwh for candidate in candidates])
    points = np.array([candidate.points for candidate in candidates])
    rows = [np.append(running, 0.0), np.append(running, 1.0), np.append(energy, 0.0)]
    most = [limits.continuous, limits.surge, limits.energy_kwh]
    if np.isfinite(limits.kw):
        rows.append(np.append([candidate.kw for candidate in candidates], 0.0))
        most.append(limits.kw)
    for leg, limit in enumerate(limits.leg):
        rows.append(
            np.append(
                [candidate.power[leg] if leg < len(candidate.power) else 0.0 for candidate in candidates], 0.0
            )
        )
        most.append(limit)
    for index in range(n):  # the largest step is at least that of every chosen circuit
        row = np.zeros(n + 1)
        row[index], row[n] = steps[index], -1.0
        rows.append(row)
        most.append(0.0)
    tie = (
        1e-6
        * max(1e-9, points[points > 0].min() if (points > 0).any() else 1.0)
        / max(1e-9, energy.sum() or 1.0)
    )
    must = np.array([1.0 if candidate.must else 0.0 for candidate in candidates])
    solution = milp(
        c=np.append(-points + tie * energy, 0.0),
        constraints=LinearConstraint(np.array(rows), -np.inf, np.array(most) + 1e-9),
        integrality=np.append(np.ones(n), 0.0),
        bounds=Bounds(np.append(must, 0.0), np.append(np.ones(n), np.inf)),
        options={"node_limit": nodes, "mip_rel_gap": 0.0},
    )
    taken = solution.x[:n] > 0.5 if solution.x is not None else _filled(candidates, limits)
    bound = solution.mip_dual_bound if solution.mip_dual_bound is not None else -math.inf
    return _choice(candidates, limits, taken, min(float(points.sum()), float(tie * energy.sum() - bound)))


def _filled(candidates: tuple[Candidate, ...], limits: HoldLimits) -> np.ndarray:
    """What must be held, and what fits beside it, the worthiest first. Raises ValueError where already the
    former does not fit."""
    inside = [candidate for candidate in candidates if candidate.must]
    if broken(tuple(inside), limits):
        names = ", ".join(candidate.name for candidate in inside) or "nothing"
        raise ValueError(
            f"what must be held ({names}) does not fit the limits; take a larger source or hold less"
        )
    for other in sorted(candidates, key=lambda candidate: -candidate.points):
        if not other.must and other.points > 0 and not broken((*inside, other), limits):
            inside.append(other)
    return np.array([candidate in inside for candidate in candidates])


def _choice(
    candidates: tuple[Candidate, ...], limits: HoldLimits, taken: np.ndarray, most_points: float
) -> Choice:
    inside = [other for other, yes in zip(candidates, taken, strict=True) if yes]
    running, peak, energy = sums(tuple(inside))
    out = tuple(
        (other.name, broken((*inside, other), limits))
        for other, yes in zip(candidates, taken, strict=True)
        if not yes
    )
    points = sum(candidate.points for candidate in inside)
    exact = points >= most_points - 1e-6 * max(1.0, abs(most_points))
    return Choice(
        tuple(candidate.name for candidate in inside),
        points,
        running=running,
        peak=peak,
        energy_kwh=energy,
        exact=exact,
        most_points=points if exact else most_points,
        left_out=out,
    )


def sums(circuits: tuple[Candidate, ...]) -> tuple[float, float, float]:
    """Running power, worst start on top of the others, and energy of a set."""
    running = sum(circuit.running for circuit in circuits)
    step = max((circuit.start - circuit.running for circuit in circuits), default=0.0)
    return running, running + max(0.0, step), sum(circuit.energy_kwh for circuit in circuits)


def broken(circuits: tuple[Candidate, ...], limits: HoldLimits) -> tuple[str, ...]:
    """The limits that a set breaks, in words."""
    running, peak, energy = sums(circuits)
    names = []
    if running > limits.continuous + 1e-9:
        names.append("continuous rating")
    if sum(circuit.kw for circuit in circuits) > limits.kw + 1e-9:
        names.append("continuous rating in kW")
    if peak > limits.surge + 1e-9:
        names.append("surge rating")
    if energy > limits.energy_kwh + 1e-9:
        names.append("energy of the night")
    for leg, limit in enumerate(limits.leg):
        if sum(circuit.power[leg] for circuit in circuits if leg < len(circuit.power)) > limit + 1e-9:
            names.append(f"rating of leg {leg + 1}")
    return tuple(names)
