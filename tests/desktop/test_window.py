"""The shell: opening, saving, rescue, notices, keys, looks, sizes."""

import json
import os
import subprocess
import sys
import time
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtWidgets import QWidget

from lodestaff.desktop.actions import ACTIONS, STATIONS
from lodestaff.desktop.rescue import Rescue, Work, find_rescued
from lodestaff.desktop.settings import Settings, load_settings, rescue_folder, save_settings, settings_path
from lodestaff.desktop.shell.finder import Entry, matching
from lodestaff.desktop.shell.menus import unlettered
from lodestaff.desktop.shell.working import working_html
from lodestaff.desktop.theme import LOOKS, current, look_of, set_look, set_text_scale, text_scale
from lodestaff.job import Change, edit, load_job, save_job
from lodestaff.quantities.faults import faults_folder


@pytest.fixture(autouse=True)
def day_look():
    yield
    set_look("day")


# --- opening and saving ---------------------------------------------------------------------------------
def test_the_first_screen_offers_the_demo_and_recent_jobs(empty, larkmoor, tmp_path):
    assert empty.pages.currentWidget() is empty.welcome
    path = tmp_path / "job.json"
    save_job(larkmoor, path)
    assert empty.files.open_path(path)
    assert load_settings().recent == (str(path.resolve()),)
    assert empty.windowTitle().startswith("Larkmoor Veterinary Surgery")


def test_saving_and_opening_again(window, tmp_path, settled):
    path = tmp_path / "job.json"
    window.store.edit("Set the reserve to 40 %", Change("limits/reserve_soc", 0.4))
    assert window.store.changed
    assert window.store.save(path)
    assert not window.store.changed
    assert load_job(path).limits.reserve_soc == 0.4
    window.store.edit("b", Change("limits/reserve_soc", 0.5))
    window.store.undo()
    assert not window.store.changed


def test_a_refused_save_is_said_and_nothing_is_lost(window, tmp_path):
    window.store.edit("Set the reserve to 40 %", Change("limits/reserve_soc", 0.4))
    assert not window.store.save(tmp_path / "nowhere" / "job.json")
    assert "Not saved." in window.notices.words()[0]
    assert window.store.changed
    assert window.store.job.limits.reserve_soc == 0.4
    assert json.loads(next(rescue_folder().glob("*.json")).read_text())["job"]
    assert window.store.save(tmp_path / "job.json")
    assert window.notices.words() == []


def test_a_bad_file_leaves_the_present_job(window, tmp_path):
    bad = tmp_path / "bad.json"
    bad.write_text('{"schema_version": 2}')
    before = window.store.job
    assert not window.files.open_path(bad)
    assert window.store.job is before
    assert "Not opened." in window.notices.words()[0]
    assert "bad.json" in window.notices.words()[0]


def test_unsaved_work_is_asked_about_before_it_is_left(window, tmp_path, larkmoor):
    other = tmp_path / "other.json"
    save_job(edit(larkmoor, Change("title", "Other")), other)
    window.store.edit("a", Change("limits/reserve_soc", 0.4))
    assert not window.files.open_path(other)
    assert "unsaved changes" in window.notices.words()[0]
    assert window.store.job.title == "Larkmoor Veterinary Surgery"
    window.files._open(other)
    assert window.store.job.title == "Other"


def test_closing_with_unsaved_work_asks(window):
    window.store.edit("a", Change("limits/reserve_soc", 0.4))
    assert not window.close()
    assert "unsaved changes" in window.notices.words()[0]


@pytest.mark.parametrize(
    ("name", "start"), [("pack.pdf", b"%PDF"), ("pack.xlsx", b"PK"), ("pack.svg", b"<?xml")]
)
def test_the_pack_is_written_off_the_windows_thread(qtbot, window, tmp_path, name, start):
    target = tmp_path / name
    window.files.write_pack(target)
    qtbot.waitUntil(lambda: any("Written to" in words for words in window.notices.words()), timeout=30_000)
    assert target.read_bytes().startswith(start)


def test_a_pack_that_cannot_be_written_is_said(qtbot, window, tmp_path):
    for target in (tmp_path / "nowhere" / "pack.pdf", tmp_path / "pack.doc"):
        window.files.write_pack(target)
        qtbot.waitUntil(
            lambda: any("Not written." in words for words in window.notices.words()), timeout=30_000
        )
        window.notices.settle("pack")


