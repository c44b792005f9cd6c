"""What one wiring takes against another: cable, devices, ends to make, hours, hours without power, money."""

from dataclasses import dataclass

from lodestaff.job import Job
from lodestaff.job.plan import Board, Gateway, Throw
from lodestaff.reckoning.costing import design_cost
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.runs import runs
from lodestaff.reckoning.schedules import bought, device_schedule
from lodestaff.shelf.prices import PriceBook
from lodestaff.wiring.terminations import terminations


@dataclass(frozen=True)
class Measure:
    """One thing that a wiring takes; None where it isn't known. Less is better of all of them."""

    name: str
    value: float | None
    unit: str


def wiring_measures(reckoner: Reckoner, job: Job, book: PriceBook | None = None) -> tuple[Measure, ...]:
    """Of a job's wiring; hours are the pack's (common practice), money needs every price."""
    topology, pack = reckoner.wiring(job).topology, job.pack
    lengths = [
        run.cable.length_m * run.pairs if run.cable is not None else None
        for run in runs(reckoner, job, False)
        if run.cable is None or not run.cable.existing
    ]
    known = [length for length in lengths if length is not None]
    devices = bought(topology, device_schedule(reckoner, job).rows)
    ends = [termination for termination in terminations(job, topology) if termination.run]
    gateways = sum(isinstance(part, Gateway) for part in job.parts)
    throws = sum(isinstance(part, Throw) for part in job.parts)
    boards = sum(isinstance(part, Board) and part.holds in ("essential", "named only") for part in job.parts)
    outlets = sum(isinstance(part, Board) and part.outlet for part in job.parts)
    off = gateways * pack.value("hours_per_gateway").value + throws * pack.value("hours_per_interlock").value
    hours = off + (boards - outlets) * pack.value("hours_per_backup_board").value
    hours += outlets * pack.value("hours_per_outlet").value
    costs = design_cost(reckoner, job, book) if book is not None else None
    money = costs.net if costs is not None and not costs.open else None
    return (
        Measure("Cable to pull in", sum(known) if len(known) == len(lengths) else None, "m"),
        Measure("Devices", float(len(devices)), ""),
        Measure("Ends to make off", float(len(ends)), ""),
        Measure("Hours of gateway, boards and changeovers", hours, "h"),
        Measure("of these with the supply off", off, "h"),
        Measure("Cost before tax", money, costs.currency if costs is not None else job.tariff.currency),
    )
