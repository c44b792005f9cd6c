"""The symbol of each kind of part, after IEC 60617 or ANSI/IEEE 315 in their general forms (both from
memory).

A switch is a hinged stroke, an inverter a box split between direct and alternating current. The two standards
differ in the fuse (a box with its conductor through it, or a wave), the breaker (a cross at the contact, or
an arc over a gap) and the isolator (a bar at the contact, or a plain blade).
"""

import math
from collections.abc import Callable

from lodestaff.wiring.layout import Box
from lodestaff.wiring.shapes import MM, Shape, rect


def symbol(box: Box, position: str, standard: str = "IEC") -> list[Shape]:
    """The shapes of a part in a position; a plain frame for a kind without a symbol of its own."""
    if standard == "ANSI" and box.part.kind in ANSI:
        return ANSI[box.part.kind](box, position)
    return SYMBOLS.get(box.part.kind, _frame)(box, position)


def _line(box: Box, *points: tuple[MM, MM], style: str = "symbol") -> Shape:
    return Shape("line", points, style, box.part.id)  # type: ignore[arg-type]


def _frame(box: Box, _position: str = "") -> list[Shape]:
    return [Shape("polygon", rect(box.x, box.y, box.w, box.h), "board", box.part.id)]


def hinged(x: MM, y: MM, w: MM, closed: bool, owner: str) -> list[Shape]:
    """A hinged stroke between two stubs, lifted when open."""
    hinge, stop = x + w * 0.25, x + w * 0.75
    lift = 0.0 if closed else -2.6
    return [
        Shape("line", ((x, y), (hinge, y)), "symbol", owner),
        Shape("line", ((hinge, y), (stop, y + lift)), "symbol", owner),
        Shape("line", ((stop, y), (x + w, y)), "symbol", owner),
        Shape("circle", ((hinge, y), (hinge + 0.55, y)), "fill", owner),
        Shape("circle", ((stop, y), (stop + 0.4, y)), "symbol", owner),
    ]


def _switch(box: Box, position: str) -> list[Shape]:
    return hinged(box.x, box.middle, box.w, position == "closed", box.part.id)


def _supply(box: Box, _position: str) -> list[Shape]:
    x, w, m = box.x, box.w, box.middle
    ring = Shape("circle", ((x + w / 2, m), (x + w, m)), "symbol", box.part.id)
    return [
        ring,
        Shape("text", ((x + w / 2, m + 1.5),), style="label", owner=box.part.id, text="∼", align="middle"),
    ]


def _generator(box: Box, _position: str) -> list[Shape]:
    x, w, m = box.x, box.w, box.middle
    ring = Shape("circle", ((x + w / 2, m), (x + w, m)), "board", box.part.id)
    return [
        ring,
        Shape("text", ((x + w / 2, m + 1.5),), style="label", owner=box.part.id, text="G", align="middle"),
    ]


def _fuse(box: Box, _position: str) -> list[Shape]:
    x, w, m = box.x, box.w, box.middle
    body = Shape("polygon", rect(x + 2, m - 1.6, w - 4, 3.2), "board", box.part.id)
    return [body, _line(box, (x, m), (x + w, m))]


def _meter(box: Box, _position: str) -> list[Shape]:
    words = Shape(
        "text",
        ((box.x + box.w / 2, box.middle + 1.3),),
        style="small",
        owner=box.part.id,
        text="kWh",
        align="middle",
    )
    return [*_frame(box), words]


def _isolator(box: Box, position: str) -> list[Shape]:
    x, w, m = box.x, box.w, box.middle
    return [*_switch(box, position), _line(box, (x + w * 0.75, m - 1.2), (x + w * 0.75, m + 1.2))]


def _breaker(box: Box, position: str) -> list[Shape]:
    x, w, m = box.x + box.w * 0.75, 0.8, box.middle
    return [
        *_switch(box, position),
        _line(box, (x - w, m - w), (x + w, m + w)),
        _line(box, (x - w, m + w), (x + w, m - w)),
    ]


def _rcd(box: Box, position: str) -> list[Shape]:
    x, w, m = box.x, box.w, box.middle
    ring = Shape("circle", ((x + w * 0.88, m), (x + w * 0.88 + 1.2, m)), "symbol", box.part.id)
    trip = _line(box, (x + w * 0.88, m - 1.2), (x + w * 0.88, m - 3), (x + w * 0.5, m - 3), style="thin")
    return [*_switch(box, position), ring, trip]


def _block(box: Box, _position: str) -> list[Shape]:
    return [Shape("polygon", rect(box.x, box.y, box.w, box.h), "fill", box.part.id)]


def _unit(box: Box, _position: str) -> list[Shape]:
    x, y, w, h, id = box.x, box.y, box.w, box.h, box.part.id
    return [
        *_frame(box),
        _line(box, (x, y + h), (x + w, y), style="thin"),
        Shape("text", ((x + w * 0.12, y + max(3.4, h * 0.3)),), "label", id, "="),
        Shape("text", ((x + w * 0.72, y + h * 0.86),), "label", id, "∼"),
    ]


def _double_throw(box: Box, position: str) -> list[Shape]:
    x, y, w, h, m = box.x, box.y, box.w, box.h, box.middle
    first, other = box.part.ports[:2]
    tops = {first: y + h / 3, other: y + 2 * h / 3, "off": m}
    hinge = (x + w * 0.72, m)
    return [
        _line(box, (x, tops[first]), (x + w * 0.28, tops[first])),
        _line(box, (x, tops[other]), (x + w * 0.28, tops[other])),
        _line(box, hinge, (x + w * 0.28, tops.get(position, m))),
        _line(box, hinge, (x + w, m)),
        Shape("circle", (hinge, (hinge[0] + 0.55, m)), "fill", box.part.id),
    ]


