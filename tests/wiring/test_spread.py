"""A drawing takes the shape of its surface, and nothing runs into another by it."""

import itertools

import pytest

from lodestaff.reckoning import Reckoner
from lodestaff.templates import KINDS, compose
from lodestaff.wiring import draw, seen_at
from lodestaff.wiring.spread import AS_IT_IS, MOST_TALL, MOST_WIDE, spread_to


def extent(drawing):
    boxes = drawing.boxes.values()
    return max(x + w for x, _, w, _ in boxes) - min(x for x, *_ in boxes), drawing.height


@pytest.mark.parametrize("letter", ["A", "G", "K", "M", "R"])
@pytest.mark.parametrize("aspect", [0.7, 1.3, 2.6])
def test_it_comes_to_the_aspect_as_far_as_it_reads_well(letter, aspect):
    wiring = Reckoner().wiring(compose(KINDS[letter].wanted))
    seen, positions = seen_at(wiring.topology, "overview"), wiring.answers[0].positions
    plain = draw(seen, positions)
    spread = spread_to(*extent(plain), plain.channels, aspect)
    drawn = draw(seen, positions, spread=spread)
    before, after = (wide / high for wide, high in (extent(plain), extent(drawn)))
    assert abs(after - aspect) <= abs(before - aspect) + 1e-9
    held_back = spread.wide_mm >= MOST_WIDE - 1e-9 or spread.tall >= MOST_TALL - 1e-9
    assert held_back or after == pytest.approx(aspect, rel=0.12)
    for a, b in itertools.combinations(drawn.boxes.values(), 2):
        apart = a[0] + a[2] <= b[0] or b[0] + b[2] <= a[0] or a[1] + a[3] <= b[1] or b[1] + b[3] <= a[1]
        assert apart, (a, b)


def test_what_has_the_aspect_stays_as_it_is():
    assert spread_to(100, 50, 4, 2.0) is AS_IT_IS
    assert spread_to(100, 50, 4, 2.05) is AS_IT_IS
