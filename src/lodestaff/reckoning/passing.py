"""What passes each conductor and device in a state of a job's wiring."""

import math

from lodestaff.commissioning.shares import Share, shares
from lodestaff.job import Job
from lodestaff.job.plan import Generator
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.wired import Wiring
from lodestaff.topology import Answer
from lodestaff.topology.flows import Flows
from lodestaff.topology.model import GRID


def passing(wiring: Wiring, job: Job, answer: Answer) -> Flows:
    """Currents with every circuit running, batteries charging, and no source giving more than it can."""
    told = shares(job, wiring.topology)
    return wiring.flows(
        answer,
        circuits_kva=tuple((circuit.id, circuit.running_kva) for circuit in job.circuits),
        nominal_v=job.pack.value("nominal_v").value,
        charging_kva=tuple((name, share.charge_kw) for name, share in told.items()),
        gives_a=_gives(wiring, job),
        leaves_a=_leaves(job, told),
        pair=pair_factor(job),
    )


def pair_factor(job: Job) -> float:
    """How much more flows to what stands between two legs than its half of both: 1 where they are half a turn
    apart, 2 / sqrt(3) where a third. Derived."""
    return 1.0 if job.mains.system == "120/240 V" else 2 / math.sqrt(3)


def on_leg_a(job: Job, kva: float, legs: int) -> float:
    """The current of a rating on each of its legs, A."""
    return kva * 1000 / legs / job.pack.value("nominal_v").value * (pair_factor(job) if legs == 2 else 1.0)


def _leaves(job: Job, told: dict[str, Share]) -> tuple[tuple[str, float], ...]:
    """What may go out to the grid on each phase, A: all that units give, but of one that obeys a transformer
    no more than it is told to let out: nothing, or its sun."""
    amps = dict.fromkeys(job.site.phases, 0.0)
    for unit in job.units:
        kva = job.sheet_of(unit).rated_kva
        if told[unit.id].obeys and unit.exports != "sun and battery":
            sunlit = unit.exports == "sun only" and any(
                job.modules_in(string.id) for string in job.strings if string.unit == unit.id
            )
            kva = kva if sunlit or job.sheet_of(unit).module_level else 0.0
        for leg in unit.legs:
            if leg in amps:
                amps[leg] += on_leg_a(job, kva, len(unit.legs))
    return tuple(amps.items())


def _gives(wiring: Wiring, job: Job) -> tuple[tuple[str, float], ...]:
    """By what leads a network, A on each leg: the service's rating, and what generators and units are rated
    for."""
    service = job.site.supply.rating_a.value
    amps = [
        (source.part, service)
        for source in wiring.topology.sources
        if source.kind == GRID and service is not None
    ]
    for unit in job.units:
        amps.append((unit.id, on_leg_a(job, job.sheet_of(unit).rated_kva, len(unit.legs))))
    for part in job.parts:
        if isinstance(part, Generator):
            legs = len(part.phases.split("+")) if part.phases else len(job.site.phases)
            amps.append((part.id, on_leg_a(job, part.rated_kva, legs)))
    return tuple(amps)


def flowing(reckoner: Reckoner, job: Job) -> tuple[tuple[Answer, Flows], ...]:
    """The standard states in which anything flows, with what passes: a unit that failed or is off among
    them."""
    wiring = reckoner.wiring(job)
    return reckoner.of_job(
        "flowing",
        job,
        lambda: tuple(
            (answer, passing(wiring, job, answer)) for answer in wiring.answers if any(answer.fed.values())
        ),
    )
