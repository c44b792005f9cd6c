"""Equipment and prices in the window: what fits, typing a sheet, trying it in the job, taking and undoing
it."""

import json

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from lodestaff.shelf import load_shelf
from lodestaff.shelf.prices import load_prices

PATIENCE_MS = 30_000


@pytest.fixture
def parts(qtbot, window):
    window.actions_by_id["parts"].trigger()
    page = window.side.parts
    qtbot.waitUntil(lambda: all(c.state != "unknown" for c in page.gallery.cases), timeout=PATIENCE_MS)
    return page


def choose_kind(parts, kind):
    parts.kinds.setCurrentIndex(parts.kinds.findData(kind))


def states(parts):
    return {case.id: case.state for case in parts.gallery.cases}


def type_value(parts, words, text):
    parts.form.type_at(*parts.form.place_of(words), text)


def test_what_fits_and_why_the_rest_does_not(qtbot, parts):
    choose_kind(parts, "hybrid")
    qtbot.waitUntil(lambda: "unknown" not in states(parts).values(), timeout=PATIENCE_MS)
    assert states(parts)["hybrid-6"] == "chosen"
    assert states(parts)["hybrid-3"] == "not"
    small = next(case for case in parts.gallery.cases if case.id == "hybrid-3")
    assert "LOAD-SURGE" in small.because


def test_a_stronger_case_stands_higher(parts):
    choose_kind(parts, "hybrid")
    heights = {case.id: parts.gallery.case_rect(i).height() for i, case in enumerate(parts.gallery.cases)}
    assert heights["hybrid-3"] < heights["hybrid-6"] < heights["hybrid-10"]


def test_a_sheet_is_typed_and_kept_at_once(window, parts):
    choose_kind(parts, "module")
    parts.begin()
    name = parts.gallery.chosen
    type_value(parts, "Length", "1800 mm")
    assert load_shelf().get(name).values["length_m"] == 1.8
    type_value(parts, "Operating voltage Vmp", "60")
    assert "Vmp must lie below Voc" in parts.remarks.text()
    line, value = parts.form.place_of("Length")
    parts.form.type_at(line, value + 1, "measured")
    assert str(load_shelf().get(name).known_of("length_m")) == "measured"
    type_value(parts, "Length", "long")
    assert any("not a number" in words for words in window.notices.words())
    assert load_shelf().get(name).values["length_m"] == 1.8
    type_value(parts, "Width", "")
    assert states(parts)[name] == "half"
    assert not parts.try_button.isEnabled()


def test_a_part_is_tried_side_by_side_taken_and_undone(qtbot, window, parts):
    choose_kind(parts, "module")
    parts.gallery.choose("module-410")
    QTest.keyClick(parts.gallery, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.pages.currentWidget() is window.side.comparison, timeout=PATIENCE_MS)
    before = window.store.job
    assert window.side.comparison.take_button.isVisible()
    window.side.comparison.closed.emit()
    assert window.pages.currentWidget() is parts
    assert window.store.job is before
    QTest.keyClick(parts.gallery, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.pages.currentWidget() is window.side.comparison, timeout=PATIENCE_MS)
    window.side.comparison.take_button.click()
    assert {face.module for face in window.store.job.faces} == {"module-410"}
    assert window.store.history.undo_name == "Replace module-440 by module-410"
    window.store.undo()
    assert window.store.job == before


def test_a_run_takes_the_sheet_of_its_device_from_the_shelf(qtbot, window, parts):
    choose_kind(parts, "device")
    texts = [parts.places.itemText(n) for n in range(parts.places.count())]
    assert "Hybrid feed: no sheet yet" in texts
    parts.places.setCurrentIndex(texts.index("Hybrid feed: no sheet yet"))
    parts.gallery.choose("mcb-32c")
    before = window.store.job
    parts.try_button.click()
    qtbot.waitUntil(lambda: window.pages.currentWidget() is window.side.comparison, timeout=PATIENCE_MS)
    window.side.comparison.take_button.click()
    cable = next(cable for cable in window.store.job.cables if cable.id == "hybrid-feed")
    assert (cable.device_a, cable.curve, cable.device_sheet) == (32.0, "C", "mcb-32c")
    assert window.store.history.undo_name == "Take mcb-32c for hybrid-feed"
    window.store.undo()
    assert window.store.job == before


def test_what_nothing_of_the_job_takes_can_t_be_tried(parts):
    choose_kind(parts, "gateway")
    assert parts.places.currentText() == "nothing in this job takes one"
    assert not parts.places.isEnabled()
    assert not parts.try_button.isEnabled()


def test_prices_are_kept_and_summed(window, parts):
    choose_kind(parts, "hybrid")
    parts.gallery.choose("hybrid-6")
    parts.price.setFocus()
    QTest.keyClicks(parts.price, "900,50")
    QTest.keyClick(parts.price, Qt.Key.Key_Return)
    assert load_prices().price("hybrid-6") == (900.5, "own list")
    assert "900" in parts.words.text()
    parts.price.clear()
    QTest.keyClicks(parts.price, "-1")
    QTest.keyClick(parts.price, Qt.Key.Key_Return)
    assert any("no price" in words for words in window.notices.words())
    assert load_prices().price("hybrid-6") == (900.5, "own list")


def test_files_in_and_out(window, parts, tmp_path):
    choose_kind(parts, "battery")
    parts.export_file(tmp_path / "batteries.csv")
    assert "battery-48" in (tmp_path / "batteries.csv").read_text()
    text = (tmp_path / "batteries.csv").read_text().replace("battery-48", "battery-own")
    (tmp_path / "own.csv").write_text(text)
    parts.import_file(tmp_path / "own.csv")
    assert load_shelf().get("battery-own").kind == "battery"
    (tmp_path / "bad.csv").write_text("kind,id\nkite,x\n")
    parts.import_file(tmp_path / "bad.csv")
    assert any("row 2" in words for words in window.notices.words())
    parts.export_file(tmp_path / "x.ods")
    assert any("Not exported" in words for words in window.notices.words())


