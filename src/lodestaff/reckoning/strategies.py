"""Ways of backup for one job side by side: whole building, essential board, emergency outlet, board and
interlock.

Each is a set of circuits on the same units, batteries and sun. What trips, how long each lasts, what it
costs.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from lodestaff.electrical.choose import Candidate, HoldLimits, broken
from lodestaff.energy.calendar import MONTH_NAMES, STEP_H, STEPS_PER_DAY, Floats, month_of_step
from lodestaff.energy.outage import island_of, ride_horizon_h, ride_through
from lodestaff.energy.records import Island, OutageArrays
from lodestaff.job import Choice, Circuit, Job, Role, Unit
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.going import may_go_on
from lodestaff.reckoning.proposal import best_set, worth
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.shelf.prices import PriceBook

Name = Literal["whole building", "essential board", "emergency outlet", "board and interlock"]
NAMES: tuple[Name, ...] = ("whole building", "essential board", "emergency outlet", "board and interlock")
PARTS: dict[Name, tuple[str, ...]] = {
    "whole building": ("gateway",),
    "essential board": ("backup-board",),
    "emergency outlet": ("outlet",),
    "board and interlock": ("backup-board", "interlock"),
}
FIXED_HOURS = {"gateway": "hours_per_gateway", "backup-board": "hours_per_backup_board",
               "outlet": "hours_per_outlet",
               "interlock": "hours_per_interlock"}  # fmt: skip


@dataclass(frozen=True)
class Trip:
    """When the source would trip: hours of a year, the worst month, the commonest hour, and what runs
    then."""

    hours_year: float
    month: str
    hour: int
    circuits: tuple[str, ...]
    reason: str  # "overload", "start" or ''


@dataclass(frozen=True)
class Strategy:
    """One way: who is fed, what trips, hours that it lasts in each month, what passes the unit, what it
    costs.

    `full_h` begins with a full battery, `reserve_h` with the reserve alone; both are the pack's percentile
    over all
    hours at which an outage may begin, by month, and go by energy: loads are kept under the rating by people.
    """

    name: Name
    held: tuple[str, ...]
    shed: tuple[str, ...]
    dead: tuple[str, ...]
    by_hand: tuple[str, ...]
    moved: int
    trip: Trip
    full_h: tuple[float, ...]
    reserve_h: tuple[float, ...]
    horizon_h: float
    passes_a: float | None
    rated_pass_a: float | None
    labour_h: float
    cost: float | None  # labour and parts without tax; None where a price is open
    open_prices: tuple[str, ...]


@dataclass(frozen=True)
class Strategies:
    """All ways for a job, and the percentile of their hours."""

    strategies: tuple[Strategy, ...]
    percentile: float
    wanted_h: float
    currency: str


def compare_strategies(reckoner: Reckoner, job: Job, book: PriceBook | None = None) -> Strategies:
    """Reckon all ways. Raises JobError where no unit holds an outage, or where there is no grid that could
    fail."""
    if not job.mains.grid:
        raise JobError(
            "no grid: there is no backup to choose, all hangs on the units",
            "backup",
            "split the circuits at Loads, and size what carries them",
        )
    leads = [
        unit
        for unit in job.units
        if job.bank_of(unit) is not None
        and job.sheet_of(unit).forms_island
        and reckoner.backed(job, unit).forming[:1] in ((), (unit,))
    ]
    if not leads:
        raise JobError(
            "no unit with a battery forms an island", "backup", "give one a battery and a board to feed"
        )
    mine = _dealt(reckoner, job, leads)
    return Strategies(
        tuple(_strategy(reckoner, job, name, mine, book or PriceBook()) for name in NAMES),
        job.pack.value("ride_through_percentile").value,
        job.wishes.outage_h,
        (book or PriceBook()).currency,
    )


def _dealt(reckoner: Reckoner, job: Job, leads: list[Unit]) -> list[tuple[Unit, tuple[Circuit, ...]]]:
    """The circuits of each unit's side: those on its boards, and the rest that its legs can carry, in turn
    by load."""
    inside = {island.forming[0]: set(island.circuits) for island in reckoner.wiring(job).islands}
    taken: dict[str, list[Circuit]] = {unit.id: [] for unit in leads}
    rest = []
    for c in job.circuits:
        if c.role is Role.SURPLUS:
            continue
        owner = next((unit for unit in leads if c.id in inside.get(unit.id, set())), None)
        taken[owner.id].append(c) if owner is not None else rest.append(c)
    for c in sorted(rest, key=lambda circuit: -circuit.running_kva):
        able = [unit for unit in leads if set(c.legs) <= _legs(reckoner, job, unit)]
        if able:
            least = min(able, key=lambda unit: sum(name.running_kva for name in taken[unit.id]))
            taken[least.id].append(c)
    return [(unit, tuple(taken[unit.id])) for unit in leads]


def _legs(reckoner: Reckoner, job: Job, unit: Unit) -> set[str]:
    return {leg for member in reckoner.backed(job, unit).forming or (unit,) for leg in member.legs}


def _sets(
    reckoner: Reckoner, job: Job, name: Name, unit: Unit, circuits: tuple[Circuit, ...]
) -> tuple[list[Circuit], ...]:
    """Held, shed first, and to be switched off by hand."""
    essential = [c for c in circuits if c.role is Role.HELD]
    if not essential and not any(
        c.role is Role.HELD for c in job.circuits
    ):  # nothing is decided yet: the best set
        essential = list(best_set(reckoner, job, (unit,), circuits))
    shed = [c for c in circuits if c.role is Role.SHED]
    if name == "whole building":
        rest = [c for c in circuits if c.role is Role.GRID and c.kind != "car charger" and c not in essential]
        return [*essential, *rest], shed, [c for c in rest if c.kind == "heating" or c.running_kva > 1.0]
    if name == "emergency outlet":
        return _on_outlet(job, unit, circuits), [], []
    big = (
        [c for c in circuits if c.role in (Role.GRID, Role.LOCKED) and c not in essential]
        if name == "board and interlock"
        else []
    )
    return essential, shed, big


def _on_outlet(job: Job, unit: Unit, circuits: tuple[Circuit, ...]) -> list[Circuit]:
    """What one outlet or a contactor for two circuits holds: the two worth most that its rating carries."""
    volts = job.pack.value("nominal_v").value
    most = min(job.pack.value("outlet_a").value * volts / 1000, job.sheet_of(unit).rated_kva)
    free = [c for c in circuits if len(c.legs) == 1 and c.kind != "car charger" and c.role is not Role.LOCKED]
    ranked = sorted(free, key=lambda c: (-worth(c), c.running_kva))[:12]
    best: list[Circuit] = []
    for first in range(len(ranked)):
        for second in range(first, len(ranked)):
            pair = [ranked[first]] if first == second else [ranked[first], ranked[second]]
            ones = tuple(
                Candidate(c.id, worth(c), power=(), running=c.running_kva, start=c.start_kva, energy_kwh=0.0)
                for c in pair
            )
            fits = not broken(ones, HoldLimits((), most, job.sheet_of(unit).surge_kva, np.inf))
            if fits and sum(map(worth, pair)) > sum(map(worth, best)):
                best = pair
    return best


def _strategy(
    reckoner: Reckoner, job: Job, name: Name, mine: list[tuple[Unit, tuple[Circuit, ...]]], book: PriceBook
) -> Strategy:
    held: list[Circuit] = []
    shed: list[Circuit] = []
    hand: list[Circuit] = []
    trips: list[Trip] = []
    full: list[list[float]] = []
    reserve: list[list[float]] = []
    horizon = ride_horizon_h(job.wishes.outage_h)
    percent = job.pack.value("ride_through_percentile").value
    for unit, circuits in mine:
        may_go_on()
        on, off_first, by_hand = _sets(reckoner, job, name, unit, circuits)
        arrays = reckoner.island_with(job, unit, tuple(on), tuple(off_first))
        converter = reckoner.joint(job, unit)
        bank = converter.battery
        assert bank is not None
        trips.append(_trip(reckoner, job, arrays, island_of(converter), on))
        by_energy = reckoner.island_units(job, unit, energy_only=True)
        for hours, soc in ((full, bank.top_soc), (reserve, bank.reserve_soc)):
            ride = ride_through(arrays, by_energy, soc * bank.capacity_kwh, horizon)
            hours.append([ride.percentile_h(month, percent) for month in range(12)])
        held, shed, hand = [*held, *on], [*shed, *off_first], [*hand, *by_hand]
    fed = {c.id for c in (*held, *shed)}
    passes, rated = _passing(reckoner, job, name, mine)
    moved = 0 if name in ("whole building", "emergency outlet") else len(fed)
    labour, cost, missing = _cost(job, name, moved, len(mine), book)
    return Strategy(
        name,
        tuple(c.id for c in held),
        shed=tuple(c.id for c in shed),
        dead=tuple(c.id for c in job.circuits if c.id not in fed),
        by_hand=tuple(c.id for c in hand),
        moved=moved,
        trip=max(trips, key=lambda trip: trip.hours_year),
        full_h=_least(full),
        reserve_h=_least(reserve),
        horizon_h=horizon,
        passes_a=passes,
        rated_pass_a=rated,
        labour_h=labour,
        cost=cost,
        open_prices=missing,
    )


def _least(hours: list[list[float]]) -> tuple[float, ...]:
    """The shortest of the units' hours in each month."""
    return tuple(float(least) for least in np.min(np.array(hours), axis=0))


