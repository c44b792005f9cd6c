"""The diagram of every device in print: words of six points or more, sheets that overlap, nothing cut."""

from itertools import pairwise

import pytest

from lodestaff.exchange.sheets import LEAST_PT, OVERLAP_MM, TITLE_PT, sheets_of
from lodestaff.job import load_job
from lodestaff.samples import sample_names, sample_path
from lodestaff.wiring import draw

MM = 72 / 25.4
PAPER = {"A4": (297 * MM - 57, 210 * MM - 85), "Letter": (792 - 57, 612 - 85)}


@pytest.mark.parametrize("name", sample_names())
def test_every_word_can_be_read_and_nothing_is_cut_off(reckoner, name):
    job = load_job(sample_path(name))
    wiring = reckoner.wiring(job)
    drawing = draw(wiring.topology, wiring.answers[0].positions)
    width, height = PAPER[job.pack.paper]
    found = sheets_of(drawing, width, height)
    assert [sheet.number for sheet in found] == [*range(1, found[0].of + 1)]
    for sheet in found:
        assert sheet.scale * drawing.text_mm >= LEAST_PT - 1e-9
    wide, tall = width / found[0].scale, (height - TITLE_PT) / found[0].scale
    xs, ys = sorted({sheet.x_mm for sheet in found}), sorted({sheet.y_mm for sheet in found})
    for starts, size, whole in ((xs, wide, drawing.width), (ys, tall, drawing.height)):
        assert starts[0] <= 1e-9
        assert starts[-1] + size >= whole - 1e-9
        for one, other in pairwise(starts):
            assert one + size - other >= OVERLAP_MM - 1e-9
    for sheet in found:
        below = sheet.neighbour(1, 0)
        assert below is None or next(one for one in found if one.number == below).column == sheet.column
