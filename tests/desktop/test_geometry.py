"""Where things stand: nothing overlaps, and going from a value to a place and back gives the value."""

import itertools

import pytest
from PySide6.QtCore import QPointF

from lodestaff.desktop.stations.array.geometry import lay_roof
from lodestaff.desktop.stations.limits.geometry import lay_day
from lodestaff.desktop.stations.site.wall import lay_wall
from lodestaff.job import Change, edit, load_job
from lodestaff.samples import sample_path

SIZES = [(820, 620), (600, 480), (1300, 900)]


@pytest.mark.parametrize("size", SIZES)
class TestRoof:
    def test_faces_slots_and_modules_keep_apart(self, larkmoor, size):
        roof = lay_roof(larkmoor, *size)
        for a, b in itertools.combinations([box.rect for box in roof.faces], 2):
            assert not a.intersects(b)
        for a, b in itertools.combinations([slot.window for slot in roof.slots], 2):
            assert not a.intersects(b)
        for a, b in itertools.combinations([box.rect for box in roof.modules], 2):
            assert not a.adjusted(0.5, 0.5, -0.5, -0.5).intersects(b.adjusted(0.5, 0.5, -0.5, -0.5))

    def test_modules_lie_on_their_faces_and_everything_on_the_surface(self, larkmoor, size):
        roof = lay_roof(larkmoor, *size)
        faces = {box.face.id: box.rect for box in roof.faces}
        for module in roof.modules:
            assert faces[module.face].adjusted(-1, -1, 1, 1).contains(module.rect)
        for rect in [*faces.values(), *(slot.window for slot in roof.slots)]:
            assert rect.left() >= 0
            assert rect.right() <= size[0] + 0.5
            assert rect.bottom() <= size[1]

    def test_bars_stand_at_their_volts(self, larkmoor, size):
        roof = lay_roof(larkmoor, *size)
        bar = next(bar for slot in roof.slots for bar in slot.bars if bar.string.id == "string-1")
        assert bar.voc_x == pytest.approx(roof.x(bar.voc_v))
        assert bar.voc_v == pytest.approx(10 * 39.6 * (1 - 0.26 / 100 * (-14 - 25)))
        assert not bar.over

    def test_what_stands_under_the_hand(self, larkmoor, size):
        roof = lay_roof(larkmoor, *size)
        for module in roof.modules:
            found = roof.module_at(module.rect.center())
            assert (found.face, found.id) == (module.face, module.id)
        for slot in roof.slots:
            assert roof.slot_at(slot.window.center()).tracker == slot.tracker
            for bar in slot.bars:
                assert roof.bar_at(bar.rect.center()).string.id == bar.string.id
        assert roof.module_at(QPointF(-5, -5)) is None


def test_a_string_above_the_maximum_is_drawn_over(larkmoor):
    roof = lay_roof(edit(larkmoor, Change("sheets/hybrids/hybrid-6/max_dc_v", 400)), 820, 620)
    bars = {bar.string.id: bar for slot in roof.slots for bar in slot.bars}
    assert bars["string-1"].over
    assert not bars["string-2"].over
    assert bars["string-1"].voc_x > roof.x(400)


def test_a_string_without_modules_is_loose(larkmoor):
    off = [Change(f"faces/south-west/modules/{m.id}/string", "") for m in larkmoor.faces[1].modules]
    roof = lay_roof(edit(larkmoor, *off), 820, 620)
    assert roof.loose == ("string-2",)


@pytest.mark.parametrize("size", SIZES)
class TestDay:
    @pytest.mark.parametrize(
        ("field", "value"), [("reserve_soc", 0.42), ("export_kw", 2.35), ("charge_kw", 4.1)]
    )
    def test_from_value_to_height_and_back(self, larkmoor, size, field, value):
        day = lay_day(larkmoor, None, *size)
        y = day.y_soc(value) if field == "reserve_soc" else day.y_out(value)
        assert day.value_at(field, y) == pytest.approx(value, abs=0.011 if field == "reserve_soc" else 0.026)

    def test_from_hour_to_place_and_back(self, larkmoor, size):
        day = lay_day(larkmoor, None, *size)
        for hour in (0, 6.5, 12, 18.75, 23.75):
            assert day.hour_at(day.x((hour - 12) % 24)) == pytest.approx(hour)

    def test_every_line_can_be_taken(self, larkmoor, size):
        day = lay_day(larkmoor, None, *size)
        for line in day.lines:
            assert day.line_at(QPointF(day.plot.center().x(), line.y)).field == line.field

    def test_parts_keep_apart(self, larkmoor, size):
        day = lay_day(larkmoor, None, *size)
        for a, b in itertools.combinations((day.plot, day.windows, day.tariff, day.soc), 2):
            assert not a.intersects(b)
        assert day.soc.bottom() <= size[1]


@pytest.mark.parametrize("width", [600, 820, 1300])
def test_plates_keep_apart_and_carry_every_fact(larkmoor, width):
    from lodestaff.desktop.stations.site.facts import rows_of

    plates = lay_wall(larkmoor, width, 24, lambda words: 7.0 * len(words))
    for a, b in itertools.combinations([plate.rect for plate in plates], 2):
        assert not a.intersects(b)
    assert sorted(row.path for plate in plates for row, _ in plate.rows) == sorted(
        row.path for row in rows_of(larkmoor)
    )
    for plate in plates:
        for _, rect in plate.rows:
            assert plate.rect.contains(rect)


def test_cells_of_the_map_tile_it(window, qtbot):
    window.go("storage")
    view = window.stations["storage"].map
    qtbot.waitUntil(lambda: view.sizes is not None and not view.stale, timeout=30_000)
    rects = [view.cell_rect(key).adjusted(0.5, 0.5, -0.5, -0.5) for key in view.sizes.cells]
    for a, b in itertools.combinations(rects, 2):
        assert not a.intersects(b)
    low, high = view.cell_rect(("hybrid-6", 1)), view.cell_rect(("hybrid-6", 6))
    assert high.top() < low.top()


def test_units_behind_modules_have_no_string_volts():
    """By hand: a module of 39.6 V, -0.26 %/K, at the -10 °C taken while the record is unknown; its unit
    takes 60 V."""
    roof = lay_roof(load_job(sample_path("gannet-point-lodge")), 560, 460)
    assert roof.max_dc_v == 60
    assert [slot.name for slot in roof.slots] == ["Branch 1", "Branch 2"]
    for slot in roof.slots:
        (bar,) = slot.bars
        assert bar.voc_v == pytest.approx(39.6 * (1 - 0.26 / 100 * (-10 - 25)))
        assert (bar.words, bar.over) == ("43 V of 60 V", False)
        assert slot.lines[0] == "11 modules, each alone"