def _trip(reckoner: Reckoner, job: Job, arrays: OutageArrays, island: Island, held: list[Circuit]) -> Trip:
    """Steps of the year in which the held circuits alone exceed the unit, or the battery beside that hour's
    sun."""
    kw = arrays.kw[0]
    missing = kw + island.k1 * kw + island.k2 * kw**2 - np.minimum(arrays.sun, island.pv_max_kw)
    over = (
        (arrays.running[0] > island.rated_kva)
        | (kw > island.rated_kw)
        | (missing > island.discharge_kw * (1 + 1e-12))
    )
    start = (arrays.peak[0] > island.surge_kva) & ~over
    bad = over | start
    if not bad.any():
        return Trip(0.0, "", 0, (), "")
    months = np.bincount(month_of_step()[bad], minlength=12)
    hours = np.bincount((np.flatnonzero(bad) % STEPS_PER_DAY) // 4, minlength=24)
    first = int(np.flatnonzero(bad)[np.argmax(arrays.running[0][bad])])
    running = sorted(
        (c for c in held if reckoner.circuit_kw(job, c)[first] > 0), key=lambda c: -c.running_kva
    )
    return Trip(
        float(bad.sum() * STEP_H),
        MONTH_NAMES[int(np.argmax(months))],
        int(np.argmax(hours)),
        tuple(c.id for c in running[:4]),
        "overload" if over.any() else "start",
    )


def _passing(
    reckoner: Reckoner, job: Job, name: Name, mine: list[tuple[Unit, tuple[Circuit, ...]]]
) -> tuple[float | None, float | None]:
    """The year's highest current through a unit with the grid, and its rating; of the unit with the least
    margin."""
    if name == "emergency outlet" or not job.mains.grid:
        return None, None
    points = []
    volts = job.pack.value("nominal_v").value
    for unit, circuits in mine:
        whole = name in ("whole building", "board and interlock")
        through = [c for c in circuits if whole or c.role in (Role.HELD, Role.SHED)]
        by_leg: list[Floats] = [
            np.sum(
                [reckoner.circuit_kw(job, c) / len(c.legs) for c in through if leg in c.legs]
                or [np.zeros(1)],
                axis=0,
            )
            for leg in unit.legs
        ]
        peak = max(float(leg_kw.max()) for leg_kw in by_leg) * 1000 / volts
        points.append((peak, job.sheet_of(unit).pass_through_a))
    return max(points, key=lambda pair: pair[0] / pair[1])


def _cost(
    job: Job, name: Name, moved: int, units: int, book: PriceBook
) -> tuple[float, float | None, tuple[str, ...]]:
    """Hours of labour, and money where every price is known."""
    hours = moved * job.pack.value("hours_per_moved_circuit").value
    hours += units * sum(job.pack.value(FIXED_HOURS[part]).value for part in PARTS[name])
    missing = [] if book.labour_per_hour is not None else ["labour"]
    total = hours * (book.labour_per_hour or 0.0)
    for part in PARTS[name]:
        price = book.price(part)
        if price is None:
            missing.append(part)
        else:
            total += units * price[0]
    return hours, None if missing else total, tuple(missing)


def as_choice(
    job: Job, strategies: Strategies, chosen: Name, why: str = "", by: str = "", date: str = ""
) -> Choice:
    """A record of what was offered and chosen.

    Advised is the way that holds most of those that hold everything with a wish or a treatment on it, never
    trip in the year and ask nothing of people's hands.
    """
    offered = "; ".join(
        f"{strategy.name}: {plain(min(strategy.reserve_h), 0)} h on the reserve in the worst month"
        for strategy in strategies.strategies
    )
    must = {c.id for c in job.circuits if c.role is Role.HELD and (c.wish or c.care != "none")}
    quiet = [
        strategy
        for strategy in strategies.strategies
        if strategy.trip.hours_year == 0 and not strategy.by_hand and must <= set(strategy.held)
    ]
    advised = max(quiet, key=lambda strategy: len(strategy.held), default=None)
    taken = {choice.id for choice in job.choices}
    number = next(n for n in range(1, 1000) if f"backup-{n}" not in taken)
    return Choice(
        id=f"backup-{number}",
        about="Way of backup",
        offered=offered[:400],
        advised=advised.name if advised else "",
        chosen=chosen,
        why=why,
        by=by,
        date=date,
    )
