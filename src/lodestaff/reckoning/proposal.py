"""The best split for a unit: what to hold by people's priorities, what is left out and why, what more would
let in.

It is proposed by means and sums, judged by the checks of Loads themselves, and tightened until they pass.
"""

from dataclasses import dataclass, replace

import numpy as np

from lodestaff.electrical.choose import Candidate, Choice, HoldLimits, choose
from lodestaff.electrical.split import derating
from lodestaff.energy.night import by_month, discharge_share, evening_need_kwh, usable_kwh
from lodestaff.job import Change, Circuit, Job, Role, Unit, edit
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.findings import answers
from lodestaff.reckoning.reckoner import Reckoner

JUDGES = ("LOAD-CONT: held", "LOAD-SURGE: start", "LOAD-ENERGY")
STAGGER = "LOAD-SURGE: restart"
ROUNDS = 12
BY_ROLE = {
    Role.HELD: 6.0,
    Role.SHED: 4.0,
    Role.GRID: 1.0,
}  # worth where nobody gave a priority; common practice
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


def propose(reckoner: Reckoner, job: Job, unit: Unit) -> Proposal:
    """The exact best set for the island that a unit forms. Raises JobError where it forms none, or where what
    must be held does not fit."""
    backed = reckoner.backed(job, unit)
    if not backed.forming:
        raise JobError(
            "forms no island, so it holds nothing", f"units {unit.id}", "give it a battery and a board"
        )
    legs = tuple(dict.fromkeys(leg for unit in backed.forming for leg in unit.legs))
    circuits = [c for c in job.circuits if set(c.legs) <= set(legs)]
    if len(reckoner.wiring(job).islands) > 1:  # systems side by side: each chooses among its own
        own = {c.id for c in backed.circuits}
        circuits = [c for c in circuits if c.id in own]
    ones = _candidates(reckoner, job, [c for c in circuits if _free(c)], legs)
    try:
        choice, limits = _judged(reckoner, job, forming=backed.forming, circuits=circuits, ones=ones)
        further = tuple(
            Further(words, tuple(sorted(set(more.chosen) - set(choice.chosen))), more.points)
            for words, wider in _further(reckoner, job, backed.forming, limits)
            if (more := choose(ones, wider)).points > choice.points + 1e-9
        )
    except ValueError as trouble:
        raise JobError(str(trouble), f"units {unit.id}") from trouble
    changes = _changes(job, circuits, choice)
    return Proposal(
        tuple(unit.id for unit in backed.forming),
        limits,
        choice,
        further,
        (*changes, *_apart(reckoner, job, changes, backed.forming[0])),
    )


def _free(c: Circuit) -> bool:
    """Whether a circuit may be proposed: not chargers, not locked ones, no heater to be held that nobody
    wants on it."""
    decided = c.on_battery == "on the battery" or c.care != "none" or c.role is Role.SHED
    if c.on_battery == "never on the battery" or c.role is Role.LOCKED or c.kind == "car charger":
        return False
    return c.kind != "heating" or decided


def _judged(
    reckoner: Reckoner,
    job: Job,
    forming: tuple[Unit, ...],
    circuits: list[Circuit],
    ones: tuple[Candidate, ...],
) -> tuple[Choice, HoldLimits]:
    """The best set that the checks of Loads pass, or the last before nothing more can be left out, with its
    limits.

    Raises ValueError where what must be held doesn't fit the source at all.
    """
    limits = whole = _limits(reckoner, job, forming)
    choice = choose(ones, limits)
    for _ in range(ROUNDS):
        tried = edit(job, *_changes(job, circuits, choice))
        bad = {
            answer.rule: answer
            for answer in answers(reckoner, tried, *JUDGES)
            if answer.owner == forming[0].id and answer.status in ("blocks", "warns")
        }
        if not bad:
            break
        tighter = limits
        for rule, finding in bad.items():
            over = max(1.001, finding.value / finding.limit) if finding.limit else 2.0
            if rule == "LOAD-ENERGY":
                tighter = replace(tighter, energy_kwh=min(limits.energy_kwh, choice.energy_kwh) / over)
            elif rule == "LOAD-SURGE: start":
                room = 1 - job.pack.value("surge_margin_share").value
                tighter = replace(tighter, surge=min(room * whole.surge, _below(choice.peak, limits.surge)))
            else:
                room = 1 - job.pack.value("continuous_margin_share").value
                tighter = replace(tighter, continuous=room * whole.continuous, kw=room * whole.kw)
        try:
            choice, limits = choose(ones, tighter), tighter
        except ValueError:  # what must be held is too much already: the finding says so
            break
    return choice, limits


def _below(taken: float, limit: float) -> float:
    """A limit that this set just breaks: another one is looked for."""
    return min(limit, taken * (1 - 1e-6))


