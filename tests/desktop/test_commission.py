"""The day on site in the real window: steps, readings, the link, the simulated site, the journal."""

import subprocess
import sys
import time

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from lodestaff.commissioning.reading import Status
from lodestaff.job import load_job, save_job
from lodestaff.job.journal import journal_path, read
from lodestaff.register import Instrument, Person, Register
from lodestaff.samples import DEMO, samples_folder

PATIENCE_MS = 30_000


@pytest.fixture
def saved(empty, qapp, tmp_path):
    """The demo job with a file of its own, open in the window."""
    from lodestaff.desktop.shots import settle

    path = tmp_path / "larkmoor.json"
    save_job(load_job(samples_folder() / DEMO), path)
    empty.store.open(path)
    settle(qapp, empty)
    return empty


@pytest.fixture
def station(saved):
    saved.store.site.change_register(
        Register(
            people=(Person(name="J. Marr"),),
            instruments=(
                Instrument(name="Tester", calibrated_until="2099-01-01"),
                Instrument(name="Old", calibrated_until="2020-01-01"),
            ),
        )
    )
    saved.go("commission")
    return saved.stations["commission"]


def status(station, step):
    return station.proof().result(step).status


def go_to(station, step):
    station.at = step
    station.refresh()


def confirm(station):
    QTest.mouseClick(station.card.yes, Qt.MouseButton.LeftButton)


def type_reading(station, text):
    station.card.reading.clear()
    QTest.keyClicks(station.card.reading, text)
    QTest.keyClick(station.card.reading, Qt.Key.Key_Return)


def connect_simulated(qtbot, station, faults=()):
    site = station.store.site
    site.start_simulated(faults)
    qtbot.waitUntil(lambda: site.connected and bool(site.live), timeout=PATIENCE_MS)


def take(qtbot, station, simulated=True):
    before = len(station.store.site.entries)
    station.take(simulated)
    qtbot.waitUntil(lambda: len(station.store.site.entries) > before, timeout=PATIENCE_MS)


def test_the_first_open_step_is_in_view_and_a_pass_goes_on(station):
    assert station.at == "prove-dead"
    assert "Prove dead" in station.card.caution.text()
    confirm(station)
    assert status(station, "prove-dead") is Status.PASSED
    assert station.at == "continuity"


def test_a_number_is_typed_judged_and_on_disk(station):
    confirm(station)
    go_to(station, "bonding")
    type_reading(station, "0,02")
    assert status(station, "bonding") is Status.PASSED
    entries = read(station.store.path)
    assert entries[-1].data["numbers"] == [0.02]
    assert entries[-1].by == "J. Marr"
    assert entries[-1].data["calibrated_until"] == "2099-01-01"


def test_what_is_no_number_is_said_and_stays_typed(station, saved):
    confirm(station)
    go_to(station, "bonding")
    before = len(station.store.site.entries)
    type_reading(station, "1,000")
    assert any("1000 or 1?" in words for words in saved.notices.words())
    assert len(station.store.site.entries) == before
    assert station.card.reading.text() == "1,000"
    type_reading(station, "low")
    assert any("not a number" in words for words in saved.notices.words())
    assert station.card.reading.text() == "low"
    go_to(station, "torque")
    go_to(station, "bonding")
    assert station.card.reading.text() == "low"
    assert len(read(station.store.path)) == 1


def test_an_old_instrument_leaves_the_step_doubtful(station):
    confirm(station)
    go_to(station, "bonding")
    station.card.instrument.setCurrentText("Old")
    type_reading(station, "0.02")
    assert status(station, "bonding") is Status.DOUBTFUL
    assert any(found.code == "COM-AGE" for found in station.findings())


def test_expected_values_follow_what_is_typed_beside(station):
    go_to(station, "voc-string-1")
    assert "a weaker proof" in station.card.expected.text()
    assert station.card.scale.expected.high > 420
    for name, text in (("poa_w_m2", "742"), ("module_c", "47")):
        QTest.keyClicks(station.card.fields[name], text)
    assert "354.7 V to 392.0 V" in station.card.expected.text()
    assert station.card.scale.expected.high == pytest.approx(392.0, abs=0.1)
    QTest.keyClicks(station.card.reading, "361")
    assert "the reading 361 V, inside" in station.card.scale.accessibleDescription()
    station.card.reading.clear()
    station.card.fields["module_c"].clear()
    QTest.keyClicks(station.card.fields["module_c"], "hot")
    type_reading(station, "370")
    assert not read(station.store.path)


