"""Circuits dealt over legs or panels so that they are least apart, with the fewest moves that reach it.

Two exact programmes (SciPy `milp`), bounded in nodes and never in time: the same circuits are always dealt
alike, however busy the machine is. What isn't proven best is said with the bound that is proven.
"""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

NODES = 500  # of each programme's search
MOVES = 120  # looked at three at a time


@dataclass(frozen=True)
class Dealt:
    """Where each circuit goes (by leg), how far the legs are apart, and how many were moved.

    `least` and `fewest` are proven: no dealing has the legs less apart, none so far apart moves fewer. It is
    `exact` where it reaches both, differences that don't matter aside.
    """

    legs: tuple[int, ...]
    difference: float
    moved: int
    least: float
    fewest: int
    exact: bool


@dataclass(frozen=True)
class _Table:
    """What is dealt: loads, what each leg carries besides, where each stands now."""

    loads: tuple[float, ...]
    base: tuple[float, ...]
    here: tuple[int | None, ...]

    def carried(self, where: tuple[int, ...]) -> list[float]:
        sums = list(self.base)
        for load, leg in zip(self.loads, where, strict=True):
            sums[leg] += load
        return sums

    def apart(self, where: tuple[int, ...]) -> float:
        sums = self.carried(where)
        return max(sums) - min(sums)

    def moved(self, where: tuple[int, ...]) -> int:
        return sum(old is not None and new != old for new, old in zip(where, self.here, strict=True))


def deal(
    loads: tuple[float, ...],
    legs: int,
    now: tuple[int | None, ...] = (),
    fixed: tuple[float, ...] = (),
    alike: float = 1e-6,
    nodes: int = NODES,
) -> Dealt:
    """Deal circuits over legs so that the largest and the smallest leg are least apart, moving as few as
    possible.

    `now` says where each circuit is (None: nowhere yet), `fixed` what each leg carries besides; `alike` is
    the difference below which legs count as equal, in the unit of the loads.
    """
    table = _Table(loads, fixed or (0.0,) * legs, now or (None,) * len(loads))
    best, least = (
        min(_starts(table, alike), key=lambda start: (max(alike, table.apart(start)), table.moved(start))),
        alike,
    )
    if table.apart(best) > alike:
        places, bound = _programme(table, legs, most=table.apart(best), moves=False, alike=alike, nodes=nodes)
        least = max(alike, bound)
        if places is not None and table.apart(places) < table.apart(best):
            best = places
    apart = max(alike, table.apart(best))
    fewest, even = 0, apart <= least * (1 + 1e-6) + 1e-9
    if table.moved(best):
        places, bound = _programme(table, legs, most=apart, moves=True, alike=alike, nodes=nodes)
        fewest = math.ceil(bound - 1e-6)
        if places is not None and table.moved(places) < table.moved(best):
            best = places
    moved = table.moved(best)
    return Dealt(
        best,
        table.apart(best),
        moved=moved,
        least=0.0 if least <= alike else least,
        fewest=fewest,
        exact=even and moved <= fewest,
    )


def _starts(table: _Table, alike: float) -> list[tuple[int, ...]]:
    """Good dealings to begin with: as it stands, with a few moves, that evened, and the largest first, each
    onto the leg that carries least, evened."""
    sums, where = list(table.base), [0] * len(table.loads)
    for index in sorted(range(len(table.loads)), key=lambda n: (-table.loads[n], n)):
        lowest, here = min(sums), table.here[index]
        where[index] = here if here is not None and sums[here] == lowest else sums.index(lowest)
        sums[where[index]] += table.loads[index]
    stands = tuple(leg for leg in table.here if leg is not None)
    begun = [_evened(table, where, alike)]
    if len(stands) < len(table.here):
        return begun
    few = _few(table, stands, alike)
    return [stands, few, _evened(table, list(few), alike), *begun]


def _few(table: _Table, stands: tuple[int, ...], alike: float) -> tuple[int, ...]:
    """One, two or three moves that make the legs alike; until there are such, the move or two that bring them
    nearest. The nearest dealing met on the way."""
    where, best = list(stands), stands
    for _ in table.loads:
        sums = np.array(table.carried(tuple(where)))
        moves = _nearest_moves(table, where, sums)
        if not moves or np.ptp(sums) <= alike:
            break
        shifts = np.array([_shift(table, where, move) for move in moves])
        circuit = np.array([index for index, _ in moves])
        again = circuit[:, None] == circuit[None, :]
        apart = [np.ptp(sums + shifts, axis=1)]
        two = sums + shifts[:, None] + shifts[None, :]
        apart.append(np.where(again, np.inf, np.ptp(two, axis=-1)))
        if apart[1].min() > alike:
            three = np.ptp(two[:, :, None] + shifts, axis=-1)
            apart.append(np.where(again[:, :, None] | again[None] | again[:, None], np.inf, three))
        ends = next((gap for gap in apart if gap.min() <= alike), None)
        candidates = ends if ends is not None else apart[0] if apart[0].min() < np.ptp(sums) else apart[1]
        if candidates.min() >= np.ptp(sums):
            break
        for place in np.unravel_index(int(np.argmin(candidates)), candidates.shape):
            where[moves[place][0]] = moves[place][1]
        if table.apart(tuple(where)) < table.apart(best):
            best = tuple(where)
    return best