def _apart(reckoner: Reckoner, job: Job, changes: tuple[Change, ...], lead: Unit) -> tuple[Change, ...]:
    """Motors that would restart together against the surge rating, one after the other."""
    findings = [
        answer for answer in answers(reckoner, edit(job, *changes), STAGGER) if answer.owner == lead.id
    ]
    return tuple(change for finding in findings for cure in finding.remedies for change in cure.changes)


def best_set(
    reckoner: Reckoner, job: Job, forming: tuple[Unit, ...], circuits: tuple[Circuit, ...]
) -> tuple[Circuit, ...]:
    """The circuits of most worth that units can hold, chargers and locked ones aside; () where none can
    be."""
    legs = tuple(dict.fromkeys(leg for unit in forming for leg in unit.legs))
    free = [c for c in circuits if _free(c) and set(c.legs) <= set(legs)]
    try:
        choice = choose(_candidates(reckoner, job, free, legs), _limits(reckoner, job, forming))
    except ValueError:
        return ()
    return tuple(c for c in free if c.id in choice.chosen)


def _candidates(
    reckoner: Reckoner, job: Job, circuits: list[Circuit], legs: tuple[str, ...]
) -> tuple[Candidate, ...]:
    """The circuits as they are chosen among: their mean night in the month in which all together take
    most."""
    nights = [by_month(evening_need_kwh(reckoner.circuit_kw(job, c), job.wishes.outage_h)) for c in circuits]
    worst = int(np.argmax(np.sum(nights, axis=0))) if nights else 0
    return tuple(
        Candidate(
            c.id,
            worth(c),
            power=tuple(c.running_kva / len(c.legs) if leg in c.legs else 0.0 for leg in legs),
            running=c.running_kva,
            start=c.start_kva,
            energy_kwh=float(night[worst]),
            must=c.care != "none",
            kw=c.running_w / 1000,
        )
        for c, night in zip(circuits, nights, strict=True)
    )


def _limits(reckoner: Reckoner, job: Job, forming: tuple[Unit, ...]) -> HoldLimits:
    continuous = surge = energy = kw = 0.0
    by_leg: dict[str, float] = {}
    converters = reckoner.converters(job)
    for unit in forming:
        sheet = job.sheet_of(unit)
        ambient = unit.ambient_max_c.value if unit.ambient_max_c.value is not None else 25.0
        share = derating(
            ambient, job.site.altitude_m, sheet.derate_from_c, sheet.derate_pct_per_k, sheet.derate_from_m
        )
        continuous += share * sheet.rated_kva
        kw += share * sheet.rated_kw
        surge += sheet.surge_kva
        for leg in unit.legs:
            by_leg[leg] = by_leg.get(leg, 0.0) + share * sheet.rated_kva / len(unit.legs)
        converter = converters[job.units.index(unit)]
        if converter.battery is not None:
            energy += usable_kwh(converter, discharge_share(converter, 0.0))
    return HoldLimits(tuple(by_leg.values()), continuous, surge, energy, kw)


def _further(
    reckoner: Reckoner, job: Job, forming: tuple[Unit, ...], limits: HoldLimits
) -> list[tuple[str, HoldLimits]]:
    """One more module on each bank; the next larger hybrid of the job's sheets."""
    held = []
    for unit in forming:
        bank = job.bank_of(unit)
        if bank is not None and bank.modules < job.sheets.batteries[bank.sheet].max_modules:
            more = bank.model_copy(update={"modules": bank.modules + 1})
            banks = tuple(more if other.id == bank.id else other for other in job.banks)
            held.append(
                (
                    f"one more module on {unit.name}",
                    _limits(reckoner, job.model_copy(update={"banks": banks}), forming),
                )
            )
        sheet = job.sheet_of(unit)
        larger = [
            hybrid
            for hybrid in job.sheets.hybrids.values()
            if hybrid.rated_kva > sheet.rated_kva and hybrid.phases == sheet.phases
        ]
        if len(forming) == 1 and larger and unit.sheet in job.sheets.hybrids:
            next_one = min(larger, key=lambda size: size.rated_kva)
            grown = next_one.rated_kva / sheet.rated_kva
            wider = replace(
                limits,
                continuous=limits.continuous * grown,
                leg=tuple(leg * grown for leg in limits.leg),
                surge=next_one.surge_kva,
                kw=limits.kw * next_one.rated_kw / sheet.rated_kw,
            )
            held.append((next_one.name, wider))
    return held


def _changes(job: Job, circuits: list[Circuit], choice: Choice) -> tuple[Change, ...]:
    changes = []
    for circuit in circuits:
        held = circuit.id in choice.chosen
        if held and circuit.role is Role.GRID:
            changes.append(Change(f"circuits/{circuit.id}/role", str(Role.HELD)))
        elif not held and circuit.role in (Role.HELD, Role.SHED):
            banned = circuit.kind == "car charger" or circuit.on_battery == "never on the battery"
            changes.append(Change(f"circuits/{circuit.id}/role", str(Role.LOCKED if banned else Role.GRID)))
    return tuple(changes)
