"""The day in the real window: limits and windows are dragged, the year follows."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from lodestaff.desktop.stations.limits.geometry import noon_hours, spans
from lodestaff.desktop.stations.limits.rows import rows_of, typed_value
from lodestaff.quantities.errors import JobError


@pytest.fixture
def day(window):
    window.go("limits")
    return window.stations["limits"].day


def line_of(day, field):
    return next(line for line in day.day.lines if line.field == field)


def drag_to(qtbot, day, field, y, drop=True):
    start = QPoint(int(day.day.plot.right() - 30), round(line_of(day, field).y))
    qtbot.mousePress(day, Qt.MouseButton.LeftButton, pos=start)
    end = QPoint(start.x(), round(y))
    for step in range(1, 5):
        qtbot.mouseMove(day, start + (end - start) * step / 4)
        qtbot.wait(5)
    if drop:
        qtbot.mouseRelease(day, Qt.MouseButton.LeftButton, pos=end)


@pytest.mark.parametrize(("field", "value"), [("reserve_soc", 0.6), ("export_kw", 1.5), ("charge_kw", 2.0)])
def test_dragging_a_limit_sets_it(qtbot, window, day, field, value):
    before = window.store.job
    height = day.day.y_soc(value) if field == "reserve_soc" else day.day.y_out(value)
    drag_to(qtbot, day, field, height)
    assert getattr(window.store.job.limits, field) == pytest.approx(value, abs=0.06)
    window.store.undo()
    assert window.store.job == before


def test_the_year_follows_while_dragging(qtbot, window, day):
    drag_to(qtbot, day, "reserve_soc", day.day.y_soc(0.8), drop=False)
    qtbot.waitUntil(lambda: window.store.preview is not None, timeout=20_000)
    bills = [
        reading.text
        for readings in (window.stations["limits"].readings_before(), window.stations["limits"].readings())
        for reading in readings
        if reading.name == "Bill, a year"
    ]
    assert bills[0] != bills[1]
    assert window.store.job.limits.reserve_soc == 0.3
    qtbot.keyClick(day, Qt.Key.Key_Escape)
    assert window.store.preview is None
    assert not window.store.changed


def test_a_reserve_below_the_floor_is_refused_in_words(qtbot, window, day):
    drag_to(qtbot, day, "reserve_soc", day.day.soc.bottom() + 5)
    assert window.store.job.limits.reserve_soc == 0.3
    assert "outside the battery's 0.1 to 1" in window.notices.words()[0]


def test_dragging_a_window_moves_it(qtbot, window, day):
    block = day.day.blocks[0].rects[0]
    hour = day.day.plot.width() / 24
    start = QPoint(int(block.center().x()), int(block.center().y()))
    qtbot.mousePress(day, Qt.MouseButton.LeftButton, pos=start)
    for step in range(1, 5):
        qtbot.mouseMove(day, start + QPoint(round(hour * step / 2), 0))
        qtbot.wait(5)
    qtbot.mouseRelease(day, Qt.MouseButton.LeftButton, pos=start + QPoint(round(hour * 2), 0))
    moved = window.store.job.limits.windows[0]
    assert (moved.start_h, moved.end_h) == (3.0, 7.0)
    assert window.store.history.undo_name == "Move the charge window to 03:00"


def test_every_drag_has_a_key(qtbot, window, day):
    day.chosen = "export_kw"
    qtbot.keyClick(day, Qt.Key.Key_Left)
    assert window.store.job.limits.export_kw == pytest.approx(3.55)
    qtbot.keyClick(day, Qt.Key.Key_Down)
    assert day.chosen == "charge_kw"
    qtbot.keyClick(day, Qt.Key.Key_Right)
    assert window.store.job.limits.charge_kw == pytest.approx(5.1)


@pytest.mark.parametrize(
    ("start", "end", "expected"),
    [
        (1, 5, ((13, 17),)),
        (13, 20, ((1, 8),)),
        (10, 14, ((22, 24), (0, 2))),
        (6, 12, ((18, 24),)),
        (23, 3, ((11, 15),)),
    ],
)
def test_windows_from_noon_to_noon(start, end, expected):
    assert spans(start, end) == expected
    assert noon_hours(12) == 0


def test_summer_time_shows_where_clocks_part(window, day, settled):
    """A household-clock window from 01:00 runs from 00:00 standard time in June, an hour before it does in
    January."""
    settled(window)
    winter = day.day.blocks[0].rects[0].left()
    window.store.set_moment(month=6)
    settled(window)
    hour = day.day.plot.width() / 24
    assert day.day.blocks[0].rects[0].left() == pytest.approx(winter - hour)


def test_the_table_is_the_drawings_equal(window, day):
    table = window.stations["limits"].settings
    rows = {table.text_at(row, 0): row for row in range(len(table.rows))}
    table.type_at(rows["Reserve"], 1, "45")
    assert window.store.job.limits.reserve_soc == pytest.approx(0.45)
    table.type_at(rows["Window night: begins"], 1, "02:30")
    assert window.store.job.limits.windows[0].start_h == 2.5
    table.type_at(rows["Outage hours promised"], 1, "8 h")
    assert window.store.job.wishes.outage_h == 8


@pytest.mark.parametrize(
    ("setting", "typed", "words"),
    [
        ("Reserve", "half", "a number of %"),
        ("Window night: begins", "25:99", "a time like"),
        ("Export limit", "-1", "greater than or equal to 0"),
    ],
)
def test_bad_typing_is_said_and_the_old_value_stands(window, day, setting, typed, words):
    table = window.stations["limits"].settings
    row = next(row for row in range(len(table.rows)) if table.text_at(row, 0) == setting)
    before, shown = window.store.job, table.text_at(row, 1)
    table.type_at(row, 1, typed)
    assert window.store.job == before
    assert words in window.notices.words()[0]
    assert table.text_at(row, 1) == shown


def test_typed_values(larkmoor):
    rows = {row.words: row for row in rows_of(larkmoor)}
    assert typed_value("30 %", rows["Reserve"]) == pytest.approx(0.3)
    assert typed_value("3,6 kW", rows["Export limit"]) == pytest.approx(3.6)
    assert typed_value("01:15", rows["Low band begins"]) == 1.25
    assert typed_value("3600 W", rows["Export limit"]) == pytest.approx(3.6)
    for text, said in (("3600", "type 3600 W if W is meant"), ("16 A", "230 V and 16 A are 3.68 kW")):
        with pytest.raises(JobError, match=said):
            typed_value(text, rows["Export limit"])
    with pytest.raises(JobError, match="type 01:30 if minutes past midnight"):
        typed_value("90", rows["Low band begins"])
    for text in ("", "1,150", "3 V"):
        with pytest.raises(JobError):
            typed_value(text, rows["Export limit"])


# --- modes, windows of every kind, the best settings -------------------------------------------------------
def typed_in(station, setting, text):
    """Type into the row of a setting, as a person does."""
    station.refresh()
    table = station.settings
    table.type_at(next(at for at in range(len(table.rows)) if table.text_at(at, 0) == setting), 1, text)


def test_modes_windows_and_facts_are_typed_or_chosen(window, day):
    station = window.stations["limits"]
    for setting, text in (
        ("Peak to stay below", "6 kW"), ("Mode", "shave the peak"),
        ("Charge late, with room for noon", "yes"),
        ("Hybrid: may let out", "sun and battery"), ("Window night: does", "hold"),
        ("Window night: months", "11, 12, 1"), ("Window night: on", "12-24"),
        ("Window night: days", "weekdays"), ("Battery of Hybrid: coldest of its place", "-5"),
        ("Car charger: from the battery", "no"),
    ):  # fmt: skip
        typed_in(station, setting, text)
        assert window.notices.words() == [], setting
    job = window.store.job
    assert (job.limits.mode, job.limits.peak_kw, job.limits.keep_room) == ("shave the peak", 6.0, True)
    assert job.units[0].exports == "sun and battery"
    night = job.limits.windows[0]
    assert (night.kind, night.months, night.on, night.days) == ("hold", (11, 12, 1), ("12-24",), "weekdays")
    assert (job.banks[0].place_low_c.value, str(job.banks[0].place_low_c.known)) == (-5.0, "told")
    assert not job.circuit("car-charger").from_battery


@pytest.mark.parametrize(
    ("setting", "text", "words"),
    [
        ("Mode", "shave the peak", "needs the peak to stay below"),
        ("Mode", "something", "choose from serve circuits"),
        ("Window night: months", "13", "months from 1 to 12"),
        ("Window night: on", "02-30", "is no day of a year"),
    ],
)
def test_what_can_not_be_is_said_and_nothing_changes(window, day, setting, text, words):
    before = window.store.job
    typed_in(window.stations["limits"], setting, text)
    assert window.store.job == before
    assert words in window.notices.words()[0]


def test_windows_are_added_taken_away_and_seen_in_their_months(window, day, settled):
    station = window.stations["limits"]
    station.add.click()
    assert [one.id for one in window.store.job.limits.windows] == ["night", "window-1"]
    assert day.chosen == "window-1"
    typed_in(station, "Window window-1: months", "6")
    settled(window)
    assert [block.id for block in day.day.blocks] == ["night"]  # it is January
    window.store.set_moment(month=6)
    settled(window)
    assert [block.id for block in day.day.blocks] == ["night", "window-1"]
    station.remove.click()
    assert [one.id for one in window.store.job.limits.windows] == ["night"]


def test_best_settings_are_found_told_and_taken_as_one_step(qtbot, window, day):
    station, before = window.stations["limits"], window.store.job
    station.best.button.click()
    assert station.best.button.text() == "Stop"
    qtbot.waitUntil(lambda: station.best.best is not None, timeout=60_000)
    assert "The settings reach 62 %" in station.words.text()
    assert "97 %" in station.words.text()
    station.best.button.click()
    assert window.store.job.limits.windows[0].target_soc == 1.0
    assert station.best.best is None
    window.store.undo()
    assert window.store.job == before


def test_a_search_that_is_stopped_leaves_everything(qtbot, window, day):
    station, before = window.stations["limits"], window.store.job
    station.best.button.click()
    station.best.button.click()
    assert station.words.text() == "Stopped."
    qtbot.wait(300)
    assert station.best.best is None
    assert window.store.job == before


def test_off_grid_the_rows_are_the_generators_not_the_grids(empty, settled):
    empty.files.open_sample("skerry-light-cottage")
    settled(empty)
    names = [row.words for row in rows_of(empty.store.job)]
    assert "Generator: starts at" in names
    assert not {"Export limit", "Import limit", "Reserve", "Mode", "Import, high band"} & set(names)
    empty.go("limits")
    assert empty.stations["limits"].best.button.isHidden()


def test_the_mean_day_of_a_month_by_hand(window, day, settled):
    """Each quarter hour is the mean of January's 31 days from noon to noon; back it is the moment's day."""
    settled(window)
    station, results = window.stations["limits"], window.store.results
    year = window.store.reckoner.year(results.job)
    station.mean.click()
    bought = np.clip(year.metered_kw[0], 0, None)
    by_hand = np.mean([np.roll(bought, -(day_ * 96 + 48))[:96] for day_ in range(31)], axis=0)
    assert day.flows(results).imported == pytest.approx(by_hand)
    assert not window.store.changed
    station.mean.click()
    assert day.flows(results) is results.flows


def test_figures_carry_their_range_and_no_more_digits(qtbot, window, day):
    """Ten other years stand beside the figure, which is told to a tenth of their range."""
    station = window.stations["limits"]
    qtbot.waitUntil(lambda: station.ranges.spread is not None, timeout=60_000)
    bill = next(one for one in station.readings() if one.quantity == "bill")
    low, high = (float(part) for part in bill.beside.removesuffix(" in ten years").split(" to "))
    assert low < bill.figure.value < high
    assert bill.text.endswith("0 GBP")  # a range of some hundreds: tens are the last digit
    assert bill.figure.value != round(bill.figure.value, -1)
