"""Finding one's way: all findings on a page, help on what is in view, the guide, the finder, the tour."""

import re
from pathlib import Path
from xml.etree import ElementTree

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QPageLayout
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QTabBar
from tests.desktop import audit

from lodestaff.checks.table import CHECKS
from lodestaff.desktop.actions import ACTIONS, STATIONS
from lodestaff.desktop.help.chapters import GUIDE, chapters
from lodestaff.desktop.help.entries import check_entry, codes
from lodestaff.desktop.printing import document_of, paper
from lodestaff.desktop.shell.finder import matching
from lodestaff.desktop.shell.finder_entries import all_entries
from lodestaff.desktop.shell.menus import lettered, unlettered
from lodestaff.desktop.shell.window import EXPLAINED
from lodestaff.desktop.theme import set_text_scale, text_scale
from lodestaff.job import Change

ROOT = Path(__file__).parents[2]
BOLD = re.compile(r"\*\*([^*]+)\*\*")
SIGNS = {"blocks", "warns", "notes", "open", "passed", "Figures"}  # words of a finding and of the pane


# --- all findings ------------------------------------------------------------------------------------------
@pytest.fixture
def findings(window):
    window.side.open_findings()
    return window.side.findings


def test_every_finding_is_on_the_page_and_can_be_chosen(findings, window):
    findings.status.setCurrentText("all")
    shown = [finding for cause in findings.table.rows for finding in cause.findings]
    assert len(shown) == len(window.store.results.findings)
    findings.by_cause.setChecked(False)
    assert all(cause.count == 1 for cause in findings.table.rows)
    findings.station.setCurrentIndex(findings.station.findData("wire"))
    assert {cause.worst.code.partition("-")[0] for cause in findings.table.rows} <= {"WIRE", "STO"}
    findings.typed.setText("drop array run b")
    assert [cause.worst.code for cause in findings.table.rows] == ["WIRE-DROP"]


def test_enter_goes_to_where_a_finding_stands(findings, window):
    cause = next(cause for cause in findings.table.rows if cause.worst.code == "LIM-RESERVE")
    findings.table.act(cause)
    assert window.station == "limits"
    assert window.reckoning.finding_in_working() is cause.worst


def test_the_page_follows_the_job(findings, window, settled):
    before = findings.table.rows
    window.store.edit("Promise less", Change("wishes/outage_h", 1.0))
    settled(window)
    assert findings.table.rows != before


def test_what_is_printed_is_what_is_in_view(findings):
    findings.typed.setText("LOAD-LOCK")
    html = findings.html()
    assert "LOAD-LOCK" in html
    assert "WIRE-" not in html
    document = document_of(html)
    assert document.pageCount() >= 1
    assert paper(True).orientation() is QPageLayout.Orientation.Landscape


# --- help --------------------------------------------------------------------------------------------------
@pytest.mark.parametrize("station", [row.id for row in STATIONS if row.id != "commission"])
def test_help_on_a_station_is_its_chapter(window, station):
    window.go(station)
    window.actions_by_id["help"].trigger()
    assert window.side.help.list.currentItem().data(Qt.ItemDataRole.UserRole) == station
    window.side.help.closed.emit()
    assert window.pages.currentWidget() is window.stations[station]


def test_help_on_a_finding_is_the_entry_of_its_check(window):
    window.go("loads")
    card = window.reckoning.cards[0]
    card.setFocus()
    window.guidance.help_here()
    assert card.cause.worst.code in window.side.help.text.toPlainText()


def test_help_on_a_step_says_what_it_does(window):
    station = audit.open_page(window, "commission")
    window.guidance.help_here()
    assert station.card.result.step.text in window.side.help.text.toPlainText()


def test_help_without_a_job_begins_at_the_beginning(empty):
    empty.guidance.help_here()
    assert "How a job goes" in empty.side.help.text.toPlainText()
    empty.side.help.closed.emit()
    assert empty.pages.currentWidget() is empty.welcome


@pytest.mark.parametrize("code", codes())
def test_every_check_has_an_entry(code):
    entry = check_entry(code)
    for check in CHECKS:
        if check.code == code:
            assert check.question in entry


def test_the_guide_is_whole_and_its_pictures_are_there():
    assert {path.stem for path in (ROOT / "docs" / "guide").glob("*.md")} == set(GUIDE)
    for chapter in chapters():
        for picture in re.findall(r"!\[[^]]+\]\(([^)]+)\)", chapter.text):
            assert (chapter.folder / picture).is_file(), picture


def test_what_the_guide_sets_bold_stands_in_the_window(window, reckoned):
    """A reader finds the words of the guide on the screen, letter by letter."""
    window.files.open_sample("ocotillo-wash-centre")  # it has every button that the guide speaks of
    reckoned(window)
    words = {row.words for row in ACTIONS} | {row.menu for row in ACTIONS} | SIGNS
    words |= {row.name for row in STATIONS}
    for page in (*(row.id for row in STATIONS), *audit.PAGES):
        shown = audit.open_page(window, page)
        words |= {button.text() for button in shown.findChildren(QAbstractButton)}
        words |= {box.itemText(i) for box in shown.findChildren(QComboBox) for i in range(box.count())}
        words |= {bar.tabText(i) for bar in shown.findChildren(QTabBar) for i in range(bar.count())}
    words |= {button.text() for button in window.welcome.findChildren(QAbstractButton)}
    words |= {button.text() for button in window.bar.findChildren(QAbstractButton)}
    missing = {
        (chapter.id, bold)
        for chapter in chapters()
        if chapter.id in GUIDE
        for bold in BOLD.findall(chapter.text)
        if bold not in words
    }
    assert missing == set()


