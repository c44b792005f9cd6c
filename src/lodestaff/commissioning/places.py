"""Where the instrument of a step goes: the parts that its probes, its clamp or its reader are put to."""

from lodestaff.commissioning.step import Step
from lodestaff.commissioning.string_steps import array_part
from lodestaff.job import Job
from lodestaff.topology import Topology

AT_SUPPLY = ("supply v", "between legs", "earth loop", "fault current")
AT_UNIT = ("battery power", "transfer")
AT_SUBJECT = ("neutral to earth", "island loop", "electrode", "generator", "rcd time")


def places(job: Job, topology: Topology, step: Step) -> tuple[str, ...]:
    """The parts or conductors that a step's instrument is put to, those that are drawn; () where it is read
    over the link or off a screen."""
    measure = step.measure
    kind, lines = measure.kind, []
    if kind in ("voc", "isc", "insulation", "module voc"):
        string = next((other for other in job.strings if other.id == measure.subject), None)
        if string is not None:
            lines = [topology.array_isolator(string.unit, string.tracker), array_part(string)]
    elif kind == "battery v":
        lines = [f"{measure.subject}-isolator", measure.subject]
    elif kind in AT_SUPPLY:
        lines = ["main-isolator"]
    elif kind == "same leg":
        lines = ["main-isolator", measure.unit]
    elif kind in ("ct", "ct by hand"):
        lines = [name for ct in topology.cts if ct.id == measure.ct for name in ct.conductors]
    elif kind == "residual":
        lines = [measure.subject]
    elif kind == "meter lost":
        lines = ["meter", "main-isolator"]
    elif kind in AT_SUBJECT:
        lines = [measure.subject]
    elif kind in AT_UNIT:
        lines = [measure.unit]
    known = {*topology.parts, *(conductor.id for conductor in topology.conductors)}
    there = [name for name in lines if name in known]
    return tuple(there if kind == "same leg" else there[:1])
