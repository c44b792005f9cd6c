"""The labels of this site: text, place and reason, from its own parts."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from lodestaff.job import Job
from lodestaff.job.address import address
from lodestaff.job.plan import Electrode, Generator, Shutdown
from lodestaff.quantities import text_of
from lodestaff.topology import Part, Topology
from lodestaff.topology.model import UnitPorts

NOTHING: Mapping[str, str] = {}
SOURCES = (("grid", "grid"), ("generator", "generator"), ("array", "array"), ("battery", "battery"))


@dataclass(frozen=True)
class Label:
    """One label: what it says, where it goes, why. Common practice; the local code rules."""

    text: str
    place: str
    reason: str


def labels(job: Job, topology: Topology, ratings: Mapping[str, str] = NOTHING) -> tuple[Label, ...]:
    """Every place where a person may open something, and every switch that isolates; `ratings` are volts and
    amperes by part."""
    pack, all_labels = job.pack, list[Label]()
    kinds = [words for kind, words in SOURCES if any(source.kind == kind for source in topology.sources)]
    sources = ", ".join(kinds[:-1]) + (" and " if len(kinds) > 1 else "") + kinds[-1] if kinds else "none"
    units = {unit.unit: unit for unit in topology.units}
    for part in topology.parts.values():
        mine, rating = _of_part(job, part, sources, units.get(part.id)), ratings.get(part.id)
        if mine and rating:
            mine[-1] = replace(mine[-1], text=f"{mine[-1].text}. {rating[:1].upper()}{rating[1:]}")
        all_labels += mine
    earth = pack.word("earth")
    for rod in [part for part in job.parts if isinstance(part, Electrode)]:
        at = topology.parts.get(address(rod.at).part)
        all_labels.append(
            Label(
                f"Safety {earth} connection, do not remove",
                f"{rod.name} at {at.name if at else rod.at}",
                f"its own {earth}",
            )
        )
    if job.has_electrode and not job.parts:
        all_labels.append(
            Label(
                f"Safety {pack.word('earth')} connection, do not remove",
                f"{pack.word('earth')} electrode of the unit",
                "the island's own earth",
            )
        )
    plugged = {unit.unit for unit in topology.units if unit.module_level}
    strung = [part for part in topology.parts.values() if part.kind == "array" and part.of not in plugged]
    for tracker in strung:
        all_labels.append(
            Label(
                "Solar DC cable, live in daylight",
                f"along the run from {tracker.name}",
                "whoever drills or digs there knows the route",
            )
        )
    all_labels.append(
        Label(
            "Shutdown and restart procedure, diagram",
            f"beside the {pack.word('board')}",
            "whoever comes next works by it",
        )
    )
    return (*all_labels, *_of_the_code(job, topology))


def _of_the_code(job: Job, topology: Topology) -> Iterator[Label]:
    """What one code asks to stand at the service besides; sections from memory."""
    if job.pack.conductor_rule != "NEC" or not job.mains.grid:
        return
    at = next((part.name for part in topology.parts.values() if part.kind == "meter"), "the service")
    held = {unit for part in job.parts if isinstance(part, Shutdown) for unit in part.units}
    held |= {unit.unit for unit in topology.units if unit.module_level}
    shut, live = list[str](), list[str]()
    for face in (face for face in job.faces if face.modules):
        units = {string.unit for string in job.strings if face.count_of(string.id)}
        (shut if units and units <= held else live).append(face.name)
    if shut:
        rest = f"; not shut down: {', '.join(live)}" if live else ""
        yield Label(
            f"Solar system with rapid shutdown. Plan of the roof: shut down: {', '.join(shut)}{rest}",
            at,
            "whoever fights a fire sees which roofs it reaches (NEC 690.56)",
        )
    walls = {wall.id: wall.name for wall in job.walls}
    stands = {standing.id: f", {walls[standing.wall]}" for standing in job.standing}
    standby = [unit.unit for unit in topology.units if unit.forms and unit.serves]
    if standby:
        words = "; ".join(f"{topology.parts[unit].name}{stands.get(unit, '')}" for unit in standby)
        yield Label(f"Standby source: {words}", at, "type and place of each (NEC 702.7)")


def _available(job: Job, unit: str) -> str:
    """What one code asks of the label at a battery's disconnect besides volts (NEC 706.15, from memory)."""
    bank = next(bank for bank in job.banks if bank.unit == unit)
    sheet = job.sheets.batteries[bank.sheet]
    series = sheet.modules_in_series(bank.modules)
    if sheet.fault_ka is None or series is None:
        return "Available fault current: by its maker; date: of fitting"
    return (
        f"Available fault current {text_of(sheet.fault_ka * bank.modules / series, 'kA')}; date: of fitting"
    )


def _of_part(job: Job, part: Part, sources: str, unit: UnitPorts | None) -> list[Label]:
    pack, name = job.pack, part.name
    if part.kind in ("supply", "meter", "board") or part.way == "supply":
        text = (
            f"{'Several sources' if ' and ' in sources else 'Source'} of supply: {sources}. Isolate "
            "all before work."
        )
        return [Label(text, name, "live from several sources")]
    if part.kind == "array":
        return []
    if part.kind == "isolator" and part.way == "array":
        return [Label(f"{name}: array, live in daylight on the array's side", name, "isolation point")]
    if part.kind == "isolator" and part.way == "generator":
        itself = any(
            f"{generator.id}-isolator" == part.id and generator.started_by
            for generator in job.parts
            if isinstance(generator, Generator)
        )
        first = "lock out the generator's own start" if itself else "stop the generator"
        return [Label(f"{name}: {first} first", name, "it starts by itself" if itself else "isolation point")]
    if part.id in {f"{shutdown.id}-switch" for shutdown in job.parts if isinstance(shutdown, Shutdown)}:
        return [
            Label(
                f"{name}: rapid shutdown of the array. Off: conductors off the roof fall to a safe voltage; "
                "modules stay live in daylight",
                name,
                "whoever fights a fire works it first",
            )
        ]
    if part.kind == "isolator" and part.way == "battery":
        more = f". {_available(job, part.of)}" if pack.conductor_rule == "NEC" else ""
        return [Label(f"{name}: battery terminals stay live{more}", name, "isolation point")]
    if part.kind == "bypass":
        caution = pack.caution("bypass" if job.mains.grid else "bypass_no_grid")
        reason = "three positions, one is off" if len(part.positions) > 2 else "which supply is taken"
        return [Label(f"{name}: {', '.join(part.positions)}. {caution}", name, reason)]
    if part.kind == "unit":
        if unit is not None and unit.module_level:
            return [
                Label(
                    "Units behind modules: isolate the branch before a plug is parted",
                    f"where the cable of {name} ends",
                    "AC and modules' volts on the roof",
                )
            ]
        ways = [
            "AC",
            *(["battery"] if unit and unit.battery and not unit.sealed else []),
            *(["array"] if unit and unit.arrays else []),
        ]
        words = ", ".join(ways[:-1]) + (" and " if len(ways) > 1 else "") + ways[-1]
        return [Label(f"Isolate {words} first; wait the capacitor time", name, "stored energy")]
    if part.kind == "battery" and part.caution == "sealed_battery":
        return [
            Label(
                "Battery inside: stays charged, the case isn't opened",
                name,
                "stored energy, fire service information",
            )
        ]
    if part.kind == "battery":
        return [
            Label("Battery: terminals live at all times", name, "stored energy, fire service information")
        ]
    if part.kind in ("breaker", "rcd", "isolator"):
        return [Label(f"{name}", name, "says what it feeds or isolates")]
    return []
