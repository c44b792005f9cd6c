"""What several batteries can't do better than: a linear programme of their year, with everything known.

It knows less than the units do (means of hours, losses as straight lines from below, no taper), so that it
never costs more than what they can do. Each month is a programme of its own; what is stored between two
months is priced alike in both, which leaves a bound whatever the price is (Lagrangian duality; derived).
Powers in kW, energies in kWh, money in currency units. HiGHS solves it.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any, cast

import numpy as np
from scipy.optimize import OptimizeResult, linprog
from scipy.sparse import coo_array, csr_array

from lodestaff.energy.calendar import Floats, Ints
from lodestaff.energy.foresight import Store

TANGENTS = (0.0, 0.25, 0.5, 1.0)  # of the rating: where a loss is a straight line
AROUND = 24  # steps on each side of a boundary, from which the worth of what is stored there is read


@dataclass(frozen=True)
class Storing:
    """A unit with a battery, by step: what its sun brings at the DC bus, shape (step,)."""

    row: int  # of the meter
    sun_dc: Floats
    store: Store


@dataclass(frozen=True)
class Leading:
    """A controller: the units with batteries and the sun on AC that it leads or sees, by index; its powers by
    step, shape (step,).

    `most_kw` is what its units may give together, `free_kw` what they may take from AC.
    """

    storing: tuple[int, ...]
    shining: tuple[int, ...]
    load: Floats
    most_kw: Floats
    free_kw: Floats
    export_kw: float


@dataclass(frozen=True)
class Metered:
    """Everything behind a meter. `base` of shape (row, step) is drawn whatever the batteries do; `sun_ac` of
    shape (sun, step) can be used or left, `sun_row` is where.

    Of all export `paid_kw` is paid; `demand` is what each kW of a period's highest import costs.
    """

    base: Floats
    sun_ac: Floats
    sun_row: tuple[int, ...]
    storing: tuple[Storing, ...]
    leading: tuple[Leading, ...]
    price: Floats
    export_price: Floats
    paid_kw: float
    demand: float
    step_h: float

    def between(self, first: int, last: int) -> "Metered":
        """The same for some of its steps."""
        cut = slice(first, last)
        return replace(
            self,
            base=self.base[:, cut],
            sun_ac=self.sun_ac[:, cut],
            price=self.price[cut],
            export_price=self.export_price[cut],
            storing=tuple(replace(store, sun_dc=store.sun_dc[cut]) for store in self.storing),
            leading=tuple(
                replace(lead, load=lead.load[cut], most_kw=lead.most_kw[cut], free_kw=lead.free_kw[cut])
                for lead in self.leading
            ),
        )


def least_cost(
    metered: Metered, bounds: list[int], progress: Callable[[float], bool] = lambda share: True
) -> float | None:
    """A bound of what the steps cost, batteries at their floor before the first. None where stopped.

    `bounds` are the first steps of the periods, and the count of steps; a demand charge is for each period.
    """
    count = len(metered.storing)
    worth = [np.full(count, np.nan)]  # None: the first begins at the floor
    for at in bounds[1:-1]:
        worth.append(_worth_at(metered, at))
    worth.append(np.zeros(count))
    periods = [
        _Programme(metered.between(first, last), worth[number], worth[number + 1])
        for number, (first, last) in enumerate(pairwise(bounds))
    ]
    total = 0.0
    with ThreadPoolExecutor(2) as pool:  # HiGHS works without the interpreter
        running = [pool.submit(period.solved) for period in periods]
        for number, future in enumerate(running):
            if not progress(number / len(running)):
                for waiting in running:
                    waiting.cancel()
                return None
            total += future.result().fun
    return total


def _worth_at(metered: Metered, at: int) -> Floats:
    """What a kWh in each battery is worth at a step: what it spares in the days about it."""
    first, last = max(0, at - AROUND), min(metered.price.size, at + AROUND)
    around = replace(metered.between(first, last), demand=0.0)
    made = _Programme(around, np.full(len(metered.storing), np.nan), np.zeros(len(metered.storing)))
    duals = made.solved().eqlin.marginals
    return np.array([max(0.0, -duals[row]) for row in made.balances(at - first)])


class _Programme:
    """The programme of some steps. Columns are blocks of a step each: of a unit with a battery the sun used
    `u`, sun stored `c`, taken from AC `a` and at AC `w`, given `d`, at AC `o`, energy at the step's end `e`;
    of sun on AC what is used `s`; of a row import `i` and export `x`.
    """

    def __init__(self, metered: Metered, before: Floats, after: Floats) -> None:
        self.metered, self.steps = metered, metered.price.size
        self.blocks: dict[tuple[str, int], int] = {}
        for name, count in (
            *((name, len(metered.storing)) for name in "ucawdoe"),
            ("s", len(metered.sun_row)),
            ("i", len(metered.base)),
            ("x", len(metered.base)),
        ):
            for index in range(count):
                self.blocks[name, index] = len(self.blocks) * self.steps
        self.start = len(self.blocks) * self.steps  # columns of the energies before the first step
        self.peak = self.start + len(metered.storing)
        self.width = self.peak + 1
        self.costs = np.zeros(self.width)
        self.least, self.most = np.zeros(self.width), np.full(self.width, np.inf)
        self.equal, self.bound = _Rows(self.steps), _Rows(self.steps)
        for index, other in enumerate(metered.storing):
            self._stores(index, other)
        for index, sun in enumerate(metered.sun_ac):
            self._limit("s", index, 0.0, sun)
        for leading in metered.leading:
            self._leads(leading)
        self._meters()
        for index, (old, new) in enumerate(zip(before, after)):
            column, store = self.start + index, metered.storing[index].store
            begins = np.isnan(old)
            self.least[column], self.most[column] = store.floor, store.floor if begins else store.top
            self.costs[column] += 0.0 if begins else old
            self.costs[self.blocks["e", index] + self.steps - 1] -= new
        self.costs[self.peak] = metered.demand

    def _limit(self, name: str, index: int, least: float, most: float | Floats) -> None:
        at = self.blocks[name, index]
        self.least[at : at + self.steps], self.most[at : at + self.steps] = least, most

    def _stores(self, index: int, storage: Storing) -> None:
        u, c, a, w, d, o, e = (self.blocks[name, index] for name in "ucawdoe")
        dt, store = self.metered.step_h, storage.store
        self._limit("d", index, 0.0, store.discharge_kw)
        self._limit("o", index, 0.0, store.rated_kw)
        self._limit("w", index, 0.0, store.rated_kw)
        self._limit("e", index, store.floor, store.top)
        flow = {e: 1.0, c: -store.eta_in * dt, a: -store.eta_in * dt, d: dt / store.eta_out}
        self.equal.add(flow, 0.0, before=(e, self.start + index))
        self.bound.add({u: 1.0, c: 1.0}, storage.sun_dc)
        self.bound.add({c: 1.0, a: 1.0}, store.charge_kw)
        for share in TANGENTS:  # dc = ac + k1 ac + k2 ac² lies above each of its tangents
            ac = share * store.rated_kw
            slope, rest = 1.0 + store.k1 + 2.0 * store.k2 * ac, store.k2 * ac**2
            self.bound.add({o: slope, u: -1.0, d: -1.0}, rest)
            self.bound.add({w: -1.0, a: slope}, rest)
            if store.k2 == 0.0:
                break

    def _leads(self, lead: Leading) -> None:
        given = {self.blocks["o", at]: 1.0 for at in lead.storing}
        taken = {self.blocks["w", at]: -1.0 for at in lead.storing}
        self.bound.add(given, lead.most_kw)
        self.bound.add({column: -part for column, part in (given | taken).items()}, lead.free_kw)
        if np.isfinite(lead.export_kw):
            shining = {self.blocks["s", at]: 1.0 for at in lead.shining}
            self.bound.add(given | taken | shining, lead.load + lead.export_kw)

    def _meters(self) -> None:
        metered = self.metered
        imports = [self.blocks["i", row] for row in range(len(metered.base))]
        exports = [self.blocks["x", row] for row in range(len(metered.base))]
        for row, base in enumerate(metered.base):
            powers = {imports[row]: 1.0, exports[row]: -1.0}
            for index, store in enumerate(metered.storing):
                if store.row == row:
                    powers |= {self.blocks["o", index]: 1.0, self.blocks["w", index]: -1.0}
            powers |= {self.blocks["s", at]: 1.0 for at, where in enumerate(metered.sun_row) if where == row}
            self.bound.add({column: -part for column, part in powers.items()}, -base)
            rated = sum(store.store.rated_kw for store in metered.storing if store.row == row)
            shining = sum(sun for sun, where in zip(metered.sun_ac, metered.sun_row) if where == row)
            self._limit("i", row, 0.0, np.maximum(base, 0.0) + rated)
            self._limit("x", row, 0.0, np.maximum(-base, 0.0) + rated + shining)
            self.costs[imports[row] : imports[row] + self.steps] = metered.price * metered.step_h
            self.costs[exports[row] : exports[row] + self.steps] = -metered.export_price * metered.step_h
        self.bound.add(dict.fromkeys(exports, 1.0), metered.paid_kw)
        if metered.demand > 0:
            self.bound.add(dict.fromkeys(imports, 1.0), 0.0, peak=self.peak)

    def balances(self, at: int) -> list[int]:
        """The rows that keep the energies of the batteries in a step."""
        return [index * self.steps + at for index in range(len(self.metered.storing))]

    def solved(self) -> OptimizeResult:
        """The least cost and its duals. Raises ArithmeticError where HiGHS finds none."""
        most, limits = self.bound.matrix(self.width)
        equal, right = self.equal.matrix(self.width)
        result: OptimizeResult = linprog(
            self.costs,
            A_ub=cast(Any, most),
            b_ub=limits,
            A_eq=cast(Any, equal),
            b_eq=right,
            bounds=cast(Any, np.column_stack([self.least, self.most])),
            method="highs-ds",
            options={"simplex_dual_edge_weight_strategy": "dantzig"},
        )
        if result.status:
            raise ArithmeticError(f"the programme of {self.steps} steps: {result.message}")
        return result


class _Rows:
    """Rows of a programme, added for all steps at once."""

    def __init__(self, steps: int) -> None:
        self.steps, self.count = steps, 0
        self.parts: list[tuple[Ints, Ints, Floats]] = []
        self.right: list[Floats] = []

    def add(
        self,
        powers: dict[int, float],
        right: float | Floats,
        *,
        before: tuple[int, int] | None = None,
        peak: int | None = None,
    ) -> None:
        """A row for each step, of blocks and their factors; `before` is a block whose last step's value goes
        off, and the column of the value before the first; `peak` a column that goes off each."""
        rows = np.arange(self.count, self.count + self.steps)
        for column, factor in powers.items():
            self._part(rows, column + np.arange(self.steps), factor)
        if before is not None:
            earlier = before[0] + np.arange(self.steps) - 1
            earlier[0] = before[1]
            self._part(rows, earlier, -1.0)
        if peak is not None:
            self._part(rows, np.full(self.steps, peak), -1.0)
        self.right.append(np.broadcast_to(np.asarray(right, dtype=float), (self.steps,)))
        self.count += self.steps

    def _part(self, rows: Ints, columns: Ints, factor: float) -> None:
        self.parts.append((rows, columns, np.full(self.steps, float(factor))))

    def matrix(self, width: int) -> tuple[csr_array, Floats]:
        """The rows as a sparse matrix, and their right sides."""
        rows, columns, factors = (np.concatenate(part) for part in zip(*self.parts))
        made = coo_array((factors, (rows, columns)), shape=(self.count, width))
        return made.tocsr(), np.concatenate(self.right)
