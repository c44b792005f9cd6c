"""Parts that exist twice carry what tells them apart: their string, else the part that they stand at."""

from collections import Counter
from dataclasses import replace

from lodestaff.job import Job
from lodestaff.topology.building.builder import Builder
from lodestaff.topology.model import Part

NAMED_BY_HAND = ("circuit",)


def tell_apart(b: Builder) -> None:
    """Give every part whose name another part has too a name of its own, where something tells it apart."""
    often = Counter(part.name for part in b.parts.values() if part.kind not in NAMED_BY_HAND)
    twice = [part for part in b.parts.values() if often[part.name] > 1 and part.kind not in NAMED_BY_HAND]
    for part in twice:
        name = _of_strings(b.job, part) if part.kind == "array" else f"{part.name}{_beside(b, part.id)}"
        b.parts[part.id] = replace(part, name=name)


def _of_strings(job: Job, part: Part) -> str:
    """An array by its strings in place of its faces, those on the input of the one that decided it; or by
    its branch."""
    first = next((string for string in job.strings if part.decided_by == f"strings/{string.id}"), None)
    if first is None:
        return part.name
    unit = job.unit(first.unit)
    names = [string.name for string in job.strings_on(first.unit, first.tracker)]
    count = part.name.rpartition(", ")[2]
    if job.sheet_of(unit).module_level:
        return f"{unit.name}, {count}"
    return f"String{'s' if len(names) > 1 else ''} {' + '.join(names)}, {count}"


def _beside(b: Builder, name: str) -> str:
    """The part that one feeds, else the one that it hangs on."""
    below = [conductor.b[0] for conductor in b.conductors if conductor.a[0] == name]
    above = [conductor.a[0] for conductor in b.conductors if conductor.b[0] == name]
    if below:
        return f" of {b.parts[below[0]].name}"
    return f" at {b.parts[above[0]].name}" if above else ""
