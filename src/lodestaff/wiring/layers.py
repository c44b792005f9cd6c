"""Which layer of the drawing each part stands in: the longest way from the supply."""

from graphlib import TopologicalSorter

from lodestaff.topology import Topology

LEADING = ("battery", "array", "isolator", "shutdown", "generator")  # stand right before what they feed


def layers_of(topology: Topology) -> dict[str, int]:
    """The longest way from the supply; parts that only feed a unit stand right before it."""
    wired = {end[0] for conductor in topology.conductors for end in (conductor.a, conductor.b)}
    before: dict[str, list[str]] = {name: [] for name in topology.parts if name in wired}
    after: dict[str, list[str]] = {name: [] for name in before}
    for conductor in topology.conductors:
        a, b = conductor.a[0], conductor.b[0]
        if a not in before[b]:
            before[b].append(a)
            after[a].append(b)
    order = tuple(TopologicalSorter(before).static_order())
    fed = _reached("supply", after)
    layer: dict[str, int] = {}
    for name in order:
        layer[name] = max((layer[earlier] + 1 for earlier in before[name]), default=0)
    for name in reversed(order):
        if after[name] and topology.parts[name].kind in LEADING and name not in fed:
            layer[name] = min(layer[follower] for follower in after[name]) - 1
    circuits = {name for name in layer if topology.parts[name].kind == "circuit"}
    last = max(layer.values(), default=0)
    ends = {name for name in layer if topology.parts[name].kind == "board" and set(after[name]) <= circuits}
    for name in ends if circuits else ():
        layer[name] = last - 1
    for name in circuits:  # circuits stand at the right edge, or beside a board that feeds more than circuits
        boards = before[name]
        layer[name] = last if set(boards) & ends or not boards else max(layer[board] for board in boards) + 1
    return layer


def _reached(start: str, after: dict[str, list[str]]) -> set[str]:
    """What is fed from a part, itself included."""
    names, waiting = {start}, [start]
    while waiting:
        for name in after.get(waiting.pop(), ()):
            if name not in names:
                names.add(name)
                waiting.append(name)
    return names
