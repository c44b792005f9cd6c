"""The best split for a unit: what to hold by people's priorities, what is left out and why, what more would let in."""

from dataclasses import dataclass, replace

import numpy as np

from lodestaff.electrical.choose import Candidate, Choice, HoldLimits, choose
from lodestaff.electrical.split import derating
from lodestaff.energy.battery import bank_energies
from lodestaff.energy.calendar import STEPS_PER_DAY, month_of_step
from lodestaff.job import Change, Circuit, Job, Role, Unit
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.reckoner import Reckoner, evening_need_kwh

EVENING_H = 17.0
BY_ROLE = {Role.HELD: 6.0, Role.SHED: 4.0, Role.GRID: 1.0}  # worth where nobody gave a priority; common practice
WISHED = 10.0


@dataclass(frozen=True)
class Further:
    """What one step more would let in: its words, the circuits gained, the points of the new best set."""

    words: str
    gained: tuple[str, ...]
    points: float


@dataclass(frozen=True)
class Proposal:
    """The best set, as names and as changes; `limits` in kVA and kWh."""

    units: tuple[str, ...]
    limits: HoldLimits
    choice: Choice
    further: tuple[Further, ...]
    changes: tuple[Change, ...]


def worth(circuit: Circuit) -> float:
    """Points of a circuit: its priority, else by wish, care and role."""
    if circuit.priority is not None:
        return float(circuit.priority)
    if circuit.care != "none" or circuit.wish:
        return WISHED
    return BY_ROLE.get(circuit.role, 0.0)


def propose(reckoner: Reckoner, job: Job, unit: Unit, time_limit_s: float = 1.0) -> Proposal:
    """The exact best set for the island that a unit forms. Raises JobError where it forms none, or where what must
    be held does not fit."""
    backed = reckoner.backed(job, unit)
    if not backed.forming:
        raise JobError("forms no island, so it holds nothing", f"units {unit.id}", "give it a battery and a board")
    limits = _limits(reckoner, job, backed.forming)
    legs = tuple(dict.fromkeys(leg for one in backed.forming for leg in one.legs))
    circuits = [
        c for c in job.circuits if c.role is not Role.LOCKED and set(c.legs) <= set(legs) and c.kind != "car charger"
    ]
    if len(reckoner.wiring(job).islands) > 1:  # systems side by side: each chooses among its own
        own = {c.id for c in backed.circuits}
        circuits = [c for c in circuits if c.id in own]
    ones = tuple(_candidate(reckoner, job, circuit, legs) for circuit in circuits)
    try:
        choice = choose(ones, limits, time_limit_s)
        further = tuple(
            Further(words, tuple(sorted(set(more.chosen) - set(choice.chosen))), more.points)
            for words, wider in _further(reckoner, job, backed.forming, limits)
            if (more := choose(ones, wider, time_limit_s)).points > choice.points + 1e-9
        )
    except ValueError as trouble:
        raise JobError(str(trouble), f"units {unit.id}") from trouble
    return Proposal(tuple(one.id for one in backed.forming), limits, choice, further, _changes(job, circuits, choice))


def best_set(
    reckoner: Reckoner, job: Job, forming: tuple[Unit, ...], circuits: tuple[Circuit, ...]
) -> tuple[Circuit, ...]:
    """The circuits of most worth that units can hold, chargers and locked ones aside; () where none can be."""
    legs = tuple(dict.fromkeys(leg for one in forming for leg in one.legs))
    free = [c for c in circuits if c.role is not Role.LOCKED and c.kind != "car charger" and set(c.legs) <= set(legs)]
    try:
        choice = choose(tuple(_candidate(reckoner, job, c, legs) for c in free), _limits(reckoner, job, forming))
    except ValueError:
        return ()
    return tuple(c for c in free if c.id in choice.chosen)


