"""Steps of a car charger, with a simulated vehicle: its states, its current, its faults, and an outage."""

from lodestaff.commissioning.rules import Between, Confirmed
from lodestaff.commissioning.step import Measure, Step
from lodestaff.job import Circuit, Job, Role
from lodestaff.quantities.convention import plain
from lodestaff.topology import Topology
from lodestaff.topology.questions import asked

TOLD_A, CURRENT_PCT = (
    10.0,
    8.0,
)  # tried at; a vehicle takes no more than it is told, a little less: common practice
LEAST_SHARE = 0.8


def charger_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Of each charger, told apart by its circuit."""
    chargers = [circuit for circuit in job.circuits if circuit.kind == "car charger"]
    steps: list[Step] = []
    for circuit in chargers:
        name = "charger" if len(chargers) == 1 else f"charger-{circuit.id}"
        steps += _of(job, topology, circuit, name, before)
    return steps


def _of(job: Job, topology: Topology, circuit: Circuit, name: str, before: tuple[str, ...]) -> list[Step]:
    if not job.mains.grid and circuit.id in asked(topology).dead():
        return []  # locked out for good: nothing ever feeds it
    combined = job.mains.grid and job.site.supply.earthing.value in ("TN-C-S", "MEN")
    caution = job.pack.caution("tncs_charger") if combined else ""
    part = f"circuit-{circuit.id}"
    own = Measure("confirm", "", circuit.id)
    told = min(TOLD_A, _rated_a(job, circuit))
    amps = Between(
        told,
        "A",
        LEAST_SHARE * told,
        told * (1 + CURRENT_PCT / 100),
        "told to the vehicle; it takes no more, common practice",
    )
    steps = [
        Step(name, "function",
             f"{circuit.name} with a simulated vehicle: waiting, connected, charging, connected, waiting; "
             "the plug is locked while it charges.", Confirmed(), before, caution=caution, measure=own,
             proves=(part,)),
        Step(f"{name}-current", "function",
             f"{circuit.name}, charging, told {plain(told)} A: the current of its highest conductor, by "
             "clamp meter.", amps, (name,), measure=Measure("charger", "", circuit.id), proves=(part,)),
        Step(f"{name}-faults", "function",
             f"{circuit.name}, charging: a simulated earth fault and a simulated fault of the pilot each "
             "end the charge at once, and it doesn't begin again by itself.", Confirmed(), (name,),
             measure=own, proves=(part,)),
    ]  # fmt: skip
    outage = asked(topology)
    if outage.has_backup:
        dead = circuit.id in outage.dead()
        if circuit.role is Role.LOCKED or dead:
            text = f"{circuit.name}, charging, the main switch opened: it is dead in the island."
        else:
            text = (
                f"{circuit.name}, charging, the main switch opened: it is fed as the circuits hang; it is "
                "told not to charge, and doesn't."
            )
        doing = "charger outage" if dead else ""
        steps.append(
            Step(
                f"{name}-outage",
                "function",
                text,
                Confirmed(),
                (name,),
                measure=Measure("confirm", "", circuit.id, doing=doing),
                proves=(part,),
            )
        )
    return steps


def _rated_a(job: Job, circuit: Circuit) -> float:
    """What it draws at most on a leg, A."""
    legs = max(1, len(circuit.legs))
    return circuit.running_w / legs / job.pack.value("nominal_v").value
