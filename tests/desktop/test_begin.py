"""A new job in the real window: starting points, choices, what comes of them, and beginning it."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QLineEdit, QPushButton

from lodestaff.desktop.stations.site.wall import unread
from lodestaff.job import Change
from lodestaff.templates import CHOICES, KINDS
from lodestaff.topology import build


@pytest.fixture
def page(empty, qtbot):
    empty.actions_by_id["new"].trigger()
    page = empty.side.new
    page.refresh()
    return page


def test_without_a_job_the_page_opens_and_goes_back(empty, page):
    assert empty.pages.currentWidget() is page
    assert page.job is not None
    page.closed.emit()
    assert empty.pages.currentWidget() is empty.welcome


def test_every_choice_has_a_control_with_a_name(page):
    assert set(page.choices.controls) == set(CHOICES)
    for control in page.choices.controls.values():
        if isinstance(control, QCheckBox):
            assert control.text()
        else:
            assert control.accessibleName()


@pytest.mark.parametrize("row", range(1, len(KINDS) + 1, 3))
def test_a_starting_point_fills_the_choices(page, row):
    page.points.setCurrentRow(row)
    page.refresh()
    wanted = list(KINDS.values())[row - 1].wanted
    assert page.job.title == wanted.title
    assert page.preview.drawing is not None
    assert page.choices.texts()["backup"] == wanted.backup
    text = page.words.text()
    lives = (
        "no backup"
        if wanted.backup == "none"
        else "circuits fed in an outage"
        if wanted.grid
        else "fed without a grid"
    )
    assert lives in text


def test_a_choice_changes_what_is_made(page, qtbot):
    page.points.setCurrentRow(0)
    box = page.choices.controls["backup"]
    assert isinstance(box, QComboBox)
    box.setCurrentText("none")
    page.refresh()
    assert "no backup" in page.words.text()
    box.setCurrentText("whole building")
    page.refresh()
    assert "11 of 11" in page.words.text()


def test_another_pack_brings_its_own_supply_earthing_and_sheets(page):
    """What was typed stays; nothing is proposed that the pack's own trade doesn't build."""
    page.points.setCurrentRow(sorted(KINDS).index("D") + 1)  # 120/240 V
    page.choices.controls["title"].setText("Mine")
    page.choices.put("pack", "anz")
    page.refresh()
    texts = page.choices.texts()
    assert (texts["title"], texts["system"], texts["earthing"]) == ("Mine", "single phase", "MEN")
    assert page.job.site.phases == ("A",)
    page.choices.put("pack", "na")
    page.refresh()
    assert page.job.mains.system == "120/240 V"
    assert page.job.title == "Mine"


def test_what_cannot_stand_together_is_said_and_nothing_typed_is_lost(page):
    page.points.setCurrentRow(0)
    line = page.choices.controls["title"]
    assert isinstance(line, QLineEdit)
    line.setText("Mill Cottage")
    page.choices.controls["arrangement"].setCurrentText("side by side")
    page.refresh()
    assert "two units or more" in page.words.text()
    assert not page.begin.isEnabled()
    assert line.text() == "Mill Cottage"
    page.choices.controls["rating_a"].setText("eighty")
    page.choices.controls["arrangement"].setCurrentText("together")
    page.refresh()
    assert "is not a number" in page.words.text()
    page.choices.controls["rating_a"].setText("80")
    page.refresh()
    assert page.begin.isEnabled()


def test_begin_makes_it_the_job_unsaved(empty, page, qtbot, settled):
    page.points.setCurrentRow(2)
    page.refresh()
    qtbot.mouseClick(page.begin, Qt.MouseButton.LeftButton)
    settled(empty)
    assert empty.store.job.title == KINDS["B"].wanted.title
    assert empty.store.changed
    assert empty.store.path is None
    assert empty.station == "site"
    site = empty.stations["site"]  # which waits for the first value that nobody read
    assert site.wall.chosen == unread(empty.store.job)[0]


def test_begin_asks_before_it_discards(window, qtbot, settled):
    window.actions_by_id["new"].trigger()
    page = window.side.new
    page.points.setCurrentRow(1)
    page.refresh()
    window.store.edit("Rename", Change("title", "Changed"))
    page.begun.emit(page.job)
    assert window.store.job.title == "Changed"
    assert any("unsaved changes" in words for words in window.notices.words())


def test_the_welcome_offers_samples(empty, settled):
    empty.welcome.sample.emit("tern-quay-boatshed")
    settled(empty)
    assert empty.store.job.title == "Tern Quay Boatshed"


def test_a_job_without_a_grid_begins_on_its_island(empty, settled):
    empty.files.open_sample("skerry-light-cottage")
    settled(empty)
    assert empty.store.state.name == "island"
    empty.go("wire")
    assert [button.text() for button in empty.stations["wire"].states.buttons()] == [
        "island",
        "generator",
        "all off",
    ]
    empty.stations["wire"]._choose("generator")
    assert empty.store.answer().unit_modes == {"hybrid": "generator"}


def test_nothing_of_the_screen_before_stays_in_view(empty, qtbot, settled, tmp_path):
    """What is laid out anew leaves no stale control behind, deleted or not."""
    there = tmp_path / "job.json"
    there.write_text("{}")
    empty.welcome.show_recent((str(there),))
    empty.welcome.show_recent((str(there),))
    qtbot.wait(30)
    buttons = empty.welcome.findChildren(QPushButton)
    assert len([button for button in buttons if "job.json" in button.text() and not button.isHidden()]) == 1
    empty.files.open_demo()
    settled(empty)
    empty.go("wire")
    empty.files.open_sample("ocotillo-wash-centre")
    settled(empty)
    station = empty.stations["wire"]
    shown = [button.text() for button in station.findChildren(QPushButton) if button.isVisible()]
    assert sorted(shown) == sorted(
        ["grid", "island", "bypass", "generator", "all off", "Propose all", "Table"]
    )
    empty.go("loads")
    assert empty.stations["loads"].deal.isVisibleTo(empty.stations["loads"])


@pytest.mark.qt_log_ignore("This plugin does not support")
def test_choices_are_made_on_the_drawing(page, qtbot):
    page.points.setCurrentRow(1)
    page.refresh()
    preview = page.preview
    preview.setFocus()
    assert preview.chosen in preview._switches()
    supply = next(name for name in preview.drawing.boxes if name == "supply")
    menu = preview.offer(supply)
    systems = next(action.menu() for action in menu.actions() if action.text() == "Supply")
    assert [action.text() for action in systems.actions() if action.isChecked()] == ["single phase"]
    next(action for action in systems.actions() if action.text() == "three phases").trigger()
    menu.close()
    page.refresh()
    assert page.choices.texts()["system"] == "three phases"
    assert page.job.mains.system == "three phases"
    typed = next(action for action in preview.offer(supply).actions() if action.text().endswith("…"))
    typed.trigger()
    preview.menu.close()
    assert page.as_list.isChecked()  # what is typed has its place in the list
    units = next(one for one in preview.spoken() if one.key == "hybrid")
    units.press()
    assert {action.text() for action in preview.menu.actions()} >= {"Family", "Number of units", "Backup"}
    preview.menu.close()


def generators(page):
    return [part.id for part in build(page.job).parts.values() if part.kind == "generator"]


def test_what_stands_there_too_is_added_by_a_press_and_says_why_it_cannot(page):
    page.points.setCurrentRow(1)
    page.refresh()
    assert generators(page) == []
    page.chips.buttons["generator"].click()
    page.refresh()
    assert generators(page)
    assert page.chips.buttons["generator"].isChecked()
    page.chips.buttons["generator"].click()
    page.refresh()
    assert generators(page) == []
    grid = page.chips.buttons["grid"]
    assert grid.isChecked()
    assert not grid.isEnabled()
    assert "whole building" in grid.toolTip()


def test_the_place_says_what_it_sets(page):
    page.points.setCurrentRow(0)
    page.choices.controls["pack"].setCurrentText("anz")
    page.refresh()
    assert "° S" in page.sets.text()
    assert page.job.pack.name.startswith("anz")
