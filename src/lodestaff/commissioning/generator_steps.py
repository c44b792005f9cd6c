"""Steps of a generator: locked out, started by its two wires or by hand, loaded, stopped, never into the
grid."""

from lodestaff.commissioning.rules import Between, Confirmed
from lodestaff.commissioning.step import Measure, Step
from lodestaff.job import Job
from lodestaff.job.plan import Generator
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.topology import Topology

LOAD_REACH = 0.3  # of what may be taken, that a load test must come to


def generator_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Of each generator that stands in the drawing."""
    steps: list[Step] = []
    for part in job.parts:
        if isinstance(part, Generator) and part.id in topology.parts:
            steps += _of(job, topology, part, before)
    return steps


def _inputs(job: Job, topology: Topology, part: Generator) -> list[str]:
    """Units that take the generator at an input of their own or of a device before them."""
    own = [unit.unit for unit in topology.units if unit.generator is not None]
    return [unit.name for unit in job.units if unit.id in own] or [unit.name for unit in job.units]


def _of(job: Job, topology: Topology, part: Generator, before: tuple[str, ...]) -> list[Step]:
    pack, name = job.pack, part.name
    master = next((unit for unit in job.units if unit.id == part.started_by), None)
    caution = pack.caution("generator")
    if job.mains.grid:
        caution += f" {pack.caution('backfeed')}"
    steps: list[Step] = []

    def add(suffix: str, text: str, rule: Between | Confirmed, measure: Measure) -> None:
        waits = (steps[-1].id,) if steps else before
        steps.append(
            Step(
                f"generator-{suffix}{'' if part.id == 'generator' else '-' + part.id}",
                "function",
                text,
                rule,
                waits,
                caution=caution,
                measure=measure,
                proves=(part.id,),
            )
        )

    if master is not None:
        add(
            "locked",
            f"{name} locked out at itself, its {pack.word('isolator')} closed, {master.name} told to start "
            "it: it stays still, and its line says that it is called.",
            Confirmed(),
            Measure("confirm", master.id, part.id, doing="generator locked"),
        )
        how = (
            f"{plain(part.start_v)} V for {plain(part.start_delay_min, 0)} min"
            if part.start_by == "volts" and part.start_v is not None
            else f"{plain(100 * part.start_soc, 0)} %"
        )
        add(
            "start",
            f"{name} freed: {master.name}'s start is set above its present charge for the test; the two "
            f"wires start it, it warms up before it takes load. Then the true start is put back ({how}).",
            Confirmed(),
            Measure("confirm", master.id, part.id, doing="generator start"),
        )
    else:
        add(
            "start",
            f"{name}, its {pack.word('isolator')} closed, started by hand: it runs warm, its volts and "
            "frequency are steady, before it takes load.",
            Confirmed(),
            Measure("confirm", "", part.id, doing="generator start"),
        )
    takers = _inputs(job, topology, part)
    usable = part.usable_kw
    charged = any(job.bank_of(unit) is not None for unit in job.units)
    what = (
        f"{' and '.join(takers)} {'charges' if len(takers) == 1 else 'charge'} from it"
        if charged
        else "loaded"
    )
    add(
        "load",
        f"{name} loaded: {what}, circuits on, the sun away; it gives no more than {text_of(usable, 'kW')} "
        f"({plain(part.rated_kva)} kVA x power factor {plain(part.power_factor)} x usable share "
        f"{plain(part.usable_share)}).",
        Between(
            usable,
            "kW",
            low=None,
            high=usable * 1.03,
            source="generator's rating, derated; clamp's class",
            reach=LOAD_REACH * usable,
        ),
        Measure("generator", master.id if master else "", part.id),
    )
    if job.mains.grid:
        add(
            "apart",
            f"{name} running: nothing of it reaches the {pack.word('operator')}'s wires; with the supply "
            "back the transfer keeps the two apart.",
            Confirmed(),
            Measure("confirm", "", part.id, doing="generator apart"),
        )
    stop = (
        f"at {plain(100 * part.stop_soc, 0)} % (its stop is set below the present charge for the test)"
        if master is not None and part.start_by == "charge"
        else "when it is told to"
    )
    add(
        "stop",
        f"{name} stops {stop}; the circuits go on, on the {'units' if len(job.units) > 1 else 'unit'}.",
        Confirmed(),
        Measure("confirm", master.id if master else "", part.id, doing="generator stop"),
    )
    return steps
