"""The parts of the frame by themselves: moment, notices, marks, hatches, workings."""

import re
import time
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QImage, QPainter

import lodestaff
from lodestaff.desktop.backups import page as page_of_ways
from lodestaff.desktop.shell.moment_bar import SOC_CHOICES
from lodestaff.desktop.shell.notices import Notices
from lodestaff.desktop.shell.underway import NAMES
from lodestaff.desktop.shell.working import working_html
from lodestaff.desktop.theme import LOOKS, font, load_fonts, set_text_scale, text_scale
from lodestaff.desktop.theme.paint import HATCH, hatch, mark
from lodestaff.desktop.worker import STOPPED
from lodestaff.quantities import Figure, Input, Provenance, Source
from lodestaff.quantities.going import may_go_on
from lodestaff.reckoning.readings import Reading

# A try-out is dropped by the next; a rescue and what goes over the link must not be cut short.
SHORT = {"preview", "rescue", "sample", "simulated", "take", "write", "live", "sheets"}


class TestMoment:
    def test_the_hour_is_dragged(self, qtbot, window):
        line = window.bar.hour
        x = round(10 + 6 / 24 * (line.width() - 20))
        qtbot.mouseClick(line, Qt.MouseButton.LeftButton, pos=QPoint(x, 20))
        assert window.store.moment.hour == pytest.approx(6, abs=0.5)

    @pytest.mark.parametrize(
        ("key", "step"), [(Qt.Key.Key_Right, 0.25), (Qt.Key.Key_Left, -0.25), (Qt.Key.Key_PageUp, 3.0)]
    )
    def test_the_hour_by_keys(self, qtbot, window, key, step):
        before = window.store.moment.hour
        qtbot.keyClick(window.bar.hour, key)
        assert window.store.moment.hour == before + step

    def test_it_stops_at_the_days_ends(self, qtbot, window):
        window.store.set_moment(hour=23.75)
        qtbot.keyClick(window.bar.hour, Qt.Key.Key_Right)
        assert window.store.moment.hour == 23.75

    def test_month_sky_and_charge(self, window):
        window.bar.month.activated.emit(6)
        assert window.store.moment.month == 7
        next(button for button in window.bar.skies.buttons() if button.text() == "clear").click()
        assert str(window.store.moment.sky) == "clear"
        window.bar.soc.activated.emit(SOC_CHOICES.index(0.8))
        assert window.store.moment.soc == 0.8
        window.bar.soc.activated.emit(0)
        assert window.store.moment.soc is None

    def test_grid_off(self, window):
        window.bar.grid.click()
        assert not window.store.moment.grid
        assert window.bar.grid.text() == "grid off"

    def test_the_sky_changes_the_days_sun(self, window, settled):
        window.store.set_moment(month=6, sky=type(window.store.moment.sky)("clear"))
        settled(window)
        clear = window.store.results.sun_day_kw.sum()
        window.store.set_moment(sky=type(window.store.moment.sky)("dull"))
        settled(window)
        assert window.store.results.sun_day_kw.sum() < clear / 2


class TestNotices:
    def test_they_stay_until_settled_and_repeats_replace(self, qtbot):
        notices = Notices()
        qtbot.addWidget(notices)
        notices.show_notice("save", "Not saved. The disk is full.")
        notices.show_notice("save", "Not saved. The folder is gone.")
        notices.show_notice("edit", "Not changed.")
        assert notices.words() == ["Not saved. The folder is gone.", "Not changed."]
        notices.settle("save")
        assert notices.words() == ["Not changed."]
        notices.settle("never shown")

    def test_a_choice_acts_and_settles(self, qtbot):
        from PySide6.QtWidgets import QPushButton

        notices, done = Notices(), []
        qtbot.addWidget(notices)
        notices.show_notice("close", "Unsaved.", [("Save", lambda: done.append("saved"))])
        button = next(one for one in notices.findChildren(QPushButton) if one.text() == "Save")
        button.click()
        assert done == ["saved"]
        assert notices.words() == []


def picture(act, size=24):
    image = QImage(size, size, QImage.Format.Format_RGB32)
    image.fill(0xFFFFFFFF)
    painter = QPainter(image)
    act(painter)
    painter.end()
    return image