# --- rescue ------------------------------------------------------------------------------------------------
CRASH = """
import os, sys
from pathlib import Path
from PySide6.QtCore import QTimer
from lodestaff.desktop.start import application
from lodestaff.desktop.shell.window import Window
from lodestaff.job import Change
app = application()
window = Window()
window.show()
window.files.open_demo()
window.store.edit("Set the reserve to 44 %", Change("limits/reserve_soc", 0.44))
QTimer.singleShot(1900, lambda: print("ready", flush=True))
app.exec()
"""


def test_killed_with_unsaved_work_the_next_start_offers_it(qtbot, empty, throw_away_home):
    with subprocess.Popen(
        [sys.executable, "-c", CRASH], stdout=subprocess.PIPE, text=True, env=dict(os.environ)
    ) as child:
        assert child.stdout is not None
        assert child.stdout.readline().strip() == "ready"
        assert find_rescued() == ([], [])  # it still runs
        child.kill()
    time.sleep(0.05)
    ((rescued,), _) = find_rescued()
    assert rescued.job.limits.reserve_soc == 0.44
    empty.files.offer_rescued()
    assert "was kept when the program ended unexpectedly" in empty.notices.words()[0]
    empty.files.take_rescued(rescued)
    assert empty.store.job.limits.reserve_soc == 0.44
    assert empty.store.changed
    assert find_rescued() == ([], [])


def test_a_clean_end_leaves_no_rescue(qtbot, window):
    window.store.edit("a", Change("limits/reserve_soc", 0.4))
    qtbot.waitUntil(lambda: any(rescue_folder().glob("*.json")), timeout=5000)
    window.files.leaving = True
    window.close()
    assert not any(rescue_folder().glob("*.json"))


DAMAGED = (
    "{",
    "[]",
    '{"process": 3, "pid": "x"}',
    '{"pid": 999999999, "path": "", "job": "{}"}',
    "[" * 99_999,
)


def test_a_damaged_rescue_file_is_set_aside_and_said(empty):
    rescue_folder().mkdir(parents=True, exist_ok=True)
    damaged = rescue_folder() / "1-x.json"
    for content in DAMAGED:
        damaged.write_text(content)
        assert find_rescued() == ([], [damaged.with_suffix(".damaged")])
    damaged.write_text("{")
    empty.files.offer_rescued()
    assert any("1-x.damaged" in words for words in empty.notices.words())


def test_a_process_with_the_same_number_is_told_apart_by_its_start(larkmoor):
    """Numbers are given anew: where the process began at another time, the program is gone."""
    Rescue(lambda: None, pytest.fail).write(Work(larkmoor, None))
    assert find_rescued() == ([], [])
    (file,) = rescue_folder().glob("*.json")
    content = json.loads(file.read_text())
    content["process"]["start"] = "1"
    file.write_text(json.dumps(content))
    ((found,), _) = find_rescued()
    assert found.job == larkmoor


def test_a_burst_of_edits_is_kept_while_it_lasts(qtbot, window):
    for step in range(16):
        window.store.edit("a", Change("limits/reserve_soc", 0.3 + step / 1000))
        qtbot.wait(40)
    (file,) = rescue_folder().glob("*.json")
    assert json.loads(json.loads(file.read_text())["job"])["limits"]["reserve_soc"] > 0.3


def test_a_fault_of_the_program_rescues_first(window, capsys):
    window.store.edit("a", Change("limits/reserve_soc", 0.4))
    window.our_fault(RuntimeError("boom"))
    assert any(rescue_folder().glob("*.json"))
    (trace,) = faults_folder().glob("*.txt")
    assert "RuntimeError: boom" in trace.read_text()
    assert any("please report it" in words and str(trace) in words for words in window.notices.words())


# --- settings ----------------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    "text", ["", "{", "[]", '{"look": 3, "text_scale": "big", "recent": 7}', '{"unknown": 1}']
)
def test_damaged_settings_mean_the_defaults(text):
    settings_path().parent.mkdir(parents=True)
    settings_path().write_text(text)
    loaded = load_settings()
    assert loaded.text_scale == 0.0  # none chosen: the system's own
    assert loaded.recent == ()


def test_settings_come_back(tmp_path):
    made = (
        Settings("dusk", 1.3)
        .with_recent(tmp_path / "a.json")
        .with_recent(tmp_path / "b.json")
        .with_recent(tmp_path / "a.json")
    )
    assert save_settings(made)
    assert load_settings() == made
    assert [Path(one).name for one in made.recent] == ["a.json", "b.json"]


