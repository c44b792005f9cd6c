"""Every station and page by keyboard, by name, on small screens and with large words.

Source: WCAG 2.2 AA, 2.1.2 no keyboard trap, 2.4.7 focus visible, 4.1.2 name, 1.4.4 resize text, 1.4.11 edges
(published); 32 px of a target is the program's own.
"""

import pytest
from PySide6.QtWidgets import QComboBox, QLineEdit, QPushButton
from tests.desktop import audit
from tests.desktop.test_window import contrast

from lodestaff.desktop.actions import STATIONS
from lodestaff.desktop.shell.underway import NAMES
from lodestaff.desktop.theme import LOOKS, set_text_scale
from lodestaff.desktop.worker import UNDERWAY

ALL = (*(row.id for row in STATIONS), *audit.PAGES)
SIZES = ((1280, 800, 1.0), (1024, 700, 1.0), (1280, 800, 1.5), (1280, 800, 2.0))


@pytest.fixture
def plain_scale():
    yield
    set_text_scale(1.0)


@pytest.mark.parametrize("page", ALL)
def test_a_page_by_keyboard(window, settled, page, qtbot):
    shown = audit.open_page(window, page)
    settled(window)
    # a button to stop what is reckoned would come and go between two looks
    qtbot.waitUntil(lambda: not {name for _, name in UNDERWAY.tasks} & set(NAMES), timeout=60_000)
    found = audit.stops(window)
    assert found, "nothing takes the focus"
    assert len(found) < audit.MOST_STOPS
    assert len(found) == len(set(found)), f"Tab is held at {audit.said(found[-1])}"
    unseen = [
        audit.said(stop)
        for place, stop in enumerate(found)
        if audit.unseen_focus(window, stop, found[place - 1])
    ]
    assert unseen == []
    assert audit.nameless(shown) == []
    assert audit.small(shown) == []


@pytest.mark.parametrize("size", SIZES, ids=str)
def test_nothing_is_cut(window, settled, size, plain_scale):
    width, height, scale = size
    window.resize(width, height)
    set_text_scale(scale)
    window.restyle()
    cut = {}
    for page in ALL:
        shown = audit.open_page(window, page)
        settled(window)
        cut[page] = audit.clipped(shown) + audit.clipped(window.reckoning) + audit.clipped(window.bar)
    assert {page: found for page, found in cut.items() if found} == {}
    assert (window.width(), window.height()) == (width, height)


@pytest.mark.parametrize("look", LOOKS.values(), ids=lambda look: look.name)
def test_edges_of_what_is_typed_into_are_seen(look):
    for ground in (look.paper, look.panel):
        assert contrast(look.edge, ground) >= 3.0
        assert contrast(look.hand, ground) >= 3.0


def test_on_every_step_of_the_procedure_tab_goes_on(window, settled):
    """Forms differ by step: each kind of them once."""
    station = audit.open_page(window, "commission")
    seen = set()
    for _ in range(41):
        form = tuple(
            widget.isHidden()
            for widget in (*station.card.fields.values(), station.card.reading, station.card.yes)
        )
        if form not in seen:
            seen.add(form)
            station.drawing.setFocus()
            found = audit.stops(window)
            assert len(found) > 5
            assert len(found) == len(set(found)), audit.said(found[-1])
        station._go(1)
    assert len(seen) > 3


def test_on_a_step_targets_are_hit_in_gloves(window, settled):
    station = audit.open_page(window, "commission")
    settled(window)
    kinds = (QPushButton, QLineEdit, QComboBox)
    low = [
        f"{audit.said(widget)} {widget.height()}"
        for kind in kinds
        for widget in station.card.findChildren(kind)
        if widget.isVisible() and widget.height() < 48 and not isinstance(widget.parentWidget(), QComboBox)
    ]
    assert low == []