# --- finder, menus -----------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    ("typed", "found"),
    [
        ("print", "Print the pack…"),
        ("serial", "Handover"),
        ("cable", "Wire"),
        ("night", "Limits"),
        ("export", "Limits"),
        ("glossary", "Words of the trade"),
        ("vaccine", "Vaccine fridges"),
        ("main isolator", "Main isolator"),
        ("reserve", "Reserve"),
        ("handover pack", "Handover: the pack"),
    ],
)
def test_the_finder_knows_the_trades_words(window, typed, found):
    entries = matching(all_entries(window, window.guidance.show_finding), typed)
    assert found in [entry.words for entry in entries[:12]]


def test_every_entry_of_a_menu_has_a_letter_of_its_own(window):
    for name, menu in window.menus.menus.items():
        letters = [
            action.text()[action.text().index("&") + 1].lower()
            for action in menu.actions()
            if "&" in action.text()
        ]
        unlettered_entries = [action.text() for action in menu.actions() if "&" not in action.text()]
        assert unlettered_entries == [], name
        named = [letter for letter, action in zip(letters, menu.actions(), strict=True)
                 if action not in (window.actions_by_id["undo"], window.actions_by_id["redo"])]  # fmt: skip
        assert len(named) == len(set(named)), name


def test_a_letter_is_that_of_a_word_where_one_is_free():
    taken: set[str] = set()
    assert [lettered(words, taken) for words in ("Save", "Save as…", "Stop")] == [
        "&Save",
        "Save &as…",
        "S&top",
    ]
    assert unlettered("S&top") == "Stop"


def test_several_steps_are_taken_back_from_a_list(window):
    for name in ("first", "second", "third"):
        window.store.edit(name, Change("title", name))
    steps = window.menus.within["Undo several steps"]
    steps.aboutToShow.emit()
    assert [action.text() for action in steps.actions()][:3] == ["third", "second", "first"]
    steps.actions()[1].trigger()
    assert window.store.job.title == "first"


# --- tour, customer, clipboard -----------------------------------------------------------------------------
def test_the_tour_goes_through_every_station_and_ends(window):
    window.guidance.begin_tour()
    seen = []
    while not window.guidance.tour.isHidden():
        seen.append((window.station, window.store.moment.grid))
        window.guidance.tour.next.click()
    assert list(dict.fromkeys(name for name, _ in seen)) == [row.id for row in STATIONS]
    assert ("wire", False) in seen
    assert window.store.moment.grid


def test_the_tour_leaves_unsaved_work_alone(window):
    window.store.edit("Rename", Change("title", "Mine"))
    window.guidance.begin_tour()
    assert window.guidance.tour.isHidden()
    assert window.store.job.title == "Mine"


@pytest.mark.parametrize("scale", [1.0, 1.8])
def test_a_customer_is_shown_figures_without_findings(window, scale):
    window.go("loads")
    set_text_scale(scale)
    hint = window.stations["loads"].words.isVisible()
    before = text_scale()
    window.guidance.present()
    assert window.reckoning.cards == []
    assert text_scale() > before  # and comes back, also where the largest words cut it short
    window.guidance.present()
    assert text_scale() == pytest.approx(before)
    assert window.stations["loads"].words.isVisible() == hint
    assert window.reckoning.cards
    set_text_scale(1.0)


def test_a_figure_is_copied_with_its_working(window):
    window.go("loads")
    window.reckoning.copy_working()
    assert "Backed up together\t" in QApplication.clipboard().text()
    window.reckoning.open_working(window.reckoning.views[0].reading)
    window.reckoning.copy_working()
    assert "Formula" in QApplication.clipboard().text()


@pytest.mark.parametrize("station", ["site", "loads", "array", "wire", "limits"])
def test_a_drawing_is_copied_as_svg_and_as_pixels(window, station, settled):
    window.go(station)
    settled(window)
    window.actions_by_id["copy-drawing"].trigger()
    found = QApplication.clipboard().mimeData()
    svg = bytes(found.data("image/svg+xml").data())
    root = ElementTree.fromstring(svg)
    assert root.tag.endswith("svg")
    assert len(svg) > 2000
    rows = [line.split("\t") for line in found.text().splitlines()]
    assert len(rows) > 3
    assert all(len(row) == 2 and row[0] for row in rows)
    assert found.hasImage()


def test_hints_stand_on_the_first_visits_and_words_always(window, settled):
    window.go("storage")
    storage = window.stations["storage"]
    assert storage.words.isVisible()
    window.files.change_settings(visits={"limits": EXPLAINED, "loads": 0})
    window.go("limits")
    limits = window.stations["limits"]
    assert not limits.words.isVisible()
    limits.say("Something to know")
    assert limits.words.isVisible()
    assert window.files.settings.visits["limits"] == EXPLAINED + 1


def test_the_staff_says_how_far_a_station_is_read(window):
    item = next(item for item in window.staff.spoken() if item.key == "storage")
    share = window.staff.read["storage"]
    assert 0 < share < 1
    assert item.value.endswith(f"{round(100 * share)} % read")
    assert window.staff.read["commission"] == 0.0


def test_the_finder_names_what_stands_there_and_nothing_else(window, reckoned):
    def words(sample):
        window.files.open_sample(sample)
        reckoned(window)
        return {entry.words for entry in all_entries(window, window.guidance.show_finding)}

    assert not {"Export limit", "Import limit", "Charge window", "Reserve"} & words("skerry-light-cottage")
    assert not any(text.startswith("String ") for text in words("gannet-point-lodge"))
