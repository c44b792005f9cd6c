"""Layered layout: supply at the left, circuits at the right; conductors run in channels between layers.

No coordinate is given by hand: layers follow from the longest way to a part, heights from what a
part feeds, and each conductor gets a track of its own in the channel it turns in.
"""

from __future__ import annotations

import itertools
import textwrap
from dataclasses import dataclass, field

from lodestaff.topology import Conductor, Part, Topology
from lodestaff.topology.model import DC
from lodestaff.wiring.bands import banded
from lodestaff.wiring.layers import layers_of
from lodestaff.wiring.shapes import MM, Point
from lodestaff.wiring.sizes import SIZES
from lodestaff.wiring.spread import AS_IT_IS, Spread

TEXT_MM, GAP_CHANNEL, TRACK = 2.8, 2.6, 1.7
CHARACTER = 0.62  # mean advance of a character, of the text's height
LEAST_BOARD = 6.0
OVERHANG = 4.6  # of a label over its column, both sides together
LABEL_CHARACTERS = 10  # a label is broken into lines of at most so many characters


@dataclass
class Box:
    """A placed part: its left top corner and size in mm."""

    part: Part
    layer: int
    x: MM = 0
    y: MM = 0
    w: MM = 0
    h: MM = 0

    @property
    def middle(self) -> MM:
        return self.y + self.h / 2


@dataclass(frozen=True)
class Layout:
    """Boxes by part id, and for each conductor the points it runs through."""

    boxes: dict[str, Box]
    routes: dict[str, tuple[Point, ...]]
    width: MM
    height: MM
    channels: int


@dataclass
class _Node:
    """A part or a waypoint of a conductor that passes a layer."""

    id: str
    layer: int
    box: Box | None
    h: MM
    gap: MM = 2.0  # room below it
    head: MM = 0.0  # room above it
    y: MM = 0
    above: list[str] = field(default_factory=list)
    below: list[str] = field(default_factory=list)

    @property
    def kind(self) -> str:
        """The part's; of a bend none."""
        return self.box.part.kind if self.box is not None else ""


def line_mm(text_mm: MM) -> MM:
    """From one line of a label to the next."""
    return text_mm * 1.15


def pitch_mm(text_mm: MM) -> MM:
    """From one circuit to the next."""
    return max(6.0, text_mm * 2.5)


def lay_out(
    topology: Topology, text_mm: MM = TEXT_MM, channel_mm: MM = 0.0, spread: Spread = AS_IT_IS
) -> Layout:
    """Place every part and route every conductor, with room for labels of a text height.

    `channel_mm` widens the channels between the layers, where conductors are to be written on.
    """
    layers = layers_of(topology)
    nodes, chains = _nodes(topology, layers, text_mm, channel_mm > 0)
    columns = _columns(nodes)
    _order_and_place(nodes, columns)
    for node in nodes.values():
        node.y += (spread.tall - 1) * (node.y + node.h / 2)
    boxes = {node.box.part.id: node.box for node in nodes.values() if node.box is not None}
    tracks = _tracks(nodes, chains, topology)
    _stretch_boards(boxes, nodes, topology, columns)
    x = 5.0
    rights = {}
    for layer in sorted(columns):
        boxes_here = [box for name in columns[layer] if (box := nodes[name].box)]
        # labels of circuits at the edge have all the room they want
        beside = 0.0 if layer == max(columns) else 1.0
        overhang = 0.0 if channel_mm > 0 else OVERHANG
        widest = max((_wide(box, text_mm, beside, overhang) for box in boxes_here), default=0.0)
        rights[layer] = x + widest
        for name in columns[layer]:
            box = nodes[name].box
            if box is not None:
                box.x = x + (0 if box.part.kind == "circuit" else (widest - box.w) / 2)
        between = channel_mm + spread.wide_mm + 2 * GAP_CHANNEL
        x += widest + between + TRACK * max(0, tracks.count.get(layer, 0) - 1)
    ports = _port_heights(topology, boxes, chains, nodes)
    routes = {
        conductor.id: _route(
            conductor,
            chains[conductor.id],
            nodes=nodes,
            boxes=boxes,
            rights=rights,
            tracks=tracks,
            ports=ports,
        )
        for conductor in topology.conductors
    }
    height = max((box.y + box.h for box in boxes.values()), default=0.0) + 9
    width = max(box.x + box.w for box in boxes.values()) + 42
    return Layout(boxes, routes, width, height, len(columns) - 1)


