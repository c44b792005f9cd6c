"""Templates measured in their PDF: every hole, the outline and the ruler within half a millimetre."""

import io
from itertools import pairwise

import pypdfium2
import pytest
from tests.places.test_places import PLACES, WALLS
from tests.places.test_supports import ENTRIES, FIXINGS

from lodestaff.exchange.drilling import EDGE_MM, FOOT_MM, LAP_MM, RULER_MM, drilling_sheets, sheets_of
from lodestaff.job import Change, edit, load_job
from lodestaff.places import bodies
from lodestaff.places.templates import template
from lodestaff.samples import sample_path
from lodestaff.topology import build

MM = 72 / 25.4
WITHIN_MM = 0.5
PAPERS = {"A4": (595.2756, 841.8898), "Letter": (612.0, 792.0)}


@pytest.fixture(scope="module")
def drilled():
    job = load_job(sample_path("larkmoor"))
    job = edit(
        job,
        Change("arrangements", []),
        Change("walls", WALLS),
        Change("standing", PLACES),
        Change("passages", []),
    )
    holes = (Change("standing/hybrid/fixings", FIXINGS), Change("standing/hybrid/entries", ENTRIES))
    job = edit(job, *holes)
    return template(bodies(job, build(job)), ["hybrid"])


def opened(made):
    return pypdfium2.PdfDocument(io.BytesIO(made), autoclose=True)


def paths(page):
    """The boxes of what is drawn on a page, mm from its lower left corner: left, foot, right, top."""
    return [
        tuple(side / MM for side in thing.get_bounds())
        for thing in page.get_objects()
        if thing.type == pypdfium2.raw.FPDF_PAGEOBJ_PATH
    ]


@pytest.mark.parametrize("paper", PAPERS)
def test_every_hole_is_where_it_was_typed(drilled, paper):
    made = drilling_sheets(drilled, paper, "Larkmoor")
    document = opened(made)
    shown = sheets_of(drilled, *PAPERS[paper])
    assert len(document) == len(shown) == 9  # 500 x 600 mm over sheets of some 190 x 255 mm
    seen = set()
    for page, (left, foot, wide, high) in zip(document, shown, strict=True):
        assert page.get_size() == pytest.approx(PAPERS[paper], abs=0.1)
        circles = [box for box in paths(page) if abs((box[2] - box[0]) - (box[3] - box[1])) < 0.6]
        for what, x, y, diameter in drilled.pieces[0].holes:
            inside = 0 <= x - left <= wide and 0 <= y - foot <= high
            at = (x - left + EDGE_MM, y - foot + EDGE_MM + FOOT_MM)
            mine = [
                box
                for box in circles
                if abs((box[0] + box[2]) / 2 - at[0]) < WITHIN_MM
                and abs((box[1] + box[3]) / 2 - at[1]) < WITHIN_MM
                and abs(box[2] - box[0] - diameter) < WITHIN_MM
            ]
            if inside:
                assert mine, (what, x, y)
                seen.add((x, y))
    assert len(seen) == 3


def test_the_ruler_is_as_long_as_it_says_on_every_sheet(drilled):
    document = opened(drilling_sheets(drilled, "A4", "Larkmoor"))
    for page in document:
        level = [box for box in paths(page) if box[3] - box[1] < 1 and abs(box[1] - EDGE_MM) < 1]
        assert any(abs(box[2] - box[0] - RULER_MM) < WITHIN_MM for box in level)
        assert "print at full size" in page.get_textpage().get_text_range()


def test_neighbouring_sheets_lap_and_nothing_is_left_out(drilled):
    shown = sheets_of(drilled, *PAPERS["A4"])
    lefts, feet = sorted({one[0] for one in shown}), sorted({one[1] for one in shown})
    wide, high = shown[0][2:]
    assert all(b - a == pytest.approx(wide - LAP_MM) for a, b in pairwise(lefts))
    assert all(b - a == pytest.approx(high - LAP_MM) for a, b in pairwise(feet))
    assert lefts[-1] + wide >= drilled.width_mm
    assert feet[-1] + high >= drilled.height_mm


def test_the_words_say_where_it_goes(drilled):
    document = opened(drilling_sheets(drilled, "A4", "Larkmoor"))
    words = document[0].get_textpage().get_text_range()
    assert "Sheet 1 of 9" in words
    assert "Garage wall: lower left corner 1.00 m along, 1.20 m up" in words
