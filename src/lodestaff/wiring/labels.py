"""The labels of this site: text, place and reason, from its own parts."""

from dataclasses import dataclass

from lodestaff.job import Job
from lodestaff.topology import Part, Topology


@dataclass(frozen=True)
class Label:
    """One label: what it says, where it goes, why. Common practice; the local code rules."""

    text: str
    place: str
    reason: str


def labels(job: Job, topology: Topology) -> tuple[Label, ...]:
    """Every place where a person may open something, and every switch that isolates."""
    pack, found = job.pack, []
    sources = "grid, array and battery" if job.banks else "grid and array"
    for part in topology.parts.values():
        found += _of_part(job, part, sources)
    if job.has_electrode:
        found.append(Label(f"Safety {pack.word('earth')} connection, do not remove",
                           f"{pack.word('earth')} electrode of the unit", "the island's own earth"))  # fmt: skip
    for tracker in [part for part in topology.parts.values() if part.kind == "array"]:
        found.append(
            Label("Solar DC cable, live in daylight", f"along the run from {tracker.name}", "the route is known")
        )
    found.append(Label("Shutdown and restart procedure, diagram", f"beside the {pack.word('board')}",
                       "whoever comes next works by it"))  # fmt: skip
    return tuple(found)


def _of_part(job: Job, part: Part, sources: str) -> list[Label]:
    pack, name = job.pack, part.name
    if part.kind in ("supply", "meter", "board") or part.id == "main-isolator":
        text = f"Several sources of supply: {sources}. Isolate all before work."
        return [Label(text, name, "live from more than the grid")]
    if part.kind == "array":
        return []
    if part.kind == "isolator" and "-array-" in part.id:
        return [Label(f"{name}: array, live in daylight on the array's side", name, "isolation point")]
    if part.kind == "isolator" and any(part.id == f"{bank.id}-isolator" for bank in job.banks):
        return [Label(f"{name}: battery terminals stay live", name, "isolation point")]
    if part.kind == "bypass":
        return [Label(f"{name}: unit, off, grid. {pack.cautions['bypass']}", name, "three positions, one is off")]
    if part.kind == "unit":
        return [Label("Isolate AC, battery and array first; wait the capacitor time", name, "stored energy")]
    if part.kind == "battery":
        return [Label("Battery: terminals live at all times", name, "stored energy, fire service information")]
    if part.kind in ("breaker", "rcd", "isolator"):
        return [Label(f"{name}", name, "says what it feeds or isolates")]
    return []