def _nodes(
    topology: Topology, layers: dict[str, int], text_mm: MM, written: bool
) -> tuple[dict[str, _Node], dict[str, list[str]]]:
    nodes: dict[str, _Node] = {}
    for name, layer in layers.items():
        part = topology.parts[name]
        w, h = SIZES[part.kind]
        if part.kind == "board":
            h = max(
                h,
                pitch_mm(text_mm) * max(1, sum(conductor.a[0] == name for conductor in topology.conductors)),
            )
        if part.kind == "unit":
            h = max(10.0, min(h, 8.0 * (len(part.ports) - 1)))
        coming = sum(conductor.b[0] == name for conductor in topology.conductors)
        if written and coming > 1:  # each has its words at its end
            h = max(h, 1.3 * text_mm * (coming + 1))
        head = 1.0 + 1.2 * text_mm if part.kind == "board" else 0.0
        nodes[name] = _Node(
            name, layer, box=Box(part, layer, w=w, h=h), h=h, gap=_gap(part, text_mm), head=head
        )
    chains: dict[str, list[str]] = {}
    for conductor in topology.conductors:
        a, b = conductor.a[0], conductor.b[0]
        chain = [a]
        for layer in range(layers[a] + 1, layers[b]):
            name = f"{conductor.id}@{layer}"
            nodes[name] = _Node(name, layer, None, 2.5)
            chain.append(name)
        chain.append(b)
        chains[conductor.id] = chain
        for near, other in itertools.pairwise(chain):
            nodes[near].below.append(other)
            nodes[other].above.append(near)
    return nodes, chains


def _columns(nodes: dict[str, _Node]) -> dict[int, list[str]]:
    columns: dict[int, list[str]] = {}
    for node in nodes.values():
        columns.setdefault(node.layer, []).append(node.id)
    return columns


def _order_and_place(nodes: dict[str, _Node], columns: dict[int, list[str]]) -> None:
    """Order each layer by what its parts feed and are fed by (median sweeps), then spread without overlap."""
    order = {name: float(index) for column in columns.values() for index, name in enumerate(column)}
    for sweep in range(8):
        for layer in sorted(columns, reverse=sweep % 2 == 0):

            def weight(name: str, down: bool = sweep % 2 == 0) -> float:
                near = nodes[name].below if down else nodes[name].above
                return sum(order[neighbour] for neighbour in near) / len(near) if near else order[name]

            columns[layer].sort(key=lambda name: (round(weight(name), 3), _is_dc(nodes[name])))
            for index, name in enumerate(columns[layer]):
                order[name] = (
                    index * 100 / max(1, len(columns[layer]) - 1) if len(columns[layer]) > 1 else 50.0
                )
    columns.update(banded(columns, nodes))
    for column in columns.values():
        y = 6.0
        for name in column:
            nodes[name].y = y + nodes[name].head
            y += nodes[name].head + nodes[name].h + nodes[name].gap
    for sweep in range(24):
        for layer in sorted(columns, reverse=sweep % 2 == 0):
            _relax(nodes, columns[layer], sweep % 2 == 0)
    least = min(node.y for node in nodes.values())
    for node in nodes.values():
        node.y += 6.0 - least


def _is_dc(node: _Node) -> bool:
    """Direct-current parts stand together, below, where nothing else decides."""
    part = node.box.part if node.box else None
    return part is not None and (
        part.kind in ("battery", "array") or (bool(part.contacts) and part.contacts[0].cores == DC)
    )


def _gap(part: Part, text_mm: MM) -> MM:
    """Room below a part for its lines of label."""
    board = 3.0 + (1.2 * text_mm if part.rating else 0.0)
    by_kind = {"circuit": pitch_mm(text_mm) - SIZES["circuit"][1], "board": board, "block": 3.0}
    # one line for the word of a switch that isn't as usual
    lines = len(label_lines(part)) + (1 if part.positions else 0)
    return by_kind.get(part.kind, 2.6 + line_mm(text_mm) * lines)


def _wide(box: Box, text_mm: MM, beside: float, overhang: MM) -> MM:
    """The room that a part wants in its column: for its symbol, and for its label under or beside it."""
    label = label_mm(box.part, text_mm)
    if box.part.kind == "circuit":
        return box.w + beside * (label + 2)
    return max(box.w, label - overhang)


def label_mm(part: Part, text_mm: MM) -> MM:
    """How wide a part's label is, by the mean advance of a character."""
    if part.kind == "block":
        return 0.0
    if part.kind == "circuit":
        return len(part.name) * CHARACTER * text_mm
    lines = [part.name, part.rating] if part.kind == "board" else label_lines(part)
    return max(map(len, lines)) * CHARACTER * text_mm


def label_lines(part: Part) -> list[str]:
    """A part's name and rating, broken into short lines."""
    width = LABEL_CHARACTERS if part.kind not in ("array", "battery") else 12
    lines = textwrap.wrap(part.name, width, break_long_words=False)
    return lines + ([part.rating] if part.rating else [])


