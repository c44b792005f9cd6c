"""The procedure: steps in order with what they wait for, cautions in place, and the rule for each reading."""

from collections.abc import Iterable

from lodestaff.commissioning.function_steps import function_steps
from lodestaff.commissioning.rules import Confirmed
from lodestaff.commissioning.step import Step
from lodestaff.commissioning.string_steps import dead_string_steps, live_string_steps
from lodestaff.commissioning.supply_steps import dead_steps, setting_steps, start_steps
from lodestaff.job import Job
from lodestaff.topology import Topology

__all__ = ["Step", "procedure"]


def procedure(job: Job, topology: Topology, absent: Iterable[str] = ()) -> tuple[Step, ...]:
    """The steps of a job: dead tests, strings, start in the equipment's order, settings, function, outage.

    `absent` names strings that are not in yet: their steps stay open, and the power of a tracker is expected
    from those that are.
    """
    away = frozenset(absent)
    steps = [*dead_steps(job, topology), *dead_string_steps(job, away)]
    dead = tuple(step.id for step in steps if not step.needs)
    steps += live_string_steps(job, away)
    tested = tuple(step.id for step in steps if step.stage == "strings" and not step.needs)
    steps += start_steps(job, (*dead, *tested))
    started = tuple(step.id for step in steps if step.stage == "start")
    steps.append(
        Step(
            "software",
            "settings",
            "Software first, before anything is set; begun with time to spare.",
            Confirmed(),
            started,
            proves=tuple(unit.id for unit in job.units),
        )
    )
    steps += setting_steps(job, "software")
    steps += function_steps(job, topology, steps[-1].id, away)
    return tuple(steps)