# --- keys, finder, working ---------------------------------------------------------------------------------
def test_no_two_actions_share_a_shortcut():
    keys = [row.shortcut for row in ACTIONS if row.shortcut] + [row.key for row in STATIONS]
    assert len(set(keys)) == len(keys)
    assert [(row.name, row.key) for row in STATIONS] == [
        ("Site", "1"),
        ("Loads", "2"),
        ("Array", "3"),
        ("Storage", "4"),
        ("Place", "5"),
        ("Wire", "6"),
        ("Limits", "7"),
        ("Visits", "8"),
        ("Commission", "9"),
        ("Handover", "0"),
    ]


@pytest.mark.parametrize(
    ("key", "station"), [(Qt.Key.Key_6, "wire"), (Qt.Key.Key_7, "limits"), (Qt.Key.Key_2, "loads")]
)
def test_stations_by_their_keys(qtbot, window, key, station):
    window.activateWindow()
    qtbot.keyClick(window, key)
    assert window.station == station


def test_the_staff_by_mouse_and_keyboard(qtbot, window):
    staff = window.staff
    qtbot.mouseClick(staff, Qt.MouseButton.LeftButton, pos=staff.row_rect(5).center().toPoint())
    assert window.station == "wire"
    qtbot.keyClick(staff, Qt.Key.Key_Up)
    qtbot.keyClick(staff, Qt.Key.Key_Return)
    assert window.station == "place"


def test_the_finder_does_what_is_typed(qtbot, window):
    window.guidance.find()
    qtbot.keyClicks(window.guidance.finder.line, "grid off")
    qtbot.keyClick(window.guidance.finder.line, Qt.Key.Key_Return)
    assert not window.store.moment.grid
    entries = [Entry("Open a job…", "", lambda: None), Entry("Undo: move freezer", "", lambda: None)]
    assert [entry[0] for entry in matching(entries, "move un")] == ["Undo: move freezer"]


def test_recent_jobs_stand_in_the_menu_and_the_finder(window, larkmoor, tmp_path):
    path = tmp_path / "lately.json"
    save_job(larkmoor, path)
    window.files.open_path(path)
    recent = window.menus.within["Recent jobs"]
    recent.aboutToShow.emit()
    assert [action.text() for action in recent.actions()] == ["lately.json"]
    window.guidance.find()
    assert any(words == "Open lately.json" for words, *_ in window.guidance.finder.entries)


def test_checks_that_passed_are_folded_away_until_asked_for(qtbot, window):
    window.go("wire")
    panel = window.reckoning
    assert all(card.cause.status != "passed" for card in panel.cards)
    assert "checks that passed" in panel.fold_button.text()
    panel.fold_button.click()
    assert sum(card.cause.count for card in panel.cards) == len(window.stations["wire"].findings())
    panel.fold_button.click()
    assert sum(card.cause.count for card in panel.cards) < len(window.stations["wire"].findings())


def test_answers_of_one_cause_are_one_card_and_shown_each_when_asked_for(qtbot, window, settled):
    window.files.open_sample("ocotillo-wash-centre")
    settled(window)
    window.go("wire")
    panel = window.reckoning
    before = len(panel.cards)
    card = next(card for card in panel.cards if card.cause.count > 3)
    qtbot.keyClick(card, Qt.Key.Key_Return)
    assert len(panel.cards) == before + card.cause.count
    inner = next(card for card in panel.cards if card.inner)
    qtbot.keyClick(inner, Qt.Key.Key_Return)
    assert panel.currentWidget() is panel.working
    panel.working.closed.emit()
    head = next(each for each in panel.cards if each.opened)
    qtbot.keyClick(head, Qt.Key.Key_Space)
    assert len(panel.cards) == before


def test_undo_is_named_in_the_menu(window):
    window.store.edit("Move Server to grid only", Change("circuits/server/role", "grid only"))
    assert unlettered(window.actions_by_id["undo"].text()) == "Undo: Move Server to grid only"
    assert not window.actions_by_id["redo"].isEnabled()


def test_the_moment_by_keys(window):
    window.actions_by_id["hour-later"].trigger()
    assert window.store.moment.hour == 19.0
    window.actions_by_id["month-earlier"].trigger()
    assert window.store.moment.month == 12


def test_a_reading_opens_its_working_and_escape_goes_back(qtbot, window):
    (first, *_) = window.stations["loads"].readings()
    window.reckoning.open_working(first)
    assert window.reckoning.currentIndex() == 1
    qtbot.keyClick(window.reckoning.working, Qt.Key.Key_Escape)
    assert window.reckoning.currentIndex() == 0


def test_the_working_has_everything_one_needs_to_doubt_it(window):
    for finding in window.store.results.findings:
        html = working_html(finding)
        for word in ("Formula", "Source"):
            assert word in html
        if finding.limit is not None:
            assert "Limit" in html


