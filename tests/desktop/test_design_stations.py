"""Site, Array and Storage in the real window, and comparing."""

from pathlib import Path

import pvlib
import pytest
from PySide6.QtCore import QPoint, Qt

from lodestaff.desktop.shell.comparison import verdict
from lodestaff.desktop.stations.site.facts import ROWS, rows_of, shown, typed
from lodestaff.job import Change, load_job, save_job
from lodestaff.reckoning.schedules import termination_schedule


def row_named(words):
    return next(row for row in ROWS if row.words == words)


class TestSite:
    @pytest.fixture
    def station(self, window):
        window.go("site")
        return window.stations["site"]

    def test_a_click_and_a_typed_value_read_a_fact_off(self, qtbot, window, station):
        rect = next(rect for row, rect in station.wall.rows() if row.words == "Service rating")
        qtbot.mouseClick(station.wall, Qt.MouseButton.LeftButton, pos=rect.center().toPoint())
        assert station.editor.row.words == "Service rating"
        station.editor.value.setText("80")
        station.editor.known.setCurrentText("photo")
        qtbot.keyClick(station.editor.value, Qt.Key.Key_Return)
        rating = window.store.job.site.supply.rating_a
        assert (rating.value, str(rating.known)) == (80, "photo")
        assert window.store.history.undo_name == "Set service rating to 80 A"

    def test_by_keyboard(self, qtbot, window, station):
        qtbot.keyClick(station.wall, Qt.Key.Key_Down)
        assert station.wall.chosen.words == "Kind of supply"
        qtbot.keyClick(station.wall, Qt.Key.Key_Return)
        assert station.editor.choice.hasFocus() or not window.isActiveWindow()

    def test_an_emptied_value_is_unknown_and_opens_its_check(self, window, station, settled):
        station.editor.set_fact(row_named("Record low"), "")
        assert window.store.job.site.record_low_c.value is None
        settled(window)
        assert any(one.code == "ARR-VOC" and one.status == "open" for one in window.store.results.findings)

    @pytest.mark.parametrize(
        ("words", "text", "trouble"),
        [
            ("Voltage", "high", "'high' is not a number of V"),
            ("Spare ways", "2.5", "not a whole number"),
            ("Voltage", "-3", "greater than 0"),
            ("Latitude", "89", "less than or equal to 66"),
        ],
    )
    def test_bad_typing_is_said_and_the_old_value_stands(self, window, station, words, text, trouble):
        before = window.store.job
        assert not station.editor.set_fact(row_named(words), text)
        assert window.store.job is before
        assert trouble in window.notices.words()[0]

    def test_the_table_is_the_drawings_equal(self, window, station):
        index = next(i for i, row in enumerate(rows_of(window.store.job)) if row.words == "Voltage")
        station.facts.type_at(index, 1, "241")
        station.facts.type_at(index, 2, "told")
        voltage = window.store.job.site.supply.voltage_v
        assert (voltage.value, str(voltage.known)) == (241, "told")

    def test_every_row_shows_and_takes_its_own_text_back(self, larkmoor):
        for row in rows_of(larkmoor):
            text, _, _ = shown(larkmoor, row)
            if text not in ("-", "?") and row.kind != "photos":
                typed(row, text.replace("−", "-").replace(",", ""))

    def test_weather_from_a_file(self, window, station, settled, tmp_path):
        source = Path(pvlib.__file__).parent / "data" / "723170TYA.CSV"
        bad = tmp_path / "bad.csv"
        bad.write_text("hello")
        assert not station.attach_weather(bad)
        assert "cannot be read as TMY3" in window.notices.words()[-1]
        assert not station.attach_weather(source)
        assert "not that of this job's place" in window.notices.words()[-1]
        there = {"latitude_deg": 36.1, "longitude_deg": -79.95, "altitude_m": 273.0, "utc_offset_h": -5.0}
        zone = Change("site/time_zone/value", "America/New_York")
        assert window.store.edit("Move", zone, *(Change(f"site/{key}", one) for key, one in there.items()))
        assert station.attach_weather(source)
        settled(window)
        assert window.store.job.site.weather.kind == "file"
        assert window.store.results.figures.pv_kwh > 1000
        window.store.save(tmp_path / "job.json")  # the file comes along from the draft
        digest = window.store.job.site.weather.sha256
        assert (tmp_path / "job.files" / digest).read_bytes() == source.read_bytes()
        window.store.undo()
        assert window.store.job.site.weather.kind == "synthetic"


