"""The ordinary installation written out: what the short decisions of a job stand for, part by part."""

from dataclasses import dataclass

from lodestaff.job import Job, Unit
from lodestaff.job.plan import Board, Electrode, Placed, Throw, Transformer
from lodestaff.job.plan_fits import BLOCK


@dataclass(frozen=True)
class Plan:
    """Everything that is placed: units with their feeds, and parts."""

    units: tuple[Unit, ...]
    parts: tuple[Placed, ...]


def normalised(job: Job) -> Plan:
    """A job's parts; where it has none of its own, those that its short decisions stand for."""
    if job.parts:
        usual = BLOCK if job.mains.grid else ""
        fed = (unit if unit.fed_from else unit.model_copy(update={"fed_from": usual}) for unit in job.units)
        return Plan(tuple(fed), job.parts)
    words, wiring = job.pack.all_words, job.wiring
    old = Board(id="board", name=f"Old {words['board']}", fed_from=BLOCK, holds="rest", feed="none")
    parts: list[Placed] = [old]
    units: list[Unit] = []
    for unit in job.units:
        relay = wiring.bond_place == "unit relay"
        units.append(unit.model_copy(update={"fed_from": BLOCK, "bond": "relay" if relay else "none"}))
        if job.sheet_of(unit).transfer:
            parts += _essential(job, unit)
    if wiring.electrode and job.units:
        name = f"{words['earth'].capitalize()} electrode"
        parts.append(
            Electrode(id="electrode", name=name, at=job.units[0].id, ohm=job.site.supply.electrode_ohm)
        )
    if job.mains.grid:
        first = job.units[0].id
        parts.append(
            Transformer(
                id=f"{first}-ct",
                name="Supply CT",
                on=("main-isolator",),
                serves=first,
                watches="whole site",
                proves_limit=True,
            )
        )
    return Plan(tuple(units), tuple(parts))


def _essential(job: Job, unit: Unit) -> list[Placed]:
    """The board that a unit's backup port feeds, with the bypass around the unit."""
    words, wiring, u = job.pack.all_words, job.wiring, unit.id
    parts: list[Placed] = []
    feed = f"{u}:backup"
    if wiring.bypass:
        parts.append(
            Throw(
                id=f"{u}-bypass",
                name=words["bypass"].capitalize(),
                use="bypass",
                first=feed,
                second=BLOCK,
                phases=unit.phase,
                rated_a=job.sheet_of(unit).pass_through_a,
            )
        )
        feed = f"{u}-bypass"
    parts.append(
        Board(
            id=f"{u}-essential",
            name=words["essential_board"].capitalize(),
            fed_from=feed,
            phases=unit.phase,
            holds="essential",
            main="rcd" if wiring.essential_rcd else "none",
            feed="none",
            link=wiring.bond_place == "essential board",
        )
    )
    return parts
