"""What is understood of a number or a date is shown at its field before it counts; the window goes by the
person's locale."""

import pytest
from PySide6.QtCore import QLocale
from PySide6.QtWidgets import QApplication, QLineEdit

from lodestaff.desktop.start import by_locale
from lodestaff.desktop.understood import Hint, as_date, as_number, said, understand
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import CONVENTION


@pytest.mark.parametrize(
    ("text", "unit", "words"),
    [("1200", "W", ""), ("1200 W", "W", ""), ("1.2 kW", "W", "= 1200 W"), ("12 500", "W", "= 12500 W"),
     ("8 AWG", "mm²", "= 8.366 mm²"), ("1,5", "kW", "= 1.5 kW"), ("", "W", "")],
)  # fmt: skip
def test_what_is_understood_is_said_where_it_isnt_what_stands_there(text, unit, words):
    assert said(text, as_number(unit)) == words


def test_two_readings_are_said_while_they_are_typed():
    assert "1150 or 1.15" in said("1,150", as_number("W"))
    assert "2026-11-03 or 2026-03-11" in said("3/11/2026", as_date)
    assert said("25 Nov 2026", as_date) == "= 2026-11-25"


def test_a_field_shows_it(qtbot):
    edit = QLineEdit()
    qtbot.addWidget(edit)
    understand(edit, lambda: as_number("W"))
    edit.show()
    qtbot.keyClicks(edit, "1.2 kW")
    assert edit.accessibleDescription() == "= 1200 W"
    (hint,) = edit.window().findChildren(Hint)
    assert (hint.text(), hint.isVisible()) == ("= 1200 W", True)
    edit.clear()
    qtbot.keyClicks(edit, "7")
    assert edit.accessibleDescription() == ""


def test_a_cell_of_the_settings_shows_it(qtbot, window):
    window.go("limits")
    table = window.stations["limits"].settings
    table.edit(table.index_of(2, 1))
    editor = next(one for one in table.findChildren(QLineEdit) if one.isVisibleTo(table))
    editor.clear()
    qtbot.keyClicks(editor, "1,150")
    assert "1150 or 1.15" in editor.accessibleDescription()
    editor.clear()
    qtbot.keyClicks(editor, "900 W")
    assert editor.accessibleDescription() == "= 0.9 kW"


def test_the_window_goes_by_the_persons_locale(monkeypatch):
    monkeypatch.setattr(CONVENTION, "decimal", ".")
    by_locale(QLocale(QLocale.Language.German))
    assert text_of(1234.5, "kW") == "1\u00a0234,50 kW"
    assert said("1,150", as_number("kW")) == "= 1,15 kW"
    assert "1150 or 1,15" in said("1.150", as_number("kW"))
    by_locale(QLocale.c())
    assert CONVENTION.decimal == "."
    assert QApplication.instance() is not None