class TestArray:
    @pytest.fixture
    def view(self, window):
        window.go("array")
        return window.stations["array"].view

    def drag(self, qtbot, view, start, end, drop=True):
        qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=start)
        for step in range(1, 5):
            qtbot.mouseMove(view, start + (end - start) * step / 4)
            qtbot.wait(5)
        if drop:
            qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=end)

    def test_a_module_is_dragged_onto_another_string(self, qtbot, window, view):
        box = next(one for one in view.roof.modules if (one.face, one.id) == ("south-east", "m3"))
        bar = next(bar for slot in view.roof.slots for bar in slot.bars if bar.string.id == "string-2")
        self.drag(qtbot, view, box.rect.center().toPoint(), bar.rect.center().toPoint())
        assert window.store.job.faces[0].modules[2].string == "string-2"
        assert window.store.history.undo_name == "Put 1 module on string 2"
        window.store.undo()
        assert not window.store.changed

    def test_a_string_is_dragged_onto_another_tracker(self, qtbot, window, view):
        bar = next(bar for slot in view.roof.slots for bar in slot.bars if bar.string.id == "string-2")
        slot = next(slot for slot in view.roof.slots if slot.tracker == "A")
        self.drag(
            qtbot,
            view,
            bar.rect.center().toPoint(),
            QPoint(int(slot.window.center().x()), int(slot.window.top() + 12)),
        )
        assert window.store.job.strings[1].tracker == "A"
        assert window.store.history.undo_name == "Put string 2 on tracker A"

    def test_the_try_out_shows_before_the_drop(self, qtbot, window, view):
        bar = next(bar for slot in view.roof.slots for bar in slot.bars if bar.string.id == "string-2")
        slot = next(slot for slot in view.roof.slots if slot.tracker == "A")
        self.drag(
            qtbot,
            view,
            bar.rect.center().toPoint(),
            QPoint(int(slot.window.center().x()), int(slot.window.top() + 12)),
            drop=False,
        )
        qtbot.waitUntil(lambda: window.store.preview is not None, timeout=20_000)
        busiest = {reading.name: reading.status for reading in window.stations["array"].readings()}
        assert busiest["Busiest tracker"] == "blocks"
        qtbot.keyClick(view, Qt.Key.Key_Escape)
        assert window.store.job.strings[1].tracker == "B"

    def test_every_drag_has_a_key(self, qtbot, window, view):
        view.selected = (("south-east", "m1"),)
        qtbot.keyClick(view, Qt.Key.Key_Plus)
        assert window.store.job.faces[0].modules[0].string == "string-2"
        qtbot.keyClick(view, Qt.Key.Key_Delete)
        assert window.store.job.faces[0].modules[0].string == ""
        qtbot.keyClick(view, Qt.Key.Key_Right)
        assert view.selected == (("south-east", "m2"),)
        qtbot.keyClick(view, Qt.Key.Key_T)
        qtbot.keyClick(view, Qt.Key.Key_Down)
        assert window.store.job.strings[0].tracker == "B"

    def test_a_double_click_takes_the_whole_string(self, qtbot, window, view):
        box = view.roof.modules[0]
        qtbot.mouseDClick(view, Qt.MouseButton.LeftButton, pos=box.rect.center().toPoint())
        assert len(view.selected) == 10

    def test_faces_are_to_one_scale(self, view):
        scales = {round(box.rect.width() / box.face.width_m, 6) for box in view.roof.faces}
        scales |= {round(box.rect.height() / box.face.height_m, 6) for box in view.roof.faces}
        assert len(scales) == 1

    def test_the_table_is_the_drawings_equal(self, window, view):
        rows = window.stations["array"].rows
        rows.type_at(1, 1, "A")
        assert window.store.job.strings[1].tracker == "A"
        rows.type_at(2, 1, "none")
        assert window.store.job.faces[0].modules[0].string == ""
        assert len(rows.rows) == 2 + 18


