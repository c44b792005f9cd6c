"""The roof in the hand: things dragged and moved by keys, tables typed, the moment's shadow, the page of
choices."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from lodestaff.desktop.roof_choices.bars import words_of
from lodestaff.desktop.stations.array.adding import add_around, add_roof, add_thing
from lodestaff.desktop.stations.array.faces_table import outline_text, read_outline
from lodestaff.desktop.stations.array.horizon import Point
from lodestaff.desktop.stations.array.sky import plot_of
from lodestaff.quantities.errors import JobError


@pytest.fixture
def array(window, settled):
    window.go("array")
    settled(window)
    return window.stations["array"]


def chimney(window):
    return window.store.job.faces[1].obstacles[0]


def test_a_chimney_is_dragged_and_stays_on_its_face(array, window, settled):
    spot = array.view.roof.faces[1].obstacles[0]
    grip = spot.rect.center().toPoint()
    before = chimney(window)
    QTest.mousePress(array.view, Qt.MouseButton.LeftButton, pos=grip)
    QTest.mouseMove(array.view, grip + QPoint(6, 10))
    QTest.mouseMove(array.view, grip + QPoint(20, 30))
    QTest.mouseRelease(array.view, Qt.MouseButton.LeftButton, pos=grip + QPoint(20, 30))
    settled(window)
    after = chimney(window)
    assert (after.x_m, after.y_m) != (before.x_m, before.y_m)
    assert after.y_m < before.y_m
    assert after.x_m + after.w_m <= window.store.job.faces[1].width_m
    window.store.undo()
    assert chimney(window) == before


def test_by_keys_it_moves_a_tenth_of_a_metre(array, window, settled):
    array.view.setFocus()
    QTest.keyClick(array.view, Qt.Key.Key_O)
    assert array.view.things.chosen == ("south-west", "obstacle-1")
    x = chimney(window).x_m
    QTest.keyClick(array.view, Qt.Key.Key_Right)
    assert chimney(window).x_m == pytest.approx(x + 0.1)
    QTest.keyClick(array.view, Qt.Key.Key_Escape)
    assert array.view.things.chosen is None
    names = [spoken.name for spoken in array.view.spoken()]
    assert "chimney, South-west" in names


def test_corners_are_dragged_added_and_taken_out(array, window, settled):
    array.shape.setChecked(True)
    view, face = array.view, window.store.job.faces[0]
    assert view.corners.chosen == ("south-east", 0)
    corner = view.roof.faces[0].point(face.width_m, face.height_m).toPoint()
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=corner)
    QTest.mouseMove(view, corner + QPoint(-10, 5))
    QTest.mouseMove(view, corner + QPoint(-20, 10))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=corner + QPoint(-20, 10))
    settled(window)
    moved = window.store.job.faces[0].corners[2]
    assert 7 < moved[0] < face.width_m
    assert moved[1] < face.height_m
    QTest.keyClick(view, Qt.Key.Key_Plus)
    assert len(window.store.job.faces[0].corners) == 5
    settled(window)
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert len(window.store.job.faces[0].corners) == 4
    settled(window)
    assert "corner 1 of South-east" in [spoken.name for spoken in view.spoken()]
    QTest.keyClick(view, Qt.Key.Key_C)
    assert view.corners.chosen == ("south-west", 0)
    array.shape.setChecked(False)
    assert not [spoken for spoken in view.spoken() if spoken.name.startswith("corner")]


def test_onto_a_module_it_is_refused_and_says_so(array, window, settled):
    array.view.things.choose(("south-west", "obstacle-1"))
    x, said = chimney(window).x_m, []
    window.store.trouble.connect(lambda kind, words: said.append(words))
    for _ in range(4):
        array.view.things.step(Qt.Key.Key_Left)
    assert chimney(window).x_m < x
    assert said
    assert "lies on" in said[0]


def test_the_horizon_is_drawn_on_the_sky_and_typed_in_its_table(array, window, settled):
    sky = plot_of(array.view.roof.sky)
    begin = QPoint(round(sky.center().x()), round(sky.bottom() - sky.height() * 0.2))
    QTest.mousePress(array.view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, begin)
    for step in range(1, 9):
        QTest.mouseMove(array.view, begin + QPoint(6 * step, 0))
    QTest.mouseRelease(
        array.view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, begin + QPoint(48, 0)
    )
    points = {p.azimuth_deg: p.elevation_deg for p in window.store.job.site.horizon}
    assert points[180.0] == pytest.approx(15, abs=1)
    assert max(points) > 190
    assert points[0.0] == 0
    settled(window)
    array.horizon.refresh()
    array.horizon._elevation(Point(180.0, points[180.0]), "22")
    assert {p.azimuth_deg: p.elevation_deg for p in window.store.job.site.horizon}[180.0] == 22
    array.horizon._azimuth(Point(None, None), "95")
    assert 95.0 in {p.azimuth_deg for p in window.store.job.site.horizon}
    array.horizon._azimuth(Point(95.0, 0.0), "")
    assert 95.0 not in {p.azimuth_deg for p in window.store.job.site.horizon}


def test_what_is_added_stands_where_nothing_lies(window):
    store = window.store
    assert add_thing(store, "south-east", "Chimney")
    thing = store.job.faces[0].obstacles[-1]
    assert thing.height_m is None, "how high it rises nobody can guess"
    assert add_around(store, "Tree")
    assert store.job.surroundings[-1].shape == "round"
    before = len(store.job.faces)
    assert add_roof(store, "hip")
    assert len(store.job.faces) == before + 4
    assert store.job.faces[-1].outline


def test_faces_are_typed_in_their_table(array, window):
    table, face = array.faces, window.store.job.faces[0]
    table.refresh()

    assert read_outline("0, 0; 7.6, 0; 3.8, 4.6") == [[0, 0], [7.6, 0], [3.8, 4.6]]
    with pytest.raises(JobError, match="corner 2"):
        read_outline("0, 0; 7.6; 3.8, 4.6")
    assert outline_text(face) == ""


def test_the_page_of_choices_fills_itself_and_one_is_taken(window, settled, qtbot):
    window.side.open_roof()
    page = window.side.roof
    qtbot.waitUntil(
        lambda: page.bars.on_roof is not None and not page.stop_button.isEnabled(), timeout=60_000
    )
    settled(window)
    assert page.words.text().startswith("All ")
    assert len(page.bars.on_roof.families) == 4
    assert "as planned" in words_of(page.bars.on_roof.families[0])
    best = window.store.job
    page.take(window_second(page))
    assert window.store.job is not best
    assert sorted(sum(n for _, n in window.store.job.modules_in(s.id)) for s in window.store.job.strings) == [
        7,
        11,
    ]
    window.store.undo()


def window_second(page):
    """The second of the ways in the table."""
    from lodestaff.reckoning.arranging import arranged

    return arranged(page.store.reckoner, page.job).ways[1]
