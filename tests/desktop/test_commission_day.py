"""The day's pages beside the step: all strings at once, snags, what was left otherwise; the strip, the
clock."""

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from lodestaff.commissioning.reading import Status
from lodestaff.commissioning.snags import open_snags, snags
from lodestaff.job import load_job, save_job
from lodestaff.register import Instrument, Person, Register
from lodestaff.samples import DEMO, samples_folder

VOC, ISC, INSULATION, SUN, WARM = 4, 5, 3, 1, 2  # columns of the page


@pytest.fixture
def station(empty, settled, tmp_path):
    path = tmp_path / "larkmoor.json"
    save_job(load_job(samples_folder() / DEMO), path)
    empty.store.open(path)
    settled(empty)
    instrument = Instrument(name="Tester", calibrated_until="2099-01-01")
    empty.store.site.change_register(Register(people=(Person(name="J. Marr"),), instruments=(instrument,)))
    empty.go("commission")
    found = empty.stations["commission"]
    found.table_button.setChecked(True)
    return found


def reading(station, step):
    return station.proof().result(step).reading


def test_strings_are_typed_on_one_page(station):
    page = station.strings
    first = page.rows[0]
    for column, text in ((SUN, "850"), (WARM, "41"), (INSULATION, "320"), (VOC, "372"), (ISC, "11,6")):
        page.type_at(0, column, text)
    voc = reading(station, first.steps["voc"].step.id)
    assert (voc.numbers, voc.by, voc.instrument) == ((372.0,), "J. Marr", "Tester")
    assert (voc.conditions.poa_w_m2, voc.conditions.module_c) == (850.0, 41.0)
    assert reading(station, first.steps["isc"].step.id).numbers == (11.6,)
    assert page.text_at(0, SUN).startswith("850")


def test_light_that_is_typed_later_is_recorded_with_what_was_read(station):
    page = station.strings
    step = page.rows[1].steps["voc"].step.id
    page.type_at(1, VOC, "300")
    assert reading(station, step).conditions.poa_w_m2 is None
    page.type_at(1, SUN, "640")
    page.type_at(1, WARM, "38")
    assert reading(station, step).conditions.poa_w_m2 == 640.0
    assert reading(station, step).numbers == (300.0,)


def test_what_is_no_number_is_said_and_recorded_nowhere(station):
    before = len(station.store.site.entries)
    station.strings.type_at(0, VOC, "bright")
    assert len(station.store.site.entries) == before


def test_a_snag_has_an_owner_and_a_day_and_is_put_right(station):
    told = []
    station.snags.complained.connect(told.append)
    station.at = "torque"
    station.refresh()
    page = station.snags
    page.text.setText("Label missing at DC isolator B")
    page.owner.setCurrentText("")
    page.write()
    assert "nobody owns it" in told[-1]
    assert page.text.text()  # what was typed stays
    page.owner.setCurrentText("Bo")
    page.due.setText("soon")
    page.write()
    assert "2026-06-18" in told[-1]
    page.due.setText("2099-01-01")
    page.write()
    (snag,) = open_snags(station.store.site.entries)
    assert (snag.owner, snag.due, snag.step, snag.by) == ("Bo", "2099-01-01", "torque", "J. Marr")
    page.list.type_at(0, 3, "fitted")
    assert [one.done for one in snags(station.store.site.entries)] == ["fitted"]
    assert open_snags(station.store.site.entries) == ()


def test_what_a_device_holds_is_taken_into_the_design(station):
    """And the reading that this makes void is asked for again."""
    who, job = station.card.who, station.store.job
    for result in station.proof().results:
        step = result.step
        if step.measure.kind in ("setting", "setting by hand"):
            numbers = (2.5,) if step.measure.subject == "export_kw" else step.rule.wanted
            station._record(who.reading(step.id, tuple(numbers)))
        elif step.stage in ("dead tests", "strings", "start") or step.id == "software":
            station._record(who.reading(step.id, confirmed=True))
    station._record(who.reading("export", (job.limits.export_kw,)))
    station.refresh()
    (left,) = station.otherwise.list.rows
    assert "2.5" in left.text
    station.otherwise.take(left)
    assert station.store.job.limits.export_kw == 2.5
    assert station.proof().result(left.step).status is not Status.FAILED
    assert station.proof().result("export").reading is None
    assert station.otherwise.list.rows == ()


def test_a_plate_that_reads_otherwise_fails_and_as_designed_passes(station):
    station.at = "type-hybrid"
    station.refresh()
    card = station.card
    assert (card.yes.text(), card.reading.placeholderText()) == ("As designed", "as the plate reads")
    card.reading.setText("Hybrid 8 kVA")
    card.record()
    assert station.proof().result("type-hybrid").status is Status.FAILED
    station.at = "type-hybrid"
    station.refresh()
    QTest.mouseClick(card.yes, Qt.MouseButton.LeftButton)
    assert station.proof().result("type-hybrid").status is not Status.FAILED


def test_the_strip_shows_where_each_step_stands_and_goes_there(station):
    strip = station.strip
    cells = strip.cells()
    assert len(cells) == len(station.proof().results)
    assert cells[-1].right() <= strip.width()
    middle = QPointF(cells[7].center())
    QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=middle.toPoint())
    assert station.at == station.proof().results[7].step.id
    assert "step 8 of" in strip.accessibleDescription()


def test_a_wait_counts_down_and_a_time_is_taken(station):
    clock, seconds, timed = station.card.timer, [0.0], []
    clock.elapsed = lambda: seconds[0]
    clock.timed.connect(timed.append)
    clock.show_step("shutdown", 30.0, False)
    assert clock.text() == "Wait 30 s"
    clock.click()
    seconds[0] = 12.0
    clock._tick()
    assert clock.text() == "18 s left"
    seconds[0] = 30.1
    clock._tick()
    assert (clock.text(), clock.running) == ("Waited", False)
    clock.show_step("dark", 0.0, True)
    clock.click()
    seconds[0] = 4.26
    clock.click()
    assert timed == [4.3]
    assert station.card.reading.text() == "4.3"