class TestStorage:
    @pytest.fixture
    def station(self, qtbot, window):
        window.go("storage")
        station = window.stations["storage"]
        qtbot.waitUntil(lambda: station.map.sizes is not None and not station.map.stale, timeout=30_000)
        return station

    def test_a_click_adopts_a_cell(self, qtbot, window, station):
        qtbot.mouseClick(
            station.map,
            Qt.MouseButton.LeftButton,
            pos=station.map.cell_rect(("hybrid-5", 5)).center().toPoint(),
        )
        assert window.store.job.units[0].sheet == "hybrid-5"
        assert window.store.job.banks[0].modules == 5
        assert window.store.history.undo_name == "Take 5 kVA with 5 battery modules"
        qtbot.waitUntil(lambda: not station.map.stale, timeout=30_000)
        assert station.map.sizes.now == ("hybrid-5", 5)
        window.store.undo()
        assert not window.store.changed

    def test_by_keyboard(self, qtbot, window, station):
        assert station.map.chosen == ("hybrid-6", 4)
        qtbot.keyClick(station.map, Qt.Key.Key_Up)
        qtbot.keyClick(station.map, Qt.Key.Key_Return)
        assert window.store.job.banks[0].modules == 5

    @pytest.mark.parametrize("outcome", ["self-sufficiency", "curtailed", "endurance"])
    def test_outcomes_can_be_chosen(self, qtbot, station, outcome):
        next(button for button in station.outcomes.buttons() if button.text() == outcome).click()
        qtbot.waitUntil(lambda: not station.map.stale, timeout=30_000)
        assert station.map.value_text(station.map.sizes.cells["hybrid-6", 4]) != "–"

    def test_it_can_be_stopped_and_the_old_map_stays(self, qtbot, window, station):
        before = station.map.sizes
        window.store.edit("x", Change("limits/export_kw", 1.0))
        station.stop()
        qtbot.wait(300)
        assert station.map.sizes is before
        assert station.map.stale

    def test_the_table_is_the_drawings_equal(self, qtbot, window, station):
        rows = station.cells
        assert len(rows.rows) == 30
        rows.indexWidget(rows.index_of(0, 5)).click()
        assert (window.store.job.units[0].sheet, window.store.job.banks[0].modules) == ("hybrid-3", 1)


