"""Records of the site, photos, the meter's page and the ways of backup in the real window."""

from datetime import datetime, timedelta

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage

from lodestaff.desktop.stations.site.facts import rows_of
from lodestaff.desktop.stations.site.records import additions
from lodestaff.desktop.stations.site.wall import unread
from lodestaff.job import Change
from lodestaff.job.attachments import folder_of


@pytest.fixture
def site(window, settled):
    window.go("site")
    settled(window)
    return window.stations["site"]


def addition(window, words):
    return next(one for one in additions(window.store.job) if one.words.startswith(words))


def row(window, path):
    return next(one for one in rows_of(window.store.job) if one.path == path)


class TestRecords:
    @pytest.mark.parametrize("index", range(15))
    def test_everything_can_be_added_and_taken_out(self, window, site, index):
        before = window.store.job
        one = additions(before)[index]
        assert site.add_record(one)
        assert site.wall.chosen.path.startswith(one.path)
        assert not site.out_button.isHidden()
        site.out_button.click()
        assert window.store.job == before
        assert "Take out" in window.store.history.undo_name

    def test_values_are_typed_into_plates(self, window, site):
        site.add_record(addition(window, "Found: heat pump"))
        path = site.wall.chosen.path.rsplit("/", 1)[0]
        assert site.editor.set_fact(row(window, f"{path}/rating"), "3.2 kW", "read on site")
        assert site.editor.set_fact(row(window, f"{path}/condition"), "good", "photo")
        assert site.editor.set_fact(row(window, f"{path}/shown_to_customer"), "yes")
        thing = window.store.job.site.found[-1]
        assert (thing.rating.value, thing.condition.value, thing.shown_to_customer) == (3.2, "good", True)
        assert not site.editor.set_fact(row(window, f"{path}/shown_to_customer"), "perhaps")

    def test_a_wrong_date_is_said(self, window, site):
        assert not site.editor.set_fact(row(window, "site/permits/consent/date"), "last week")
        assert "write one like 2026-11-25" in window.notices.words()[0]

    def test_the_kind_of_supply_brings_its_phases(self, window, site):
        assert site.editor.set_fact(row(window, "mains/system"), "three phases")
        assert window.store.job.site.phases == ("L1", "L2", "L3")
        window.store.undo()
        assert window.store.job.site.phases == ("L1",)

    def test_photos_lie_beside_the_draft_and_are_drawn(self, window, site, tmp_path):
        picture = tmp_path / "board.png"
        image = QImage(64, 48, QImage.Format.Format_RGB32)
        image.fill(Qt.GlobalColor.darkCyan)
        image.save(str(picture))
        site.show_row("site/found/board/photos")
        assert site.editor.value.isHidden()
        assert not site.photo_button.isHidden()
        before = len(window.store.job.site.found[0].photos)
        assert site.attach_photos([picture])
        digest = window.store.job.site.found[0].photos[-1]
        assert len(window.store.job.site.found[0].photos) == before + 1
        assert window.store.thumbnail(digest) is not None
        assert window.store.save(tmp_path / "job.json")
        assert (folder_of(tmp_path / "job.json") / digest).read_bytes() == picture.read_bytes()

    def test_what_is_no_picture_is_said(self, window, site, tmp_path):
        bad = tmp_path / "notes.png"
        bad.write_text("hello")
        site.wall.choose(row(window, "site/found/board/photos"))
        assert not site.attach_photos([bad])
        assert "is no picture" in window.notices.words()[0]

    def test_a_missing_photo_is_an_empty_frame(self, window, site):
        window.store.edit("x", Change("site/found/board/photos", ["a" * 64]))
        assert window.store.thumbnail("a" * 64) is None
        site.wall.repaint()