def test_a_sheet_that_changed_on_the_shelf_is_offered(parts):
    choose_kind(parts, "module")
    parts.gallery.choose("module-440")
    type_value(parts, "Open-circuit voltage Voc", "39.9")
    assert "module-440 reads otherwise on the shelf" in parts.words.text()


def test_a_damaged_shelf_is_said(window, parts):
    from lodestaff.shelf import shelf_path

    shelf_path().parent.mkdir(parents=True, exist_ok=True)
    shelf_path().write_text(json.dumps({"version": 9}))
    parts.open()
    assert any("Not read" in words for words in window.notices.words())


def test_escape_goes_back_to_the_station(window, parts):
    QTest.keyClick(parts, Qt.Key.Key_Escape)
    assert window.pages.currentWidget() is window.stations["loads"]


def test_note_and_file_are_kept_beside_the_values(parts):
    choose_kind(parts, "module")
    name = parts.gallery.chosen
    type_value(parts, "File of the data sheet", "sheets/module.pdf")
    type_value(parts, "Note", "asked for the newer sheet")
    assert load_shelf().get(name).file == "sheets/module.pdf"
    assert load_shelf().get(name).note == "asked for the newer sheet"


def test_a_pack_of_ones_own_is_laid_over_and_undone(window, tmp_path):
    own = tmp_path / "own.json"
    value = {"value": 0.03, "source": "operator's letter", "date": "2026-10-12"}
    own.write_text(json.dumps({"name": "fellbeck", "over": "uk", "values": {"meter_error_share": value}}))
    assert window.files.lay_pack(own)
    assert window.store.job.pack.value("meter_error_share").value == 0.03
    assert "operator's letter" in str(window.store.job.pack.value("meter_error_share").cite())
    window.store.undo()
    assert window.store.job.pack.value("meter_error_share").value == 0.02
    own.write_text("{")
    assert not window.files.lay_pack(own)
    assert any("Not laid over" in words for words in window.notices.words())


def test_rates_are_typed_and_kept(window, parts):
    parts.rates.type_at(0, 1, "aud")
    parts.rates.type_at(1, 1, "10")
    parts.rates.type_at(2, 1, "95,5")
    parts.rates.type_at(3, 1, "6")
    kept = load_prices()
    assert (kept.currency, kept.tax_pct, kept.labour_per_hour, kept.labour_hours) == (
        "AUD",
        10.0,
        95.5,
        {"hybrid": 6.0},
    )
    parts.rates.type_at(1, 1, "much")
    assert any("Not kept. Tax" in words for words in window.notices.words())
    assert load_prices().tax_pct == 10.0
    parts.rates.type_at(3, 1, "")
    assert load_prices().labour_hours == {}


def test_prices_of_several_suppliers(parts):
    choose_kind(parts, "hybrid")
    parts.gallery.choose("hybrid-6")
    for supplier, price in (("Fell", "900"), ("Ridge", "850")):
        parts.supplier.setCurrentText(supplier)
        parts.price.clear()
        QTest.keyClicks(parts.price, price)
        QTest.keyClick(parts.price, Qt.Key.Key_Return)
    lists = {one.supplier: one.prices for one in load_prices().lists}
    assert lists == {"Fell": {"hybrid-6": 900.0}, "Ridge": {"hybrid-6": 850.0}}


def test_a_module_table_asks_for_rows_in_the_page(window, parts):
    from pathlib import Path

    import pvlib

    table = next((Path(pvlib.__file__).parent / "data").glob("sam-library-cec-modules-*.csv"))
    parts.import_file(table)
    assert parts.table_line.isVisible()
    parts.table_line.setText("99999999")
    parts.table_line.returnPressed.emit()
    assert any("has no row" in words for words in window.notices.words())
    parts.table_line.setText("100, 5000")
    parts.table_line.returnPressed.emit()
    assert {"table-100", "table-5000"} <= {entry.id for entry in load_shelf().entries}
    assert not parts.table_line.isVisible()
    parts.import_file(table)
    parts.table_line.setText("a")
    parts.table_line.returnPressed.emit()
    assert any("modules match" in words for words in window.notices.words())


def test_fields_stand_two_a_line_in_groups_that_fold_and_what_is_missing_stands_first(window, parts):
    choose_kind(parts, "module")
    form = parts.form
    assert max(len(line.fields) for line in form.rows) == 2
    fields = [row.words for line in form.rows for row in line.fields]
    assert len(fields) == len(set(fields)) == len(form.entry.of.rows) + 2
    heads = [line.head for line in form.rows if line.head]
    assert "Size and weight" in heads
    place = next(at for at, line in enumerate(form.rows) if line.head == "Size and weight")
    form.setCurrentIndex(form.index_of(place, 0))
    QTest.keyClick(form, Qt.Key.Key_Return)
    with pytest.raises(LookupError):
        form.place_of("Length")
    form.clicked.emit(form.index_of(place, 0))
    parts.begin()
    type_value(parts, "Width", "")
    assert form.rows[0].head == "Missing, and needed"
    assert form.place_of("Width") == (1, 1)
    assert "1 " not in form.text_at(*form.place_of("Width"))
    window.resize(900, 760)
    form.resize(480, 300)
    assert max(len(line.fields) for line in form.rows) == 1
