"""A year in brief: its few figures, and what surplus loads ask of it."""

import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, cast

import numpy as np

from lodestaff.energy.calendar import Floats
from lodestaff.energy.dispatch import Converter
from lodestaff.job import Job
from lodestaff.reckoning import selectors


@dataclass(frozen=True)
class Brief:
    """Shares, money, and energy that the sun had and nobody took; without a grid what stayed unserved and the
    generator's hours, and no bill."""

    self_sufficiency: float
    bill: float | None
    curtailed_kwh: float
    unserved_kwh: float | None = None
    generator_h: float | None = None


@dataclass(frozen=True)
class Made:
    """A year's figures, with its series by unit and step and what each phase takes of the grid, kW and kWh.

    The series lie in the thread's own room, until its next year."""

    brief: Brief
    pv_ac: Floats
    curtailed: Floats
    energy: Floats
    grid: Floats


Run = Callable[[tuple[Converter, ...], Floats], Made]  # with what surplus loads take, shape (load, step)


class Room:
    """Arrays that each thread writes one year over the other into."""

    def __init__(self) -> None:
        self._mine = threading.local()

    def of(self, name: str, *shape: int) -> Floats:
        """An array of this shape, with whatever was left in it."""
        kept = getattr(self._mine, name, None)
        if kept is None or kept.shape != shape:
            kept = np.zeros(shape)
            setattr(self._mine, name, kept)
        return cast(Floats, kept)


def drawn_of(job: Job, takers: tuple[int, ...]) -> Floats:
    """What part of each surplus load (circuits by number) is drawn on a phase, shape (phase, load)."""
    onto = np.zeros((len(selectors.energy_phases(job)), len(takers)))
    for at, number in enumerate(takers):
        circuit = job.circuits[number]
        for leg in circuit.legs:
            onto[selectors.phase_index(job, leg), at] += 1.0 / len(circuit.legs)
    return onto


def feeding_of(units: tuple[Converter, ...], phases: int) -> tuple[Any, Floats]:
    """How units feed phases, as `grid_into` takes it, and own use by phase, kW."""
    from lodestaff.energy.sums import Feeding

    part, own, unequal = np.zeros((phases, len(units))), np.zeros(phases), np.zeros(len(units))
    for at, unit in enumerate(units):
        for phase in unit.phases:
            part[phase, at] = 1.0 / len(unit.phases)
            own[phase] += unit.own_use_kw / len(unit.phases)
        if unit.also and unit.unequal:
            unequal[at] = unit.rated_kw / len(unit.phases)
    return Feeding(part, unequal), own
