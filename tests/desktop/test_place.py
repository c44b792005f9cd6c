"""The Place station in the real window: walls, parts dragged and by keys, findings on the way, lengths."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from lodestaff.desktop.stations.place.adding import add_feature, add_passage, add_wall
from lodestaff.desktop.stations.place.geometry import lay_plan, snapped
from lodestaff.job import Change
from lodestaff.places import Rect


@pytest.fixture
def place(window, settled):
    window.go("place")
    settled(window)
    return window.stations["place"]


@pytest.fixture
def bare(window, place, settled):
    """The demo without a wall."""
    window.store.edit(
        "Clear", *(Change(path, []) for path in ("arrangements", "passages", "standing", "walls"))
    )
    settled(window)
    return place


def centre(view, part):
    body = next(body for body in view.bodies if body.id == part)
    return view.plan.box_of(body).center().toPoint()


def test_from_nothing_in_a_few_steps(window, bare, settled):
    view = bare.view
    assert view.plan.walls == ()
    assert len(view.plan.waiting) == len(view.bodies) > 5
    assert not bare.all.isEnabled()
    add_wall(window.store, "garage")
    add_wall(window.store, "")
    add_feature(window.store, "wall-2", "window")
    add_passage(window.store, "wall-1", "wall-2")
    settled(window)
    bare.all.click()
    settled(window)
    assert [wall.name for wall in window.store.job.walls] == ["Garage wall", "Outside wall"]
    assert not view.plan.waiting or not bare.all.isEnabled() or len(view.plan.waiting) < len(view.bodies)
    for body in view.bodies:
        if body.rect is not None:
            rect = body.rect
            assert body.wall.holds(rect.x, rect.y, rect.width, rect.height)
    window.store.undo()
    assert window.store.job.standing == ()


def test_a_part_is_dragged_from_the_shelf_onto_a_wall_with_its_findings(window, bare, settled):
    add_wall(window.store, "garage")
    add_feature(window.store, "wall-1", "door")
    settled(window)
    view = bare.view
    box = view.plan.walls[0]
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=centre(view, "battery"))
    assert view.chosen == "battery"
    near = box.point(1.1, 0.02).toPoint()  # right of the door, which ends at 0.9 + 0.15 m
    QTest.mouseMove(view, near - QPoint(20, 0))
    QTest.mouseMove(view, near)
    assert view.held is not None
    assert any("from the door" in one.text for one in view.told)  # it is told before it is dropped
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=near)
    settled(window)
    at = next(one for one in window.store.job.standing if one.id == "battery")
    assert (at.wall, at.y_m) == ("wall-1", 0.0)  # snapped to the floor
    assert window.store.history.undo_name.startswith("Put Battery, 4 modules on Garage wall")
    assert any(one.quantity == "opening" and one.blocks for one in bare.findings())


def test_arrows_move_w_changes_the_wall_and_delete_takes_off(window, place, settled):
    view = place.view
    view.setFocus()
    view.choose("battery-isolator")
    before = view.body.standing
    QTest.keyClick(view, Qt.Key.Key_Right)
    QTest.keyClick(view, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    after = view.body.standing
    assert (after.x_m, after.y_m) == (pytest.approx(before.x_m + 0.05), pytest.approx(before.y_m + 0.01))
    assert after.held == before.held  # what is known of it stays
    QTest.keyClick(view, Qt.Key.Key_W)
    assert view.body.standing.wall == "corridor"
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert view.body.standing is None
    QTest.keyClick(view, Qt.Key.Key_PageDown)
    assert view.chosen != "battery-isolator"
    for _ in range(4):
        window.store.undo()
    assert next(one for one in window.store.job.standing if one.id == "battery-isolator") == before


def test_every_part_says_where_it_stands(place):
    spoken = {item.key: item for item in place.view.spoken()}
    assert set(spoken) == {body.id for body in place.view.bodies}
    assert "Plant room, north wall" in spoken["hybrid"].value
    spoken["board"].press()
    assert place.view.chosen == "board"


def test_walls_are_typed_in_the_table(window, place, settled):
    place.table_button.click()
    table = place.walls
    columns = [column.heading for column in table.source.columns]
    table.type_at(0, columns.index("Width, m"), "7.2 m")
    assert window.store.job.walls[0].width_m == 7.2
    table.type_at(0, columns.index("Water up to, m"), "0.3")
    assert window.store.job.walls[0].flood_m.value == 0.3
    settled(window)
    assert any(one.quantity == "flood" and one.blocks for one in place.findings())
    table.type_at(0, columns.index("Where"), "bedroom")
    settled(window)
    assert any(one.quantity == "room" and one.blocks for one in place.findings())
    table.type_at(0, columns.index("Height, m"), "tall")
    assert any("not a number" in words for words in window.notices.words())
    place.tabs.setCurrentWidget(place.features)
    count = len(window.store.job.walls[0].features)
    place.features.setCurrentIndex(place.features.index_of(0, 0))
    QTest.keyClick(place.features, Qt.Key.Key_Delete)
    assert len(window.store.job.walls[0].features) == count - 1


def test_a_wall_goes_with_what_stands_on_it(window, place):
    place.table_button.click()
    place.walls.setCurrentIndex(place.walls.index_of(1, 0))
    QTest.keyClick(place.walls, Qt.Key.Key_Delete)
    job = window.store.job
    assert [wall.id for wall in job.walls] == ["plant"]
    assert job.passages == ()
    assert {one.wall for one in job.standing} == {"plant"}


def test_lengths_are_taken_as_one_step(window, place, settled):
    job = window.store.job
    cable = next(cable for cable in job.cables if cable.id == "hybrid-feed")
    assert cable.known.firm  # typed: it stays
    assert not place.take.isEnabled()
    window.store.edit("Assume", Change("cables/hybrid-feed/known", {"value": "yes", "known": "assumed"}))
    settled(window)
    assert place.take.isEnabled()
    place.take.click()
    now = next(cable for cable in window.store.job.cables if cable.id == "hybrid-feed")
    assert now.length_m != cable.length_m
    assert "Take the lengths of 1 ways" in window.store.history.undo_name
    settled(window)
    assert not place.take.isEnabled()


def test_walls_take_the_largest_scale_and_parts_snap(place):
    job, bodies = place.store.job, place.view.bodies
    wide = lay_plan(job, bodies, 1400, 500)
    tall = lay_plan(job, bodies, 500, 900)
    assert wide.walls[0].rect.top() == pytest.approx(wide.walls[1].rect.top(), abs=40)
    assert tall.walls[1].rect.top() > tall.walls[0].rect.bottom()
    box = wide.walls[0]
    other = Rect(1.0, 0.8, 0.5, 0.6)
    near = snapped(box, Rect(1.515, 0.803, 0.2, 0.2), [other])
    assert (near.x, near.y) == (1.5, 0.8)  # edge to edge, feet level
    rect = snapped(box, Rect(-3, 9, 0.2, 0.2), [])
    assert box.wall.holds(rect.x, rect.y, rect.width, rect.height)


def test_first_places_keep_batteries_out_of_forbidden_rooms_and_generators_outside(window, settled):
    window.files.open_sample("skerry-light-cottage")
    settled(window)
    window.go("place")
    store = window.store
    store.edit("Clear", *(Change(path, []) for path in ("arrangements", "passages", "standing", "walls")))
    add_wall(store, "hall")
    settled(window)
    window.stations["place"].stand()
    placed = {one.id for one in store.job.standing}
    assert "hybrid" in placed
    assert not {"battery", "generator"} & placed
    add_wall(store, "")
    store.edit("Wider", Change("walls/wall-2/width_m", 8.0))
    settled(window)
    window.stations["place"].stand()
    assert {one.wall for one in store.job.standing if one.id in ("battery", "generator")} == {"wall-2"}