def _relax(nodes: dict[str, _Node], column: list[str], down: bool) -> None:
    """Move each node towards the middle of its neighbours, keeping order and gaps."""
    wanted = []
    for name in column:
        node = nodes[name]
        near = (node.below if down else node.above) or node.above or node.below
        middles = [nodes[neighbour].y + nodes[neighbour].h / 2 for neighbour in near]
        wanted.append((sum(middles) / len(middles) if middles else node.y + node.h / 2) - node.h / 2)
    y = -1e9
    placed = []
    for name, want in zip(column, wanted, strict=True):
        top = max(want, y + nodes[name].head)
        placed.append(top)
        y = top + nodes[name].h + nodes[name].gap
    shift = sum(want - top for want, top in zip(wanted, placed, strict=True)) / len(placed)
    for name, top in zip(column, placed, strict=True):
        nodes[name].y = top + shift


@dataclass
class _Tracks:
    of: dict[tuple[str, int], int]
    count: dict[int, int]


def _tracks(nodes: dict[str, _Node], chains: dict[str, list[str]], topology: Topology) -> _Tracks:
    """A track in the channel right of its layer for every conductor that turns there; one per origin."""
    of: dict[tuple[str, int], int] = {}
    taken: dict[int, dict[str, int]] = {}
    for conductor in topology.conductors:
        chain = chains[conductor.id]
        for name in chain[:-1]:
            layer = nodes[name].layer
            box = nodes[name].box
            shared = box is not None and box.part.kind in ("board", "block", "gateway")
            origin = name if shared else conductor.id
            track = taken.setdefault(layer, {}).setdefault(origin, len(taken[layer]))
            of[(conductor.id, layer)] = track
    return _Tracks(of, {layer: len(origins) for layer, origins in taken.items()})


def _stretch_boards(
    boxes: dict[str, Box], nodes: dict[str, _Node], topology: Topology, columns: dict[int, list[str]]
) -> None:
    """Boxes take their nodes' heights; a board spans the circuits it feeds, as far as its column has room."""
    for name, box in boxes.items():
        box.y = nodes[name].y
    for column in columns.values():
        for above, name, below in zip([None, *column], column, [*column[1:], None], strict=False):
            board = nodes[name].box
            fed = [
                boxes[conductor.b[0]]
                for conductor in topology.conductors
                if conductor.a[0] == name and topology.parts[conductor.b[0]].kind == "circuit"
            ]
            if board is None or board.part.kind != "board" or not fed:
                continue
            top, bottom = min(node.y for node in fed) - 1, max(node.y + node.h for node in fed) + 1
            if above is not None:
                end = boxes[above].y + boxes[above].h if above in boxes else nodes[above].y + nodes[above].h
                top = max(top, end + nodes[above].gap + nodes[name].head)
            if below is not None:
                bottom = min(bottom, nodes[below].y - nodes[below].head - nodes[name].gap)
            top, bottom = min(top, board.y), max(bottom, board.y + LEAST_BOARD)
            board.y, board.h = top, bottom - top


def _port_heights(
    topology: Topology, boxes: dict[str, Box], chains: dict[str, list[str]], nodes: dict[str, _Node]
) -> dict[tuple[str, str], MM]:
    """Heights of in-going ports, in the order in which their conductors come in, so that these don't
    cross."""
    incoming: dict[str, list[tuple[MM, str]]] = {}
    for conductor in topology.conductors:
        part, port = conductor.b
        before = nodes[chains[conductor.id][-2]]
        incoming.setdefault(part, []).append((before.y + before.h / 2, port))
    heights = {}
    for part, ports in incoming.items():
        box = boxes[part]
        order = sorted(ports)
        if box.part.kind in ("bypass", "throw", "interlock"):
            order = sorted(ports, key=lambda port: box.part.ports.index(port[1]))
        for index, (_, port) in enumerate(order, start=1):
            heights[part, port] = box.y + box.h * index / (len(ports) + 1)
    return heights


def _route(
    conductor: Conductor,
    chain: list[str],
    nodes: dict[str, _Node],
    boxes: dict[str, Box],
    rights: dict[int, MM],
    tracks: _Tracks,
    ports: dict[tuple[str, str], MM],
) -> tuple[Point, ...]:
    first, last = boxes[conductor.a[0]], boxes[conductor.b[0]]
    start = (first.x + first.w, first.y + first.h - 1.2 if conductor.a[1] == "earth" else first.middle)
    end = (last.x, ports[conductor.b])
    if boxes[conductor.a[0]].part.kind == "board":
        start = (start[0], min(max(end[1], first.y + 1), first.y + first.h - 1))
    points = [start]
    y = start[1]
    for near, other in itertools.pairwise(chain):
        layer = nodes[near].layer
        target = end[1] if other == chain[-1] else nodes[other].y + nodes[other].h / 2
        if abs(target - y) > 0.05:
            x = rights[layer] + GAP_CHANNEL + TRACK * tracks.of[(conductor.id, layer)]
            points += [(x, y), (x, target)]
            y = target
    points.append(end)
    return tuple(points)
