"""The hand-worked devices on each way into a unit: which stands at the unit, which at the board's end."""

from dataclasses import dataclass

from lodestaff.topology.model import Topology

HAND = ("isolator", "breaker", "rcd")
ENDS = ("block", "board", "gateway", "supply", "battery", "array", "generator", "unit", "bypass", "throw",
        "interlock",
        "circuit")  # fmt: skip


@dataclass(frozen=True)
class WayIn:
    """One port of a unit with the devices that isolate it; '' where there is none."""

    unit: str
    port: str
    words: str
    two_ends: bool  # whether a device at the board's end is wanted besides
    at_unit: str
    at_board: str


def ways_in(topology: Topology) -> tuple[WayIn, ...]:
    """Every wired port of every unit through which a source can reach it."""
    ways_in = []
    for unit in topology.units:
        ports = [(unit.grid[1], "AC feed", True)]
        ports += [(unit.generator[1], "generator feed", True)] if unit.generator else []
        ports += [(unit.battery[1], "battery", False)] if unit.battery else []
        ports += [(port[1], port[1], False) for port in unit.arrays]
        for port, words, ac in ports:
            devices = _devices(topology, unit.unit, port)
            if devices is None:
                continue
            near = [name for name in devices if topology.parts[name].kind == "isolator"]
            at_unit = near[0] if near else ""
            at_board = devices[-1] if devices and (not at_unit or devices[-1] != at_unit) else ""
            if words == "generator feed":
                ac, at_board = False, ""
            elif not ac:
                at_unit, at_board = (devices[0] if devices else ""), ""
            if (
                not ac
                and not devices
                and (unit.module_level or (unit.sealed and (unit.unit, port) == unit.battery))
            ):
                continue  # plugs behind each module, or inside the case
            ways_in.append(
                WayIn(unit.unit, port, words=words, two_ends=ac, at_unit=at_unit, at_board=at_board)
            )
    return tuple(ways_in)


def _devices(topology: Topology, unit: str, port: str) -> list[str] | None:
    """Hand-worked devices from a port outwards to the next bus or source; None where nothing is wired to
    it."""
    at = (unit, port)
    devices: list[str] = []
    wired = False
    while True:
        into = next((conductor for conductor in topology.conductors if conductor.b == at), None)
        if into is None:
            return devices if wired else None
        wired = True
        part = topology.parts[into.a[0]]
        if part.kind in HAND:
            devices.append(part.id)
        if part.kind in ENDS or "line" not in part.ports:
            return devices
        at = (part.id, "line")