class TestCables:
    @pytest.fixture
    def station(self, window):
        window.go("wire")
        station = window.stations["wire"]
        station.table_button.setChecked(True)
        return station

    def test_a_cable_is_typed(self, window, station):
        station.tabs.setCurrentWidget(station.cables)
        row = [run.id for run in station.cables.rows].index("hybrid-feed")
        size = [column.heading for column in station.cables.source.columns].index("Size")
        station.cables.type_at(row, size, "6")
        assert next(c for c in window.store.job.cables if c.id == "hybrid-feed").size_mm2 == 6
        station.cables.type_at(
            row, size, "10 AWG"
        )  # 5.26 mm² is no row of this pack's table: it stays as typed
        assert next(c for c in window.store.job.cables if c.id == "hybrid-feed").size_mm2 == 5.261
        station.cables.type_at(row, size, "thick")
        assert "not a number" in window.notices.words()[0]

    def test_a_run_without_a_cable_begins_with_the_proposed_one(self, window, station):
        station.tabs.setCurrentWidget(station.cables)
        rows = [cable for cable in window.store.job.cables if cable.id != "hybrid-bypass-feed"]
        window.store.edit("bare", Change("cables", [cable.model_dump(mode="json") for cable in rows]))
        station.cables.refresh()
        row = [run.id for run in station.cables.rows].index("hybrid-bypass-feed")
        length = [column.heading for column in station.cables.source.columns].index("Length, m")
        station.cables.type_at(row, length, "4")
        made = next(c for c in window.store.job.cables if c.id == "hybrid-bypass-feed")
        assert (made.length_m, made.table, made.size_mm2) == (4, "4D5 C", 4)

    def test_cables_are_proposed_by_a_button(self, qtbot, window, station, settled):
        station.tabs.setCurrentWidget(station.cables)
        window.store.edit("bare", Change("cables", []))
        settled(window)
        station.proposing.button.click()
        qtbot.waitUntil(lambda: len(window.store.job.cables) == len(station.cables.rows), timeout=5000)
        assert "Proposed for 8 runs" in station.words.text()
        station.cables.setCurrentIndex(station.cables.index_of(0, 0))
        assert station.proposing.button.text() == "Propose this run"
        window.store.undo()
        assert window.store.job.cables == ()

    def test_schedules_are_shown_and_a_busbar_is_typed(self, window, station):
        window.files.open_sample("ocotillo-wash-centre")
        station.tabs.setCurrentWidget(station.schedules)
        for which in ("Devices", "Terminations", "Communication", "Labels", "Parts", "Boards"):
            station.schedules.which.setCurrentText(which)
            station.schedules.refresh()
            assert station.schedules.table.rows
            assert station.schedules.table.accessibleName() == which
        heads = [column.heading for column in station.schedules.table.source.columns]
        station.schedules.table.type_at(0, heads.index("Busbar, A"), "200")
        station.schedules.table.type_at(0, heads.index("Sources sit"), "opposite the main")
        board = next(part for part in window.store.job.parts if part.id == "grid-1")
        assert (board.busbar_a.value, board.sources_sit.value) == (200, "opposite the main")
        station.schedules.table.type_at(0, heads.index("Busbar, A"), "wide")
        assert "not a number" in window.notices.words()[0]

    def test_an_end_is_ticked_and_printed_so(self, window, station):
        station.tabs.setCurrentWidget(station.schedules)
        station.schedules.which.setCurrentText("Terminations")
        station.schedules.refresh()
        table = station.schedules.table
        done = [column.heading for column in table.source.columns].index("Done")
        table.type_at(3, done, "[x]")
        store = window.store
        assert len(store.job.handed.made_off) == 1
        rows = termination_schedule(store.reckoner, store.job).rows
        assert [number for number, row in enumerate(rows) if row[-1] == "[x]"] == [3]
        station.schedules.refresh()
        table.type_at(3, done, "[  ]")
        assert store.job.handed.made_off == ()

    def test_a_conduit_is_begun_filled_and_taken_out(self, window, station):
        station.tabs.setCurrentWidget(station.schedules)
        station.schedules.which.setCurrentText("Containment")
        station.schedules.refresh()
        table = station.schedules.table
        table.type_at(0, 0, "Garage conduit")
        station.schedules.refresh()
        heads = [column.heading for column in table.source.columns]
        table.type_at(0, heads.index("Runs"), "Meter tails, Hybrid feed")
        table.type_at(0, heads.index("Bends, °"), "270")
        table.type_at(0, heads.index("Of"), "metal")
        (made,) = window.store.job.containments
        assert (made.name, made.runs, made.bends_deg, made.metal) == (
            "Garage conduit", ("tails", "hybrid-feed"), 270, True)  # fmt: skip
        table.type_at(0, heads.index("Runs"), "Somewhere")
        assert "no run" in window.notices.words()[0]
        station.schedules.refresh()
        table.type_at(0, 0, "")
        assert window.store.job.containments == ()

    def test_a_step_of_shutting_down_is_put_elsewhere_and_back(self, window, station):
        station.tabs.setCurrentWidget(station.schedules)
        station.schedules.which.setCurrentText("Shutdown")
        station.schedules.refresh()
        table = station.schedules.table
        names = [line.texts[1] for line in table.rows]
        table.type_at(2, 0, "1")
        assert "no reason" in window.notices.words()[0]
        table.type_at(2, 0, "99: too far")
        assert "no place" in window.notices.words()[0]
        assert window.store.job.reorderings == ()
        table.type_at(2, 0, "1: its lock hangs there")
        station.schedules.refresh()
        shown = [line.texts for line in table.rows]
        assert [row[1] for row in shown] == [names[2], names[0], names[1], *names[3:]]
        assert shown[0][3] == "its lock hangs there"
        table.type_at(3, 0, "1: and its own there")  # right before the moved one, which then goes last
        station.schedules.refresh()
        table.type_at(1, 0, f"{len(names)}: or there")
        station.schedules.refresh()
        shown = [line.texts[1] for line in table.rows]
        assert (shown[0], shown[-1]) == (names[3], names[2])
        assert shown[1:-1] == [name for name in names if name not in (names[2], names[3])]
        for name in (names[2], names[3]):
            table.type_at([line.texts[1] for line in table.rows].index(name), 0, "")
            station.schedules.refresh()
        assert [line.texts[1] for line in table.rows] == names

    def test_a_value_of_the_pack_is_corrected(self, window, station):
        station.tabs.setCurrentWidget(station.pack)
        names = [station.pack.text_at(row, 0) for row in range(len(station.pack.rows))]
        station.pack.type_at(names.index("notify a per phase"), 1, "20")
        value = window.store.job.pack.values["notify_a_per_phase"]
        assert (value.value, value.corrected) == (20, True)
        station.pack.type_at(names.index("cables: 10 mm², 4D5 C A"), 1, "60")
        assert window.store.job.pack.table("cables").at(10, "4D5 C A") == 60
        assert "corrected in this job" in station.pack.text_at(names.index("cables: 10 mm², 4D5 C A"), 3)

    def test_a_conductor_brings_its_runs_findings(self, window, station, settled):
        settled(window)
        everything = len(station.findings())
        station._asked("hybrid-feed.load>hybrid.grid")
        assert {one.code for one in station.findings()} >= {"WIRE-AMP", "WIRE-DROP", "WIRE-FAULT", "WIRE-RCD"}
        assert len(station.findings()) < everything
        assert "16 mm², 14 m" in station.note()