def _interlock(box: Box, position: str) -> list[Shape]:
    """Two switches with a bar between them, so that only one can be closed."""
    x, y, w, h = box.x, box.y, box.w, box.h
    shapes = []
    for port, level in zip(box.part.ports[:2], (y + h / 3, y + 2 * h / 3), strict=True):
        shapes += hinged(x, level, w * 0.8, position == port, box.part.id)
    return [
        *shapes,
        _line(box, (x + w * 0.8, y + h / 3), (x + w * 0.8, y + 2 * h / 3)),
        _line(box, (x + w * 0.8, box.middle), (x + w, box.middle)),
        Shape("polygon", rect(x + w * 0.36, y + h / 3 + 1, w * 0.1, h / 3 - 2), "fill", box.part.id),
    ]


def _gateway(box: Box, position: str) -> list[Shape]:
    x, w, m = box.x, box.w, box.middle
    inner = hinged(x + w * 0.1, m, w * 0.8, position == "closed", box.part.id)
    return [
        *_frame(box),
        *inner,
        _line(box, (x, m), (x + w * 0.1, m)),
        _line(box, (x + w * 0.9, m), (x + w, m)),
    ]


def _contactor(box: Box, position: str) -> list[Shape]:
    x, y, w, h = box.x, box.y, box.w, box.h
    coil = Shape("polygon", rect(x + w * 0.35, y, w * 0.3, h * 0.3), "board", box.part.id)
    return [
        *_switch(box, position),
        coil,
        _line(box, (x + w / 2, y + h * 0.3), (x + w / 2, box.middle - 1.4), style="thin"),
    ]


def _transmitter(box: Box, _position: str) -> list[Shape]:
    x, m = box.x, box.middle
    steps = ((1.5, 1), (3.5, 1), (3.5, -1), (5.5, -1), (5.5, 1), (7.5, 1), (7.5, -1), (9.5, -1))
    return [*_frame(box), _line(box, *((x + dx, m + dy) for dx, dy in steps), style="thin")]


def _shutdown(box: Box, position: str) -> list[Shape]:
    return [*_frame(box), *_switch(box, position)]


def _electrode(box: Box, _position: str) -> list[Shape]:
    x, w, m = box.x, box.w, box.middle
    bars = ((2.4, 0.8), (1.5, 1.6), (0.6, 2.4))
    drop = _line(box, (x, m), (x + w / 2, m), (x + w / 2, m + 0.8))
    return [
        drop,
        *(_line(box, (x + w / 2 - half, m + down), (x + w / 2 + half, m + down)) for half, down in bars),
    ]


def _battery(box: Box, _position: str) -> list[Shape]:
    x, m = box.x, box.middle
    plates = ((4.5, 3), (6, 1.5), (7.5, 3), (9, 1.5))
    return [*_frame(box), *(_line(box, (x + a, m - half), (x + a, m + half)) for a, half in plates)]


def _array(box: Box, _position: str) -> list[Shape]:
    x, y, w, h = box.x, box.y, box.w, box.h
    return [*_frame(box), _line(box, (x, y), (x + w / 2, y + h * 0.45), (x + w, y), style="thin")]


def _circuit(box: Box, _position: str) -> list[Shape]:
    x, w, m = box.x, box.w, box.middle
    return [Shape("polygon", ((x, m - 1.5), (x + w, m), (x, m + 1.5)), "fill", box.part.id)]


def _wave_fuse(box: Box, _position: str) -> list[Shape]:
    """A wave between two stubs."""
    x, w, m = box.x, box.w, box.middle
    wave = [(x + w * (0.2 + 0.6 * n / 16), m - 1.4 * math.sin(2 * math.pi * n / 16)) for n in range(17)]
    return [_line(box, (x, m), (x + w * 0.2, m)), _line(box, *wave), _line(box, (x + w * 0.8, m), (x + w, m))]


def _arc_breaker(box: Box, position: str) -> list[Shape]:
    """An arc over the gap between two contacts; lifted off them when open."""
    x, w, m = box.x, box.w, box.middle
    lift = 0.6 if position == "closed" else 2.4
    arc = [(x + w * (0.25 + 0.5 * n / 8), m - lift - 1.5 * math.sin(math.pi * n / 8)) for n in range(9)]
    ends = [
        Shape("circle", ((x + w * at, m), (x + w * at + 0.45, m)), "symbol", box.part.id)
        for at in (0.25, 0.75)
    ]
    return [
        _line(box, (x, m), (x + w * 0.25, m)),
        _line(box, (x + w * 0.75, m), (x + w, m)),
        _line(box, *arc),
        *ends,
    ]


ANSI: dict[str, Callable[[Box, str], list[Shape]]] = {
    "fuse": _wave_fuse,
    "breaker": _arc_breaker,
    "isolator": _switch,
}
SYMBOLS: dict[str, Callable[[Box, str], list[Shape]]] = {
    "supply": _supply, "fuse": _fuse, "meter": _meter, "isolator": _isolator, "breaker": _breaker,
    "rcd": _rcd,
    "block": _block, "unit": _unit, "bypass": _double_throw, "throw": _double_throw, "interlock": _interlock,
    "gateway": _gateway, "contactor": _contactor, "generator": _generator, "transmitter": _transmitter,
    "shutdown": _shutdown, "electrode": _electrode, "battery": _battery, "array": _array, "circuit": _circuit,
}  # fmt: skip
