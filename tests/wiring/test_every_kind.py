"""The diagram of every kind, on every level: nothing overlaps, every line is square, labels keep apart."""

import itertools

import pytest

from lodestaff.templates import KINDS, compose
from lodestaff.topology import answer, build, standard_states
from lodestaff.wiring import draw, seen_at, usual_level

CHARACTER = 0.62  # mean advance of a character of B612, of its height


@pytest.fixture(scope="module", params=sorted(KINDS))
def kind(request):
    return build(compose(KINDS[request.param].wanted))


def views(topology):
    yield "overview", ""
    yield "boards", ""
    for unit in topology.units[:2]:
        yield "terminals", unit.unit
    for part in topology.parts.values():
        if part.kind in ("gateway", "bypass", "throw", "interlock", "board"):
            yield "terminals", part.id


def overlap(a, b):
    (ax, ay, aw, ah), (bx, by, bw, bh) = a, b
    return ax < bx + bw - 0.01 and bx < ax + aw - 0.01 and ay < by + bh - 0.01 and by < ay + ah - 0.01


def labels_of(drawing):
    for shape in drawing.shapes:
        if shape.kind == "text" and shape.style == "small" and shape.text != "kWh":
            width = len(shape.text) * CHARACTER * drawing.text_mm
            x, y = shape.points[0]
            left = {"middle": x - width / 2, "right": x - width}.get(shape.align, x)
            yield shape, (left, y - 0.8 * drawing.text_mm, width, 0.92 * drawing.text_mm)


@pytest.mark.parametrize("text_mm", [2.8, 4.4])
@pytest.mark.parametrize("state", ["usual", "all off"])
def test_neither_parts_nor_labels_overlap(kind, text_mm, state):
    states = standard_states(kind)
    positions = answer(kind, states[0] if state == "usual" else states[-1]).positions
    for level, focus in views(kind):
        drawing = draw(seen_at(kind, level, focus), positions, text_mm, level == "terminals")
        for (one, a), (other, b) in itertools.combinations(drawing.boxes.items(), 2):
            assert not overlap(a, b), (level, focus, one, other)
        for (one, a), (other, b) in itertools.combinations(labels_of(drawing), 2):
            assert not overlap(a, b), (level, focus, one.text, other.text)
        for shape, (_, y, _, h) in labels_of(drawing):
            assert y + h <= drawing.height, (level, focus, shape.text)


def test_lines_are_square_and_end_at_their_parts(kind):
    for level, focus in views(kind):
        seen = seen_at(kind, level, focus)
        drawing = draw(seen, {})
        lines = {shape.owner: shape.points for shape in drawing.shapes if shape.style == "conductor"}
        assert set(lines) == {one.id for one in seen.conductors}
        for one in seen.conductors:
            points = lines[one.id]
            for (ax, ay), (bx, by) in itertools.pairwise(points):
                assert abs(ax - bx) < 0.06 or abs(ay - by) < 0.06
            x, y, w, h = drawing.boxes[one.a[0]]
            assert x - 0.01 <= points[0][0] <= x + w + 0.01
            assert y - 0.01 <= points[0][1] <= y + h + 0.01
            x, y, w, h = drawing.boxes[one.b[0]]
            assert points[-1][0] == pytest.approx(x)
            assert y <= points[-1][1] <= y + h


def test_the_overview_keeps_every_source_and_board_and_lies_about_none(kind):
    """Each line of the overview is the last conductor of a way through devices; its ends are what that way
    joins."""
    whole, seen = kind, seen_at(kind, "overview")
    for part in whole.parts.values():
        if part.kind in ("unit", "board", "gateway", "bypass", "throw", "generator", "supply"):
            assert part.id in seen.parts, part.id
    ids = {one.id for one in whole.conductors}
    for one in seen.conductors:
        assert one.id in ids
        assert whole.conductor(one.id).b == one.b
        back, steps = whole.conductor(one.id), 0
        while back.a[0] != one.a[0] and steps < 12:
            back = next(each for each in whole.conductors if each.b[0] == back.a[0])
            steps += 1
        assert back.a[0] == one.a[0]
    assert usual_level(whole) in ("overview", "boards")


def test_terminals_show_the_part_and_what_is_near(kind):
    unit = kind.units[0].unit
    seen = seen_at(kind, "terminals", unit)
    assert unit in seen.parts
    wired = {end[0] for one in kind.conductors if unit in (one.a[0], one.b[0]) for end in (one.a, one.b)}
    assert wired <= set(seen.parts)
    assert len(seen.parts) < len(kind.parts)
    words = {shape.text for shape in draw(seen, {}, terminals=True).shapes if shape.align == "right"}
    assert any(word.startswith("battery: DC+") for word in words) or kind.units[0].battery is None