def _candidate(reckoner: Reckoner, job: Job, circuit: Circuit, legs: tuple[str, ...]) -> Candidate:
    power = tuple(circuit.running_kva / len(circuit.legs) if leg in circuit.legs else 0.0 for leg in legs)
    nights = evening_need_kwh(reckoner.circuit_kw(job, circuit), EVENING_H, job.wishes.outage_h)
    months = month_of_step()[::STEPS_PER_DAY]
    night = max(float(np.mean(nights[months == month])) for month in range(12))
    must = circuit.care != "none"
    return Candidate(circuit.id, worth(circuit), power=power, running=circuit.running_kva, start=circuit.start_kva, energy_kwh=night, must=must,
                     kw=circuit.running_w / 1000)  # fmt: skip


def _limits(reckoner: Reckoner, job: Job, forming: tuple[Unit, ...]) -> HoldLimits:
    continuous = surge = energy = kw = 0.0
    by_leg: dict[str, float] = {}
    converters = reckoner.converters(job)
    for unit in forming:
        sheet = job.sheet_of(unit)
        ambient = unit.ambient_max_c.value if unit.ambient_max_c.value is not None else 25.0
        share = derating(ambient, job.site.altitude_m, sheet.derate_from_c, sheet.derate_pct_per_k, sheet.derate_from_m)
        continuous += share * sheet.rated_kva
        kw += share * sheet.rated_kw
        surge += sheet.surge_kva
        for leg in unit.legs:
            by_leg[leg] = by_leg.get(leg, 0.0) + share * sheet.rated_kva / len(unit.legs)
        bank = converters[job.units.index(unit)].battery
        if bank is not None:
            found = bank_energies(
                bank.capacity_kwh,
                1.0,
                floor_soc=bank.floor_soc,
                top_soc=bank.top_soc,
                reserve_soc=bank.reserve_soc,
                eta_discharge=bank.eta_discharge,
            )
            energy += found.cycling_ac_kwh
    return HoldLimits(tuple(by_leg.values()), continuous, surge, energy, kw)


def _further(
    reckoner: Reckoner, job: Job, forming: tuple[Unit, ...], limits: HoldLimits
) -> list[tuple[str, HoldLimits]]:
    """One more module on each bank; the next larger hybrid of the job's sheets."""
    found = []
    for unit in forming:
        bank = job.bank_of(unit)
        if bank is not None and bank.modules < job.sheets.batteries[bank.sheet].max_modules:
            more = bank.model_copy(update={"modules": bank.modules + 1})
            banks = tuple(more if one.id == bank.id else one for one in job.banks)
            found.append(
                (f"one more module on {unit.name}", _limits(reckoner, job.model_copy(update={"banks": banks}), forming))
            )
        sheet = job.sheet_of(unit)
        larger = [
            one for one in job.sheets.hybrids.values() if one.rated_kva > sheet.rated_kva and one.phases == sheet.phases
        ]
        if len(forming) == 1 and larger and unit.sheet in job.sheets.hybrids:
            next_one = min(larger, key=lambda one: one.rated_kva)
            grown = next_one.rated_kva / sheet.rated_kva
            wider = replace(limits, continuous=limits.continuous * grown, leg=tuple(leg * grown for leg in limits.leg),
                            surge=next_one.surge_kva,
                            kw=limits.kw * next_one.rated_kw / sheet.rated_kw)  # fmt: skip
            found.append((next_one.name, wider))
    return found


def _changes(job: Job, circuits: list[Circuit], choice: Choice) -> tuple[Change, ...]:
    changes = []
    for circuit in circuits:
        held = circuit.id in choice.chosen
        if held and circuit.role is Role.GRID:
            changes.append(Change(f"circuits/{circuit.id}/role", str(Role.HELD)))
        elif not held and circuit.role in (Role.HELD, Role.SHED):
            changes.append(Change(f"circuits/{circuit.id}/role", str(Role.GRID)))
    return tuple(changes)
