"""Boards that sources feed: what stands on their busbars."""

from collections.abc import Iterator
from typing import Any

from lodestaff.checks.busbar import Busbar
from lodestaff.job import Fact, Job
from lodestaff.job.plan import Board
from lodestaff.reckoning.passing import flowing
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.topology import Topology


@makes
def busbars(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Busbar]:
    """Every board through whose busbar a unit gives back towards the supply."""
    wiring = reckoner.wiring(job)
    topology, cables = wiring.topology, {cable.id: cable for cable in job.cables}
    plans = {part.id: part for part in job.parts if isinstance(part, Board)}
    given = _given(reckoner, job)
    before = reckoner.wiring(job).before
    for place in wiring.boards:
        source_a = given.get(place.id, 0.0)
        if source_a <= 0:
            continue
        own_feed = f"{place.id}-feed"
        feeds = list(_feeds(topology, place.id))
        sources = tuple(
            (unit.name, cables[run].device_a if run in cables else None)
            for unit in job.units
            if (run := f"{unit.id}-feed") in before and own_feed in before[run]
        )
        branches = _branches(job, place.circuits, feeds, {f"{unit.id}-feed" for unit in job.units})
        main = cables.get(own_feed)
        plan = plans.get(place.id)
        yield Busbar(
            id=place.id,
            name=place.name,
            pack=job.pack,
            rated=plan.busbar_a if plan is not None else Fact[float](),
            main_a=main.device_a if main is not None else None,
            main="the device of its feed",
            source_a=source_a,
            sources=sources or (("sources beyond", None),),
            branches=branches,
            far_end=plan.sources_sit if plan is not None else Fact[Any](),
            main_path=f"cables/{own_feed}/device_a" if main is not None else "",
        )


def _given(reckoner: Reckoner, job: Job) -> dict[str, float]:
    """By board the most that goes back from it towards the supply on one leg, A, over all states."""
    wiring, amps = reckoner.wiring(job), dict[str, float]()
    into = {conductor.id: conductor.b[0] for conductor in wiring.topology.conductors}
    boards = {place.id for place in wiring.boards}
    for answer, flow in flowing(reckoner, job):
        if not answer.state.grid_present:
            continue
        for name, through in flow.conductors.items():
            if into[name] in boards:
                amps[into[name]] = max(amps.get(into[name], 0.0), through.source_a)
    return amps


def _feeds(topology: Topology, board: str) -> tuple[str, ...]:
    """Runs that leave a board."""
    return tuple(
        dict.fromkeys(
            conductor.run for conductor in topology.conductors if conductor.a[0] == board and conductor.run
        )
    )


def _branches(
    job: Job, circuits: tuple[str, ...], feeds: list[str], sources: set[str]
) -> tuple[float, ...] | None:
    """Devices of circuits and feeders on a board, those of sources left out; None where one isn't known."""
    cables = {cable.id: cable for cable in job.cables}
    devices = [job.circuit(name).device_a.value for name in circuits]
    devices += [cables[run].device_a if run in cables else None for run in feeds if run not in sources]
    known = tuple(amps for amps in devices if amps is not None)
    return known if len(known) == len(devices) else None