class TestMeter:
    @pytest.fixture
    def page(self, window, qtbot, tmp_path):
        window.store.edit("no data", Change("site/metered", None))
        window.actions_by_id["meter"].trigger()
        page = window.side.meter
        assert "Choose the CSV file" in page.words.text()
        self.file = tmp_path / "meter.csv"
        lines = ["Start,Import (kWh)"]
        lines += [
            f"{datetime(2025, 3, 1) + timedelta(minutes=30 * n):%d/%m/%Y %H:%M},{0.4 + n % 48 / 100:.2f}"
            for n in range(48 * 28)
        ]
        self.file.write_text("\n".join(lines))
        page.read(self.file)
        qtbot.waitUntil(lambda: page.log is not None, timeout=20_000)
        return page

    def test_a_file_is_shown_before_it_is_used(self, window, qtbot, page):
        assert page.choices["order"].currentText() == "day month year"
        assert page.choices["decimal"].currentText() == "point"
        assert page.preview.source.columns[1].heading == "kWh"
        assert "In doubt: no clock change" in page.words.text()
        assert window.store.job.site.metered is None
        page.confirm.click()
        qtbot.waitUntil(
            lambda: page.path is None and page.explained is not None and not page.confirm.isEnabled(),
            timeout=20_000,
        )
        assert window.store.job.site.metered.confirmed
        assert window.store.history.undo_name == "Use the meter's data of meter.csv"

    def test_another_reading_of_the_shape(self, qtbot, page):
        box = page.choices["unit"]
        before = page.log.total_kwh
        box.setCurrentIndex(box.findData("kW"))
        page._typed()
        qtbot.waitUntil(lambda: page.log is not None and page.log.total_kwh != before, timeout=20_000)
        assert page.log.total_kwh == pytest.approx(before / 2)

    def test_a_shape_that_does_not_fit_is_said(self, qtbot, page):
        box = page.choices["order"]
        box.setCurrentIndex(box.findData("month day year"))
        page._typed()
        qtbot.waitUntil(lambda: "Not read." in page.words.text(), timeout=20_000)
        assert "is no date by month day year" in page.words.text()
        assert not page.confirm.isEnabled()

    def test_a_file_that_is_none(self, qtbot, page, tmp_path):
        bad = tmp_path / "bad.csv"
        bad.write_text("hello\nworld")
        page.read(bad)
        qtbot.waitUntil(lambda: "no line with a date" in page.words.text(), timeout=20_000)

    def test_reading_can_be_stopped_and_what_was_there_stays(self, qtbot, page):
        before = page.log
        page.read(self.file)
        page.stop()
        assert page.words.text().startswith("Stopped")
        qtbot.waitUntil(lambda: not page.worker.busy, timeout=20_000)
        assert page.log is before
        assert page.stop_button.isHidden()

    def test_both_cures_are_steps(self, window, qtbot, page):
        page.confirm.click()
        qtbot.waitUntil(
            lambda: page.path is None and page.explained is not None and page.list_button.isEnabled(),
            timeout=20_000,
        )
        page.list_button.click()
        assert window.store.job.circuits[-1].id == "not-listed"
        qtbot.waitUntil(lambda: page.scale_button.isEnabled(), timeout=20_000)
        page.scale_button.click()
        assert window.store.history.undo_name == "Bring the circuits' energy to the log"

    def test_the_demo_shows_its_own(self, window, qtbot):
        window.actions_by_id["meter"].trigger()
        page = window.side.meter
        qtbot.waitUntil(lambda: page.explained is not None, timeout=20_000)
        assert "1 gaps" in page.words.text()
        assert not page.confirm.isEnabled()
        qtbot.keyClick(page, Qt.Key.Key_Escape)
        assert window.pages.currentWidget() is window.stations[window.station]


class TestBackups:
    def test_four_ways_and_the_choice(self, window, qtbot):
        window.actions_by_id["backups"].trigger()
        page = window.side.backups
        qtbot.waitUntil(lambda: page.strategies is not None, timeout=30_000)
        assert page.table.text_at(0, 0) == "Trips"
        assert "a year by overload" in page.table.text_at(0, 1)
        assert page.table.text_at(0, 2) == "never in the year"
        assert "on the reserve in the worst month" in page.bars.accessibleDescription()
        page.chosen.setCurrentIndex(1)
        page.why.setText("endurance")
        page.by.setText("owner")
        page.record_button.click()
        choice = window.store.job.choices[-1]
        assert (choice.chosen, choice.why, choice.by, choice.advised) == (
            "essential board",
            "endurance",
            "owner",
            "essential board",
        )
        window.store.undo()
        assert len(window.store.job.choices) == 2

    def test_where_there_is_none_it_says_why(self, window, qtbot):
        window.store.edit("x", Change("banks", []))
        window.actions_by_id["backups"].trigger()
        page = window.side.backups
        qtbot.waitUntil(lambda: "Not reckoned." in page.words.text(), timeout=30_000)
        assert "no unit with a battery" in page.words.text()
        assert not page.record_button.isEnabled()


def test_a_horizon_is_taken_as_one_step_and_asks_how_it_counts(qtbot, window, tmp_path, monkeypatch):
    from PySide6.QtWidgets import QInputDialog

    from lodestaff.desktop.stations.site.wall import lay_wall

    window.go("site")
    station = window.stations["site"]
    path = tmp_path / "horizon.csv"
    path.write_text("azimuth,elevation\n-90,3\n0,12\n90,2\n")
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_: ("south", True))
    assert station.take_horizon(path)
    points = window.store.job.site.horizon
    assert [(one.azimuth_deg, one.elevation_deg) for one in points] == [(90, 3), (180, 12), (270, 2)]
    assert window.store.history.undo_name == "Take the horizon of horizon.csv"
    assert any(
        "horizon up to 12°" in plate.title
        for plate in lay_wall(window.store.job, 900.0, 24.0, lambda words: 7.0 * len(words))
    )
    path.write_text("90,99\n")
    assert not station.take_horizon(path)
    assert any("Not taken" in words for words in window.notices.words())


def test_the_walk_goes_from_one_value_that_is_still_to_read_to_the_next(window, settled):
    window.files.open_sample("ocotillo-wash-centre")
    settled(window)
    window.go("site")
    site = window.stations["site"]
    before = unread(window.store.job)
    assert site.walk_button.text() == f"Still to read: {len(before)}"
    site.walk_button.click()
    assert site.wall.chosen == before[0]
    site.editor.choice.setCurrentText("intact") if before[0].choices else site.editor.value.setText("16")
    site.editor.known.setCurrentText("read on site")
    site.editor.write()
    after = unread(window.store.job)
    assert len(after) == len(before) - 1
    assert site.wall.chosen == after[0]


def test_every_unread_value_is_a_hollow_tag_and_in_the_order_of_the_wall(window):
    rows = unread(window.store.job)
    assert rows
    assert not any(row.plain for row in rows)
