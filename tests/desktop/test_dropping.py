"""Files dropped on the window, and what the disk's side of a desktop program owes."""

from pathlib import Path

import pytest
from PySide6.QtCore import QByteArray, QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QApplication, QLineEdit

from lodestaff.desktop.settings import load_settings
from lodestaff.desktop.shell.dropping import kind_of
from lodestaff.desktop.shell.files import with_suffix
from lodestaff.desktop.shell.window import Window
from lodestaff.job import save_job
from lodestaff.samples import sample_path

HORIZON = "azimuth,elevation\n0,5\n90,12\n180,3\n270,8\n"
LOG = "time,kWh\n" + "".join(
    f"2025-01-01 {hour:02d}:{half},0.4\n" for hour in range(24) for half in ("00", "30")
)


def drop(window, *paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    keys = (Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(window, QDragEnterEvent(QPoint(100, 100), *keys))
    event = QDropEvent(QPointF(100, 100), *keys)
    QApplication.sendEvent(window, event)


def written(tmp_path, name, text):
    path = tmp_path / name
    path.write_text(text)
    return path


@pytest.mark.parametrize(
    ("name", "text", "kind"),
    [
        ("job.json", "{}", "job"),
        ("a.JPG", "", "photo"),
        ("year.epw", "", "weather"),
        ("h.csv", HORIZON, "horizon"),
        ("log.csv", LOG, "meter"),
        ("log.xml", "<a/>", "meter"),
        ("notes.pdf", "", ""),
    ],
)
def test_a_file_is_told_by_its_name_and_content(tmp_path, name, text, kind):
    assert kind_of(written(tmp_path, name, text)) == kind


def test_a_job_is_opened_and_a_horizon_taken(empty, tmp_path, larkmoor, settled):
    path = tmp_path / "mine.json"
    save_job(larkmoor, path)
    drop(empty, path)
    settled(empty)
    assert empty.store.path == path
    drop(empty, written(tmp_path, "h.csv", HORIZON))
    assert len(empty.store.job.site.horizon) == 4
    assert empty.station == "site"
    site = empty.stations["site"]
    assert site.no_horizon.isEnabled()
    site.no_horizon.trigger()
    assert empty.store.job.site.horizon == ()
    assert not site.no_horizon.isEnabled()


def test_a_log_goes_to_the_meter_and_what_belongs_nowhere_is_said(window, tmp_path):
    drop(window, written(tmp_path, "log.csv", LOG))
    assert window.pages.currentWidget() is window.side.meter
    drop(window, written(tmp_path, "notes.pdf", ""))
    assert any("nothing that this window takes" in words for words in window.notices.words())


def test_photos_go_to_the_part_that_is_chosen(window):
    window.go("loads")
    drop(window, Path("a.png"))
    assert any("choose it at Site" in words for words in window.notices.words())
    window.go("site")
    window.notices.settle("dropped")
    drop(window, Path("a.png"))  # a value of the supply is chosen, which takes none
    assert any("choose it at Site" in words for words in window.notices.words())


def test_without_a_job_its_files_wait(empty, tmp_path):
    drop(empty, written(tmp_path, "h.csv", HORIZON))
    assert any("none is open" in words for words in empty.notices.words())


@pytest.mark.parametrize(("name", "path"), [("a", "a.json"), ("a.json", "a.json"), ("b.pdf", "b.pdf")])
def test_the_usual_suffix_is_put_on_where_none_is_typed(name, path):
    assert with_suffix(name, ".json") == Path(path)


def test_how_a_job_stood_and_where_the_window_stood_are_kept(window, tmp_path, qtbot):
    path = tmp_path / "mine.json"
    assert window.store.save(path)
    assert window.files.save()
    assert "blocks" in load_settings().states[str(path)]
    window.close()
    kept = QByteArray.fromBase64(load_settings().window.encode())
    again = Window()
    qtbot.addWidget(again)
    assert again.restoreGeometry(kept)


def test_what_was_written_can_be_opened(window, tmp_path):
    path = tmp_path / "pack.pdf"
    path.write_text("x")
    window.files._written(f"Written to {path}.", path)
    texts = [button.text() for button in window.notices.findChildren(type(window.bar.grid))]
    assert {"Open", "Show in folder"} <= set(texts)


def test_the_first_screen_draws_its_samples_when_it_stands(empty, qtbot):
    samples = empty.welcome.samples
    qtbot.waitUntil(lambda: samples.cards[0].drawing is not None, timeout=15000)
    assert samples.cards[0].title == "Larkmoor Veterinary Surgery"
    samples.soon.stop()
    opened = []
    empty.welcome.sample.connect(opened.append)
    empty.welcome.sample.disconnect(empty.files.open_sample)
    samples.cards[1].click()
    assert opened == [sample_path("brindle").stem]


def test_what_is_being_typed_when_the_window_closes_is_asked_about(window, qtbot):
    """Nothing typed is lost: the cell that is open is taken, and then the job isn't saved."""
    window.go("limits")
    table = window.stations["limits"].settings
    window.stations["limits"].table_button.setChecked(True)
    table.edit(table.index_of(2, 1))
    editor = next(one for one in table.findChildren(QLineEdit) if one.isVisibleTo(table))
    editor.setFocus()
    editor.clear()
    qtbot.keyClicks(editor, "0.9 kW")
    window.close()
    assert window.isVisible()
    assert window.store.changed
    assert any("not saved" in words or "unsaved" in words.lower() for words in window.notices.words())


def test_how_drawing_and_table_share_the_room_is_kept(window, qtbot):
    window.go("limits")
    limits = window.stations["limits"]
    limits.table_button.setChecked(True)
    limits.split.setSizes([200, 300])
    sizes = limits.split.sizes()
    limits.table_button.setChecked(False)
    limits.table_button.setChecked(True)
    assert limits.split.sizes() == sizes
    window.close()
    assert load_settings().splits["limits"] == sizes
