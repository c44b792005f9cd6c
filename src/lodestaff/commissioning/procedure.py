"""The procedure: steps in order with what they wait for, cautions in place, and the rule for each reading."""

from collections.abc import Iterable

from lodestaff.commissioning.bond_steps import dead_bond_steps, grid_bond_steps
from lodestaff.commissioning.ct_steps import ct_steps
from lodestaff.commissioning.function_steps import released_steps, shutdown_steps, unit_steps
from lodestaff.commissioning.limit_steps import limit_steps
from lodestaff.commissioning.meter_steps import meter_steps
from lodestaff.commissioning.outage_steps import outage_steps
from lodestaff.commissioning.rules import Confirmed
from lodestaff.commissioning.start_steps import Starts
from lodestaff.commissioning.step import Step
from lodestaff.commissioning.string_steps import dead_string_steps, live_string_steps
from lodestaff.commissioning.supply_steps import dead_steps, setting_steps, supply_steps
from lodestaff.commissioning.type_steps import type_steps
from lodestaff.commissioning.wiring_steps import leg_steps, residual_steps, supply_tests
from lodestaff.electrical.permission import held_back
from lodestaff.job import Job
from lodestaff.topology import Topology

__all__ = ["Step", "procedure"]


def procedure(job: Job, topology: Topology, absent: Iterable[str] = ()) -> tuple[Step, ...]:
    """The steps of a job: dead tests, strings, what wakes the units, settings, the grid, function, outage.

    Only what stands there is asked for. `absent` names strings that are not in yet: their steps stay open,
    and the power of a tracker is expected from those that are.
    """
    away = frozenset(absent)
    steps = [*dead_steps(job, topology), *type_steps(job), *dead_bond_steps(job, topology)]
    steps += dead_string_steps(job, away)
    dead = tuple(step.id for step in steps if not step.needs)
    steps += live_string_steps(job, away)
    tested = tuple(step.id for step in steps if step.stage == "strings" and not step.needs)
    ready = (*dead, *tested)
    supply = supply_steps(job, ready)
    supply += supply_tests(job, topology, ready)
    supply += leg_steps(job, topology, tuple(step.id for step in supply) or ready)
    steps += supply
    starts = Starts(job, topology, tuple(step.id for step in supply) or ready)
    awake = starts.before()
    steps += awake
    steps.append(_software(job, tuple(step.id for step in (*supply, *awake)) or ready))
    steps += setting_steps(job, topology, "software")
    steps += starts.after(steps[-1].id)
    running = tuple(step.id for step in steps if step.topic == "start")
    steps += ct_steps(job, topology, running)
    proven = (*running, *(step.id for step in steps if step.topic == "transformer" and not step.needs))
    works = grid_bond_steps(job, topology, proven)
    works += residual_steps(job, topology, proven)
    works += released_steps(job, topology, proven)
    works += unit_steps(job, topology, proven, away)
    works += meter_steps(job, topology, proven)
    works += limit_steps(job, topology, (*proven, *(step.id for step in works if not step.needs)))
    works += shutdown_steps(job, topology, proven)
    steps += works
    done = (*proven, *(step.id for step in works if not step.needs))
    if held_back(job):  # until it is permitted only the island may run: it waits for nothing beside the grid
        done = tuple(step.id for step in steps if step.topic == "start" and not step.needs) or ("software",)
    steps += outage_steps(job, topology, done)
    return tuple(steps)


def _software(job: Job, before: tuple[str, ...]) -> Step:
    return Step(
        "software",
        "settings",
        "Software first, before anything is set; begun with time to spare.",
        Confirmed(),
        before,
        proves=tuple(unit.id for unit in job.units),
    )