def _shift(table: _Table, where: list[int], move: tuple[int, int]) -> np.ndarray:
    """What a move of a circuit adds to each leg."""
    made = np.zeros(len(table.base))
    made[where[move[0]]] -= table.loads[move[0]]
    made[move[1]] += table.loads[move[0]]
    return made


def _nearest_moves(table: _Table, where: list[int], sums: np.ndarray) -> list[tuple[int, int]]:
    """Circuit and new leg of every move; of very many those that bring the legs nearest."""
    moves = [(n, leg) for n, here in enumerate(where) for leg in range(len(sums)) if leg != here]
    moves.sort(key=lambda move: float(np.ptp(sums + _shift(table, where, move))))
    return moves[:MOVES]


def _evened(table: _Table, where: list[int], alike: float) -> tuple[int, ...]:
    """Circuits moved and exchanged between the two legs furthest apart while that brings them nearer."""
    sums = table.carried(tuple(where))
    while True:
        high, low = sums.index(max(sums)), sums.index(min(sums))
        above = [n for n, leg in enumerate(where) if leg == high]
        below = [n for n, leg in enumerate(where) if leg == low]
        gap, wanted = sums[high] - sums[low], (sums[high] - sums[low]) / 2
        shifts = [(table.loads[n], n, -1) for n in above]
        shifts += [(table.loads[n] - table.loads[m], n, m) for n in above for m in below]
        useful = [shift for shift in shifts if 1e-12 < shift[0] < gap - 1e-12]
        if not useful or gap <= alike:
            return tuple(where)
        shift, up, down = min(useful, key=lambda step: (abs(step[0] - wanted), step[1], step[2]))
        before = max(sums) - min(sums)
        sums[high] -= shift
        sums[low] += shift
        if max(sums) - min(sums) > before - 1e-12:
            return tuple(where)
        where[up] = low
        if down >= 0:
            where[down] = high


def _programme(
    table: _Table, legs: int, *, most: float, moves: bool, alike: float, nodes: int
) -> tuple[tuple[int, ...] | None, float]:
    """The dealing with the legs least apart (no nearer than `alike`), or with the fewest moves that leaves
    them no further apart than `most`; and the proven bound on what was sought."""
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import csr_array

    n = len(table.loads)
    high, low, apart = n * legs, n * legs + 1, n * legs + 2
    size = n * legs + 3  # which leg each circuit is on; the highest leg, the lowest, how far they are apart
    rows, least, greatest = [], [], []

    def row(entries: dict[int, float], from_: float, to: float) -> None:
        made = np.zeros(size)
        for place, value in entries.items():
            made[place] = value
        rows.append(made)
        least.append(from_)
        greatest.append(to)

    for index in range(n):
        row({index * legs + leg: 1.0 for leg in range(legs)}, 1.0, 1.0)
    for leg, base in enumerate(table.base):
        on_leg = {index * legs + leg: load for index, load in enumerate(table.loads)}
        row({**on_leg, high: -1.0}, -np.inf, -base)
        row({**on_leg, low: -1.0}, -base, np.inf)
    row({high: 1.0, low: -1.0, apart: -1.0}, -np.inf, 0.0)
    sought = np.zeros(size)
    if moves:
        for index, here in enumerate(table.here):
            if here is not None:
                sought[index * legs : (index + 1) * legs] = 1.0
                sought[index * legs + here] = 0.0
    else:
        sought[apart] = 1.0
    options: Any = {"node_limit": nodes, "mip_rel_gap": 0.0}
    answer = milp(
        c=sought,
        constraints=LinearConstraint(csr_array(np.array(rows)), least, greatest),
        integrality=np.append(np.ones(n * legs), np.zeros(3)),
        bounds=Bounds(
            np.append(np.zeros(size - 1), alike),
            np.append(np.ones(n * legs), [np.inf, np.inf, most * (1 + 1e-9) + 1e-9]),
        ),
        options=options,
    )
    bound = answer.mip_dual_bound if answer.mip_dual_bound is not None else 0.0
    if answer.x is None:
        return None, float(bound) if math.isfinite(bound) else 0.0
    where = tuple(int(np.argmax(answer.x[index * legs : (index + 1) * legs])) for index in range(n))
    return where, float(bound)