def test_a_reading_ahead_of_its_turn_stays_open(station):
    go_to(station, "supply-v")
    type_reading(station, "238")
    assert status(station, "supply-v") is Status.OPEN
    assert any(found.code == "COM-ORDER" for found in station.findings())


def test_a_failed_step_stays_in_view_and_can_be_withdrawn(station):
    confirm(station)
    go_to(station, "bonding")
    type_reading(station, "9")
    assert status(station, "bonding") is Status.FAILED
    assert station.at == "bonding"
    assert any(found.code == "COM-EXPECT" and found.blocks for found in station.findings())
    QTest.mouseClick(station.card.withdraw, Qt.MouseButton.LeftButton)
    assert status(station, "bonding") is Status.OPEN
    assert len(read(station.store.path)) == 3


def test_putting_off_says_what_is_needed_and_goes_on(station, saved):
    go_to(station, "voc-string-2")
    QTest.mouseClick(station.card.later_button, Qt.MouseButton.LeftButton)
    assert any("what the step needs" in words for words in saved.notices.words())
    QTest.keyClicks(station.card.later, "two modules")
    QTest.keyClick(station.card.later, Qt.Key.Key_Return)
    assert "two modules" in station.proof().result("voc-string-2").judgement.words
    assert station.at != "voc-string-2"


def test_keys_go_through_the_steps(station):
    station.card.yes.setFocus()
    QTest.keyClick(station.card.yes, Qt.Key.Key_PageDown)
    assert station.at == "continuity"
    QTest.keyClick(station.card.yes, Qt.Key.Key_PageUp)
    assert station.at == "prove-dead"


def test_a_part_of_the_diagram_leads_to_its_step(station):
    rect = station.diagram.part_rect("meter")
    QTest.mouseClick(
        station.diagram, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, rect.center().toPoint()
    )
    assert station.at == "ct"
    assert "not proven" in station.diagram.words_of("meter")
    station.diagram.at(QPointF(1, 1))


def test_the_table_is_the_diagrams_equal(station, saved):
    saved.toggle_table()
    assert not station.diagram.isVisible()
    assert len(station.steps.rows) == len(station.proof().results)
    station.steps.setCurrentIndex(station.steps.index_of(4, 0))
    assert station.at == station.proof().results[4].step.id


def test_live_values_with_their_sign_in_words(qtbot, station):
    connect_simulated(qtbot, station)
    station.live.refresh()
    assert station.live.labels["charge"].text() == "55"
    assert "import" in station.live.heads["meter"].text()
    station.store.site.disconnect_site()
    station.live.refresh()
    assert station.live.labels["charge"].text() == "–"
    assert station.live.state.text() == "not connected"


def test_nobody_at_the_address_is_a_state(qtbot, station, saved):
    station.live.address.setText("nonsense")
    station.live.connect_typed()
    assert any("host:port" in words for words in saved.notices.words())
    station.live.address.setText("127.0.0.1:1")
    station.live.connect_typed()
    qtbot.waitUntil(lambda: "no connection" in station.live.state.text(), timeout=PATIENCE_MS)
    assert station.live.labels["meter"].text() == "–"
    confirm(station)
    go_to(station, "ct")
    take(qtbot, station, simulated=False)
    assert status(station, "ct") is Status.OPEN
    assert any("No reading over the link" in words for words in saved.notices.words())


def test_a_setting_is_written_and_read_back(qtbot, station):
    connect_simulated(qtbot, station)
    for step in station.proof().results:
        if step.step.id == "set-hybrid-export_kw":
            break
        go_to(station, step.step.id)
        take(qtbot, station)
    go_to(station, "set-hybrid-export_kw")
    before = len(station.store.site.entries)
    QTest.mouseClick(station.card.write_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(station.store.site.entries) >= before + 2, timeout=PATIENCE_MS)
    assert status(station, "set-hybrid-export_kw") is Status.PASSED
    assert station.store.site.visit.plant.units["hybrid"].settings.export_kw == 3.6
    assert [entry.kind for entry in station.store.site.entries[-2:]] == ["setting", "reading"]


