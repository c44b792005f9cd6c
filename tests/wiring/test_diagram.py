"""The diagram: nothing overlaps, every line is square and ends where it should."""

import itertools

import pytest

from lodestaff.job import Change, edit
from lodestaff.topology import answer, build, standard_states
from lodestaff.wiring import draw, lay_out

CHARACTER_MM = 0.62 * 2.8  # B612 at 2.8 mm: mean advance of a character


def jobs(larkmoor):
    yield larkmoor
    yield edit(larkmoor, Change("wiring/bypass", False))
    yield edit(larkmoor, Change("wiring/essential_rcd", False), Change("wiring/bond_place", "none"))
    yield edit(larkmoor, *(Change(f"circuits/{c.id}/role", "held") for c in larkmoor.circuits))


@pytest.fixture(params=range(4))
def topology(request, larkmoor):
    return build(next(itertools.islice(jobs(larkmoor), request.param, None)))


def overlap(a, b):
    (ax, ay, aw, ah), (bx, by, bw, bh) = a, b
    return ax < bx + bw - 0.01 and bx < ax + aw - 0.01 and ay < by + bh - 0.01 and by < ay + ah - 0.01


def test_no_two_parts_overlap(topology):
    boxes = lay_out(topology).boxes
    for a, b in itertools.combinations(boxes.values(), 2):
        assert not overlap((a.x, a.y, a.w, a.h), (b.x, b.y, b.w, b.h)), (a.part.id, b.part.id)


def test_every_wired_part_stands_on_the_sheet(topology):
    layout = lay_out(topology)
    wired = {end[0] for conductor in topology.conductors for end in (conductor.a, conductor.b)}
    assert set(layout.boxes) == wired
    for box in layout.boxes.values():
        assert box.x >= 0
        assert box.y >= 0
        assert box.x + box.w <= layout.width
        assert box.y + box.h <= layout.height


def test_conductors_run_square_from_part_to_part(topology):
    layout = lay_out(topology)
    for conductor in topology.conductors:
        points = layout.routes[conductor.id]
        for (ax, ay), (bx, by) in itertools.pairwise(points):
            assert abs(ax - bx) < 0.06 or abs(ay - by) < 0.06
        a, b = layout.boxes[conductor.a[0]], layout.boxes[conductor.b[0]]
        assert points[0][0] == pytest.approx(a.x + a.w)
        assert points[-1][0] == pytest.approx(b.x)
        assert b.y <= points[-1][1] <= b.y + b.h


def test_the_supply_is_at_the_left_and_circuits_at_the_right(topology):
    boxes = lay_out(topology).boxes
    assert boxes["supply"].x == min(box.x for box in boxes.values())
    circuits = [box.x for box in boxes.values() if box.part.kind == "circuit"]
    assert len(set(circuits)) == 1
    assert circuits[0] == max(box.x for box in boxes.values())


def test_labels_do_not_overlap(topology):
    drawing = draw(topology, answer(topology, standard_states(topology)[0]).positions)
    labels = []
    for shape in drawing.shapes:
        if shape.kind == "text" and shape.style == "small":
            width = len(shape.text) * CHARACTER_MM
            x, y = shape.points[0]
            labels.append((shape, (x - width / 2 if shape.align == "middle" else x, y - 2.2, width, 2.6)))
    for (one, a), (other, b) in itertools.combinations(labels, 2):
        assert not overlap(a, b), (one.text, other.text)


def test_an_open_switch_is_drawn_open_and_says_so(larkmoor):
    topology = build(larkmoor)
    closed = draw(topology, answer(topology, standard_states(topology)[0]).positions)
    opened = draw(
        topology, answer(topology, standard_states(topology)[0].with_hand("hybrid-feed", "open")).positions
    )
    assert "OPEN" not in {shape.text for shape in closed.shapes if shape.owner == "hybrid-feed"}
    assert "OPEN" in {shape.text for shape in opened.shapes if shape.owner == "hybrid-feed"}
    lines = [shape for shape in opened.shapes if shape.owner == "hybrid-feed" and shape.kind == "line"]
    assert any(abs(shape.points[0][1] - shape.points[-1][1]) > 1 for shape in lines)


def test_every_conductor_is_drawn_once(topology):
    drawing = draw(topology, {})
    owners = [shape.owner for shape in drawing.shapes if shape.style == "conductor"]
    assert sorted(owners) == sorted(conductor.id for conductor in topology.conductors)
