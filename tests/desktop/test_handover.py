"""The pack in the window: pages with what is missing, serials into the journal, the register."""

import pytest

from lodestaff.desktop.stations.handover.agreed import add_row
from lodestaff.register import load_register

PATIENCE_MS = 30_000


@pytest.fixture
def station(qtbot, window):
    window.go("handover")
    station = window.stations["handover"]
    qtbot.waitUntil(lambda: bool(station.pages), timeout=PATIENCE_MS)
    return station


def test_every_page_is_listed_and_shown(station):
    assert station.list.count() == 26  # eight for the owner, the record, one for the operator
    for row, page in enumerate(station.pages):
        station.list.setCurrentRow(row)
        words = station.paper.toPlainText()
        assert page.title in words
        for missing in page.missing:
            assert missing in " ".join(words.split())


def test_the_very_sheets_that_print_are_shown(qtbot, station):
    """The diagram's page with the sheets of every device that follow it, each as wide as there is room."""
    qtbot.waitUntil(lambda: station.rendered is not None, timeout=PATIENCE_MS)
    row = [page.id for page in station.pages].index("diagram")
    station.list.setCurrentRow(row)
    sheets = station.paper.sheets
    wanted = len(station.rendered.sheets(row))
    qtbot.waitUntil(lambda: len(sheets.pictures) == wanted > 1, timeout=PATIENCE_MS)
    inked = sheets.pictures[1].scaled(60, 40)
    colours = {inked.pixelColor(x, y).name() for x in range(60) for y in range(40)}
    assert len(colours) > 5
    assert sum(map(len, map(station.rendered.sheets, range(26)))) == station.rendered.count


def test_parts_are_chosen_and_what_is_agreed_is_typed(qtbot, window, station):
    assert station.choose_part("technical")
    assert window.store.job.handed.parts == ("owner", "operator")
    qtbot.waitUntil(lambda: len(station.pages) == 10, timeout=PATIENCE_MS)
    assert station.choose_part("owner")
    assert not station.choose_part("operator")  # one stays
    agreed = station.agreed.model()
    assert agreed.setData(agreed.index(0, 1), "2028-02-01")
    assert window.store.job.handed.next_inspection == "2028-02-01"
    assert not agreed.setData(agreed.index(0, 1), "next year")
    add_row(window.store, "accounts", "account")
    accounts = station.accounts.model()
    assert accounts.setData(accounts.index(1, 1), "the owner")
    assert window.store.job.handed.accounts[1].owner == "the owner"


def test_pages_follow_the_journal(qtbot, window, station):
    before = station.pages
    table = station.serials
    table.type_at(0, 2, "SN-1")
    assert window.store.site.entries[-1].kind == "serial"
    qtbot.waitUntil(lambda: station.pages is not before, timeout=PATIENCE_MS)
    serials = next(page for page in station.pages if page.id == "serials")
    assert "22 of 23" in serials.missing[0]
    table.type_at(0, 2, "SN-1")  # the same again is no entry
    assert sum(entry.kind == "serial" for entry in window.store.site.entries) == 1


def test_the_register_is_typed_and_kept(window, station):
    firm, people, instruments = station.registers
    firm.type_at(0, 0, "Fellbeck Electrical and Solar")
    people.type_at(0, 0, "J. Marr")
    people.type_at(0, 1, "storage")
    instruments.type_at(0, 0, "Tester")
    instruments.type_at(0, 2, "2027-04-30")
    kept = load_register()
    assert kept == window.store.site.register
    assert kept.firm.name.startswith("Fellbeck")
    assert kept.people[0].licence == "storage"
    assert kept.calibrated_until("Tester") == "2027-04-30"
    people.type_at(0, 0, "")
    assert load_register().people == ()


def test_a_date_that_is_none_is_said_and_the_old_value_stands(window, station):
    instruments = station.registers[2]
    instruments.type_at(0, 0, "Tester")
    instruments.type_at(0, 2, "next spring")
    assert any("2027-03-31" in words for words in window.notices.words())
    assert load_register().instruments[0].calibrated_until == ""


def test_the_button_writes_the_pack(qtbot, window, station, monkeypatch, tmp_path):
    monkeypatch.setattr(
        "lodestaff.desktop.shell.files.QFileDialog.getSaveFileName", lambda *_: (str(tmp_path / "p.xlsx"), "")
    )
    station.write_button.click()
    qtbot.waitUntil(lambda: (tmp_path / "p.xlsx").exists(), timeout=PATIENCE_MS)


def test_readings_count_the_pages(station):
    first = station.readings()[0]
    assert first.figure.value == sum(not page.missing for page in station.pages)
