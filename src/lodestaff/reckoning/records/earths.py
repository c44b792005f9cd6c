"""Records for the earths of islands and of further buildings."""

from collections.abc import Iterator
from typing import Any

from lodestaff.checks.electrode import BuildingEarth, Electrode
from lodestaff.checks.finding import Remedy, cure
from lodestaff.job import Fact, Job
from lodestaff.job.address import address
from lodestaff.job.plan import Board
from lodestaff.job.plan import Electrode as ElectrodePart
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes


@makes
def electrodes(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Electrode]:
    """Asked where an island is formed: it needs an earth of its own where the neutral is opened, or where
    no grid is."""
    asked, off_grid = reckoner.asked(job), not job.mains.grid
    if not asked.has_backup:
        return
    forming = {name for island in asked.islands for name in island.forming}
    opening = [
        unit
        for unit in job.units
        if job.sheet_of(unit).transfer and job.sheet_of(unit).neutral_switched and unit.id in forming
    ]
    gateways = [part for part in job.parts if part.kind == "gateway" and part.neutral_switched]
    at = gateways[0].id if gateways else (opening or list(job.units))[0].id
    yield Electrode(
        site=job.site,
        planned=job.has_electrode,
        needed=bool(opening or gateways) or off_grid,
        pack=job.pack,
        off_grid=off_grid,
        cures=_plan_electrode(job, at),
    )


def _plan_electrode(job: Job, at: str) -> tuple[Remedy, ...]:
    if not job.parts:
        return cure("Plan an electrode at the changeover", "wiring/electrode", True)
    ids = {part.id for part in job.parts}
    part = ElectrodePart(
        id="electrode" if "electrode" not in ids else f"electrode-at-{at}"[:40],
        name=f"{job.pack.word('earth').capitalize()} electrode",
        at=at,
    )
    parts = [*(part.model_dump(mode="json") for part in job.parts), part.model_dump(mode="json")]
    return cure(
        "Plan an electrode at the changeover" if job.mains.grid else "Plan an electrode", "parts", parts
    )


@makes
def building_earths(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[BuildingEarth]:
    """Every board that stands in a building of its own."""
    rods = {address(part.at).part: part for part in job.parts if isinstance(part, ElectrodePart)}
    cables = {cable.id: cable for cable in job.cables}
    for board in job.parts:
        if not isinstance(board, Board) or not board.building:
            continue
        rod, feed = rods.get(board.id), cables.get(f"{board.id}-feed")
        yield BuildingEarth(
            id=board.id,
            name=board.name,
            building=board.building,
            pack=job.pack,
            earthing=job.site.supply.earthing,
            electrode=rod.name if rod is not None else "",
            ohm=rod.ohm if rod is not None else Fact[Any](),
            guarded=board.main == "rcd" or (feed is not None and feed.rcd_ma is not None),
            cures=_plan_electrode(job, board.id),
        )