@pytest.mark.parametrize("name", list(LOOKS))
def test_verdicts_differ_in_shape_not_in_colour_alone(qapp, name):
    """Drawn in one ink, the five signs are five different pictures."""
    look = LOOKS[name]
    shapes = []
    for status in ("blocks", "warns", "notes", "open", "passed"):
        image = picture(lambda painter, status=status: mark(painter, look, status, QRectF(4, 4, 16, 16)))
        grey = image.convertToFormat(QImage.Format.Format_Grayscale8)
        dark = {(x, y) for x in range(24) for y in range(24) if grey.pixelColor(x, y).red() < 230}
        shapes.append(dark)
    for index, one in enumerate(shapes):
        assert len(one) > 15
        for other in shapes[index + 1 :]:
            assert len(one ^ other) > 12


@pytest.mark.parametrize("name", list(LOOKS))
def test_each_kind_of_energy_has_its_own_hatch(qapp, name):
    look = LOOKS[name]
    patterns = {}
    for kind in ("sun", "battery", "grid", "export"):
        image = picture(lambda painter, kind=kind: painter.fillRect(0, 0, 24, 24, hatch(look, kind)))
        middle = image.convertToFormat(QImage.Format.Format_Grayscale8)
        mean = sum(middle.pixelColor(x, y).red() for x in range(24) for y in range(24)) / 576
        patterns[kind] = tuple(middle.pixelColor(x, y).red() < mean - 8 for x in range(12) for y in range(12))
    assert len(set(patterns.values())) == 4
    assert set(HATCH) >= set(patterns)


def test_fonts_are_the_shipped_ones(qapp):
    load_fonts()
    for role in ("text", "strong", "reading", "mono"):
        assert font(role).family().startswith("B612")
        assert font(role).exactMatch()


def test_the_text_scale_is_bounded(qapp):
    before = text_scale()
    for wanted, got in ((0.1, 0.8), (5.0, 2.0), (1.26, 1.3)):
        set_text_scale(wanted)
        assert text_scale() == got
    set_text_scale(before)


def test_a_working_tells_everything_and_hides_no_markup(qapp):
    figure = Figure(
        "A <b>bold</b> name",
        3.2,
        "kW",
        "a < b & c",
        (Input("x & y", 1.0, "kW", "read on site"), Input("words", "none")),
        Source("clause 4", Provenance.FROM_MEMORY),
        "A note.",
    )
    html = working_html(Reading("x", figure, "of 4", "passed", 0.5))
    for words in (
        "A &lt;b&gt;bold",
        "a &lt; b &amp; c",
        "x &amp; y",
        "read on site",
        "clause 4 (from memory)",
        "A note.",
        "3.20 kW",
    ):
        assert words in html


def test_the_welcome_screen_lists_only_jobs_that_are_there(qtbot, empty, tmp_path):
    from PySide6.QtWidgets import QPushButton

    there = tmp_path / "there.json"
    there.write_text("{}")
    empty.welcome.show_recent((str(there), str(tmp_path / "gone.json")))
    texts = [button.text() for button in empty.welcome.findChildren(QPushButton)]
    assert any("there.json" in text for text in texts)
    assert not any("gone.json" in text for text in texts)


class TestUnderway:
    def test_what_takes_long_is_named_and_stopped_and_the_page_says_so(self, qtbot, window, monkeypatch):
        def endless(*_):
            while True:
                may_go_on()
                time.sleep(0.002)

        monkeypatch.setattr(page_of_ways, "compare_strategies", endless)
        strip = window.guidance.underway
        assert strip.isHidden()
        window.side.open_backups()
        qtbot.waitUntil(strip.isVisible, timeout=5000)
        assert strip.words.text().startswith("Reckoning the ways of backup")
        assert window.rect().contains(strip.geometry())
        window.actions_by_id["stop"].trigger()
        qtbot.waitUntil(strip.isHidden, timeout=5000)
        assert window.side.backups.words.text() == f"Not reckoned. {STOPPED}"

    def test_every_name_that_is_asked_for_is_named_or_short(self):
        asked = {
            name
            for path in (Path(lodestaff.__file__).parent / "desktop").rglob("*.py")
            for name in re.findall(r'\.ask\(\s*"([a-z]+)"|_ask\("([a-z]+)"', path.read_text())
            for name in name
            if name
        }
        assert asked - set(NAMES) == SHORT