def test_comparing_with_a_file(qtbot, window, tmp_path):
    path = tmp_path / "before.json"
    save_job(window.store.job, path)
    window.store.edit("x", Change("limits/reserve_soc", 0.5))
    window.files.compare_with(path)
    qtbot.waitUntil(
        lambda: window.side.comparison is not None and window.pages.currentWidget() is window.side.comparison,
        timeout=30_000,
    )
    names = [
        window.side.comparison.table.text_at(row, 1) for row in range(len(window.side.comparison.table.rows))
    ]
    assert names[0] == "limits/reserve_soc"
    assert "Bill, a year" in names
    qtbot.keyClick(window.side.comparison, Qt.Key.Key_Escape)
    assert window.pages.currentWidget() is window.stations["loads"]
    window.files.compare_with(tmp_path / "nowhere.json")
    assert "Not compared." in window.notices.words()[0]
    assert load_job(path).limits.reserve_soc == 0.3


class TestComparing:
    """Two versions side by side: what differs, which is the better, following undo."""

    @pytest.fixture
    def compared(self, window, tmp_path, qtbot, settled):
        path = tmp_path / "before.json"
        save_job(window.store.job, path)
        window.store.edit("Less reserve", Change("limits/reserve_soc", 0.2))
        settled(window)
        window.files.compare_with(path)
        qtbot.waitUntil(lambda: window.side.comparison is not None, timeout=20_000)
        return window.side.comparison

    def test_only_what_differs_is_shown_unless_all_is_asked_for(self, compared):
        assert compared.table.rows
        assert not any(row.same for row in compared.table.rows)
        compared.all.setChecked(True)
        assert any(row.same for row in compared.table.rows)

    def test_it_says_which_is_the_better(self, compared):
        reserve = next(row for row in compared.table.rows if row.name.startswith("Reserve alone"))
        assert reserve.better is False
        assert verdict(reserve).endswith("worse")
        bill = next((row for row in compared.rows if row.name.startswith("Bill")), None)
        assert bill is None or bill.same or bill.better is (bill.difference < 0)

    def test_it_follows_undo(self, compared, window, qtbot, settled):
        window.store.undo()
        qtbot.waitUntil(lambda: not compared.table.rows, timeout=20_000)
        assert compared.none.isVisible()
