"""Controllers with batteries, as the best possible takes them: what each leads, sees and may sell."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from lodestaff.energy.control import Controller, ranked
from lodestaff.energy.dispatch import Converter, Year
from lodestaff.job import Job, Role
from lodestaff.reckoning.controlling import controllers
from lodestaff.reckoning.reckoner import Reckoner

if TYPE_CHECKING:
    from lodestaff.energy.foresight import Store


@dataclass(frozen=True)
class Group:
    """A controller with batteries: what it sees, and the units that act otherwise than in the year."""

    led: Controller
    members: tuple[int, ...]  # with batteries
    others: tuple[int, ...]  # without, and those of others that it sees
    sells: bool


def groups_of(reckoner: Reckoner, job: Job, year: Year) -> list[Group]:
    """Controllers with batteries; the surplus loads take what they take in the year as it is set."""
    parts = reckoner.parts(job)
    taken = iter(() if year.taken_kw is None else year.taken_kw)
    powers = tuple(
        next(taken) if circuit.role is Role.SURPLUS else reckoner.circuit_kw(job, circuit)
        for circuit in job.circuits
    )
    groups = []
    for led in (
        controller for rank in ranked(controllers(parts.plans, job.circuits, powers)) for controller in rank
    ):
        members = tuple(at for at in led.units if parts.converters[at].battery is not None)
        if members:
            groups.append(
                Group(
                    led,
                    members=members,
                    others=tuple(at for at in (*led.units, *led.sees) if at not in members),
                    sells=any(job.units[at].exports == "sun and battery" for at in members),
                )
            )
    return groups


def store_of(unit: Converter, sells: bool = False) -> "Store":
    """A unit with its battery, as the best possible takes it: down to its reserve."""
    from lodestaff.energy.foresight import Store

    bank = unit.battery
    assert bank is not None
    return Store(
        rated_kw=unit.rated_kw,
        k1=unit.k1,
        k2=unit.k2,
        floor=bank.capacity_kwh * bank.reserve_soc,
        top=bank.capacity_kwh * bank.top_soc,
        charge_kw=bank.charge_kw,
        discharge_kw=bank.discharge_kw,
        eta_in=bank.eta_charge,
        eta_out=bank.eta_discharge,
        taper=bank.capacity_kwh * bank.taper_start_soc,
        taper_end=bank.taper_end_share,
        gives=float(sells),
    )