def test_from_a_new_job_to_the_pack_in_the_window(qtbot, saved, station, tmp_path):
    """Every step at the simulated site, serial numbers, the register, and the pack with nothing of the
    visit missing."""
    connect_simulated(qtbot, station)
    for _ in range(len(station.proof().results)):
        take(qtbot, station)
    proof = station.proof()
    assert {one.status for one in proof.results} == {Status.PASSED}
    assert station.diagram.proven >= {"hybrid", "meter", "battery"}
    saved.go("handover")
    handover = saved.stations["handover"]
    saved.toggle_table()
    for row in range(len(handover.serials.rows)):
        handover.serials.type_at(row, 2, f"SN-{row:03d}")
    handover.registers[0].type_at(0, 0, "Fellbeck Electrical and Solar")
    handover.registers[0].type_at(0, 3, "FE 2217")
    # of the visit only that it was rehearsed; of the site an inspection and one photo that the customer must
    # see
    qtbot.waitUntil(lambda: sum(len(page.missing) for page in handover.pages) == 3, timeout=PATIENCE_MS)
    assert any("rehearsal proves nothing" in one for page in handover.pages for one in page.missing)
    saved.files.write_pack(tmp_path / "pack.pdf")
    qtbot.waitUntil(
        lambda: any("Written to" in words for words in saved.notices.words()), timeout=PATIENCE_MS
    )
    assert (tmp_path / "pack.pdf").stat().st_size > 40_000


def test_a_job_without_a_file_keeps_its_readings_until_it_has_one(qtbot, window, tmp_path):
    window.go("commission")
    station = window.stations["commission"]
    station.card.person.setCurrentText("J. Marr")
    confirm(station)
    path = tmp_path / "kept.json"
    assert window.store.save(path)
    assert [entry.kind for entry in read(path)][-1:] == ["reading"]  # after the demo's own
    assert status(station, "prove-dead") is Status.PASSED
    copy = tmp_path / "copy.json"
    assert window.store.save(copy)
    assert journal_path(copy).read_bytes() == journal_path(path).read_bytes()


def test_readings_of_the_demo_outlive_the_window(qtbot, window):
    window.go("commission")
    confirm(window.stations["commission"])
    window.files.open_demo()
    assert any("recorded earlier" in words for words in window.notices.words())
    assert status(window.stations["commission"], "prove-dead") in (Status.PASSED, Status.DOUBTFUL)
    window.store.site.put_away()
    assert status(window.stations["commission"], "prove-dead") is Status.OPEN


def test_a_disk_that_refuses_records_nothing_and_says_so(station, saved, monkeypatch):
    def refuse(*_args, **_more):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("lodestaff.job.journal.os.fsync", refuse)
    confirm(station)
    assert any("Not recorded" in words for words in saved.notices.words())
    assert station.at == "prove-dead"


PROCEDURE = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from lodestaff.desktop.start import application
from lodestaff.desktop.shell.window import Window
app = application()
window = Window()
window.show()
window.store.open(Path(sys.argv[1]))
window.go("commission")
station = window.stations["commission"]
station.card.person.setCurrentText("J. Marr")

def one():
    before = station.at
    station._record(__import__("lodestaff.commissioning.reading", fromlist=["Reading"]).Reading(
        before, (), True, by="J. Marr", at="2026-11-25T10:00:00+00:00"))
    print(before, flush=True)
    station._go(1)

timer = QTimer()
timer.timeout.connect(one)
timer.start(15)
app.exec()
"""


@pytest.mark.parametrize(("lines", "after_s"), [(3, 0.0), (7, 0.02)])
def test_kill_9_in_the_procedure_loses_no_acknowledged_reading(tmp_path, larkmoor, lines, after_s):
    path = tmp_path / "job.json"
    save_job(larkmoor, path)
    with subprocess.Popen(
        [sys.executable, "-c", PROCEDURE, str(path)], stdout=subprocess.PIPE, text=True
    ) as child:
        acknowledged = [child.stdout.readline().strip() for _ in range(lines)]
        time.sleep(after_s)
        child.kill()
        acknowledged += [line.strip() for line in child.stdout.read().split("\n") if line.strip()]
    held = [entry.data["step"] for entry in read(path)]
    assert held[: len(acknowledged)] == acknowledged
    assert len(held) <= len(acknowledged) + 1
    assert len(acknowledged) > 2


def test_the_steps_part_is_enlarged_with_the_probes_where_they_go(station):
    station.resize(1280, 800)
    go_to(station, "voc-string-1")
    diagram = station.diagram
    assert diagram.places == ("hybrid-array-a-isolator",)
    assert diagram.zoom > 1.2
    assert diagram.rect().contains(diagram.part_rect("hybrid-array-a-isolator").center().toPoint())
    go_to(station, "set-hybrid-reserve_soc")
    assert diagram.places == ()  # nothing is put anywhere: it is read over the link
    go_to(station, "prove-dead")
    assert diagram.zoom == 1.0
