"""Buttons in rows, and rails at larger text: nothing is cut off."""

import itertools

import pytest
from PySide6.QtCore import QRect
from PySide6.QtGui import QFontMetricsF
from PySide6.QtWidgets import QPushButton, QWidget

from lodestaff.desktop.flow import GAP, FlowLayout
from lodestaff.desktop.stations.loads.geometry import lay_rails
from lodestaff.desktop.theme import font
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.load_groups import load_groups


@pytest.fixture
def row(qtbot):
    parent = QWidget()
    qtbot.addWidget(parent)
    flow = FlowLayout(parent)
    for words in ("Day", "Add…", "Backups", "Best split", "Balance legs"):
        flow.addWidget(QPushButton(words))
    yield flow
    parent.close()  # it is kept until here: the layout lives with it


def boxes(flow):
    return [flow.itemAt(index).geometry() for index in range(flow.count())]


def test_wide_enough_is_one_row(row):
    wide = sum(row.itemAt(n).sizeHint().width() + GAP for n in range(row.count()))
    row.setGeometry(QRect(0, 0, wide, 40))
    assert len({box.top() for box in boxes(row)}) == 1
    assert row.heightForWidth(wide) == max(box.height() for box in boxes(row))


def test_narrow_wraps_and_nothing_overlaps_or_is_squeezed(row):
    row.setGeometry(QRect(0, 0, 180, 200))
    found = boxes(row)
    assert len({box.top() for box in found}) > 1
    for one, other in itertools.combinations(found, 2):
        assert not one.intersects(other)
    for index, box in enumerate(found):
        assert box.size() == row.itemAt(index).sizeHint()
    assert row.heightForWidth(180) == max(box.bottom() for box in found) + 1


def test_items_are_taken_out_and_missing_ones_are_none(row):
    assert row.itemAt(9) is None
    assert row.takeAt(9) is None
    row.takeAt(0)
    assert row.count() == 4


@pytest.mark.parametrize("scale", [1.0, 1.5, 2.0])
def test_rails_have_room_for_larger_text(larkmoor, qapp, scale):
    metrics = QFontMetricsF(font("label"))
    found = load_groups(larkmoor, Reckoner().wiring(larkmoor))
    rails = lay_rails(larkmoor, found, {}, 820, 620, metrics, (metrics.height() + 1) * scale)
    assert rails.size == pytest.approx((metrics.height() + 1) * scale / 16)
    for rail in rails.rails:
        if rail.group.first:
            assert rail.base - rail.band.top() >= 20 * rails.size
        for block in rail.blocks:
            assert block.rect.bottom() <= rail.base + 0.5
            assert block.label.top() >= rail.band.top()
    bands = [rail.band for rail in rails.rails]
    assert rails.night.top() >= bands[-1].bottom()