# --- looks, sizes, names -----------------------------------------------------------------------------------
def luminance(colour):
    channels = [int(colour[index : index + 2], 16) / 255 for index in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one, other):
    """Source: WCAG 2.1, contrast ratio (published)."""
    low, high = sorted((luminance(one), luminance(other)))
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("name", list(LOOKS))
def test_text_can_be_read_in_every_look(name):
    look = LOOKS[name]
    for ground in (look.paper, look.panel, look.staff):
        for ink in (
            "ink",
            "soft",
            "hand",
            "blocks",
            "warns",
            "notes",
            "open",
            "passed",
            "sun",
            "battery",
            "grid",
            "load",
        ):
            assert contrast(getattr(look, ink), ground) >= 4.5, (ink, ground)
    assert contrast(look.ink, look.hand_ground) >= 4.5


@pytest.mark.parametrize("name", list(LOOKS))
def test_each_look_is_put_on_and_remembered(window, name):
    window.choose_look(name)
    assert current().name == name
    assert load_settings().look == name
    assert current().ink in window.styleSheet()


@pytest.mark.parametrize("size", [(1280, 800), (1024, 700)])
@pytest.mark.parametrize("station", [row.id for row in STATIONS])
def test_the_window_fits_its_sizes(qapp, window, size, station):
    """Nothing asks for more room than a small laptop has, and nothing stands outside the window."""
    window.resize(*size)
    window.go(station)
    qapp.processEvents()
    assert (window.width(), window.height()) == size
    inside = window.rect()
    for widget in (window.staff, window.bar, window.reckoning, window.stations[station].drawing):
        corner = widget.mapTo(window, widget.rect().bottomRight())
        assert inside.contains(corner), widget


def test_text_scales_to_double(qapp, window):
    for _ in range(2):
        window.scale_text(0.6)
    assert text_scale() == 2.0
    assert load_settings().text_scale == 2.0
    qapp.processEvents()
    for _ in range(2):
        window.scale_text(-0.7)
    assert text_scale() == 0.8
    window.scale_text(0.2)


def test_every_control_has_a_name(window):
    window.go("wire")
    for widget in window.findChildren(QWidget):
        if (
            widget.focusPolicy() & Qt.FocusPolicy.TabFocus
            and widget.isVisible()
            and widget.metaObject().className() != "QScrollArea"
        ):
            words = widget.accessibleName() or getattr(widget, "text", lambda: "")() or widget.objectName()
            assert words, widget


def test_a_change_of_job_while_figures_are_computed_shows_the_newest(window, settled):
    for value in (0.31, 0.42, 0.53, 0.64):
        window.store.edit(f"Set the reserve to {value}", Change("limits/reserve_soc", value))
    settled(window)
    assert window.store.results.job.limits.reserve_soc == 0.64


def test_weather_that_cannot_be_leaves_the_job_open_with_words(qtbot, window, settled):
    data = window.store.job.site.weather.model_dump(mode="json")
    window.store.edit("Set the clearness", Change("site/weather", {**data, "clearness": [0.84] * 12}))
    qtbot.waitUntil(
        lambda: any("can't be computed" in words for words in window.notices.words()), timeout=20_000
    )
    assert window.store.results is None
    window.store.undo()
    settled(window)
    assert window.notices.words() == []


def test_a_window_change_is_painted(qapp, window):
    """Every station paints without a Qt warning (a warning fails the test) in every look."""
    for name in LOOKS:
        window.choose_look(name, keep=False)
        for row in STATIONS:
            window.go(row.id)
            qapp.processEvents()
            assert not window.grab().isNull()
    qapp.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.mark.parametrize(("scheme", "look"), [("Dark", "dusk"), ("Light", "day"), ("Unknown", "day")])
def test_a_person_who_chose_no_look_gets_that_of_the_system(scheme, look):
    assert look_of(getattr(Qt.ColorScheme, scheme)) == look
    assert Settings().look == ""


@pytest.mark.parametrize(("size", "scale"), [((1280, 800), 1.0), ((1024, 700), 1.0), ((1280, 800), 2.0)])
def test_every_station_has_its_whole_row_on_the_staff(window, settled, size, scale):
    window.resize(*size)
    set_text_scale(scale)
    window.restyle()
    settled(window)
    last = window.staff.row_rect(len(STATIONS) - 1)
    assert last.bottom() <= window.staff.height() + 1
    assert last.height() >= 24 * scale + 17  # name, key and bar
    set_text_scale(1.0)
