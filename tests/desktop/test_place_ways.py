"""In the window: parts in line, ways laid by points, photos to scale, templates, ways to stand it all."""

import pypdfium2
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QImage
from PySide6.QtTest import QTest

from lodestaff.job import Change
from lodestaff.reckoning.lengths import lengths


@pytest.fixture
def place(window, settled):
    window.go("place")
    settled(window)
    window.stations["place"].view.setFocus()
    return window.stations["place"]


def at(window, part):
    return next(one for one in window.store.job.standing if one.id == part)


def press(view, *keys):
    for key in keys:
        QTest.keyClick(view, getattr(Qt.Key, f"Key_{key}"))


def box(view, part):
    body = next(body for body in view.bodies if body.id == part)
    return view.plan.box_of(body).center().toPoint()


def way(place, run):
    return next(one for one in lengths(place.store.reckoner, place.store.job) if one.run == run)


def test_several_are_brought_into_line_and_move_together(window, place, settled):
    view = place.view
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=box(view, "hybrid-array-a-isolator"))
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier,
                     box(view, "battery-isolator"))  # fmt: skip
    assert [body.id for body in view.together()] == ["battery-isolator", "hybrid-array-a-isolator"]
    before = at(window, "battery-isolator")
    assert view.align("left edges")
    settled(window)
    assert at(window, "hybrid-array-a-isolator").x_m == before.x_m
    assert window.store.history.undo_name == "Align 2 parts: left edges"
    window.store.undo()
    settled(window)
    x = at(window, "hybrid-array-a-isolator").x_m
    press(view, "Up")
    settled(window)
    assert at(window, "battery-isolator").y_m == pytest.approx(before.y_m + 0.05)
    assert at(window, "hybrid-array-a-isolator").y_m == pytest.approx(before.y_m + 0.05)
    assert at(window, "hybrid-array-a-isolator").x_m == x
    press(view, "PageDown")
    assert len(view.together()) == 1  # another part alone


def test_space_keeps_a_part_chosen_beside_the_next(window, place):
    view = place.view
    view.choose("battery-isolator")
    press(view, "Space", "PageDown")
    assert len(view.together()) == 2
    view.choose("board")
    assert len(view.together()) == 1


def test_a_way_is_laid_by_keys_and_proposed_again(window, place, settled):
    view, before = place.view, way(place, "hybrid-feed")
    place.doing.lay(before)
    assert view.pointing is not None
    press(view, "Up", "Up", "Space", "Right", "Space", "Backspace", "W", "Space", "Return")
    settled(window)
    assert view.pointing is None
    course = next(one for one in window.store.job.courses if one.id == "hybrid-feed")
    start = before.route.points[0]
    first = course.by[0]
    assert (first.wall, first.y_m) == (start[0], pytest.approx(start[2] + 0.2, abs=0.01))
    assert [turn.wall for turn in course.by] == ["corridor", "plant"]
    after = way(place, "hybrid-feed")
    assert after.route.laid
    assert after.length_m >= before.length_m
    assert place.doing.propose_again(after)
    assert way(place, "hybrid-feed").length_m == before.length_m


def test_clicks_lay_a_way_and_escape_leaves_it(window, place, settled):
    view = place.view
    place.doing.lay(way(place, "battery-run"))
    spot = view.plan.of("plant").point(2.5, 2.2).toPoint()
    QTest.mouseMove(view, spot)
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=spot)
    press(view, "Escape")
    assert window.store.job.courses == ()
    place.doing.lay(way(place, "battery-run"))
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=spot)
    press(view, "Return")
    settled(window)
    turn = window.store.job.courses[0].by[0]
    assert (turn.wall, turn.x_m, turn.y_m) == (
        "plant",
        pytest.approx(2.5, abs=0.03),
        pytest.approx(2.2, abs=0.03),
    )


def test_conduits_follow_the_ways_or_it_is_said_what_is_missing(window, place, settled, notices):
    assert not place.doing.take_containments()
    assert "cables run in one" in notices()
    window.store.edit("Trunking", Change("walls/plant/cables", "trunking"))
    assert place.doing.take_containments()
    assert {one.id for one in window.store.job.containments} == {"plant-trunking", "plant-trunking-dc"}


@pytest.fixture
def notices(window):
    heard = []
    window.store.trouble.connect(lambda _, words: heard.append(words))
    return lambda: " ".join(heard)


def test_a_photo_comes_to_scale_by_two_points(window, place, settled, tmp_path, notices):
    source = tmp_path / "wall.png"
    image = QImage(600, 300, QImage.Format.Format_RGB32)
    image.fill(QColor("#b7a893"))
    image.save(str(source))
    wall = window.store.job.walls[0]
    assert place.doing.put_photo(wall, source)
    wall = window.store.job.walls[0]
    assert (wall.photo.x_m, wall.photo.width_m) == (0.0, wall.width_m)
    spots = [("plant", 1.0, 0.5), ("plant", 3.0, 0.5)]
    assert not place.doing.scale_photo(wall, spots, "a door")
    assert "Not changed" in notices()
    assert place.doing.scale_photo(wall, spots, "1,50")
    photo = window.store.job.walls[0].photo
    assert photo.width_m == pytest.approx(wall.width_m * 0.75)
    assert photo.x_m == pytest.approx(0.25)  # the first point stays: 1 - (1 - 0) * 0.75
    settled(window)
    window.grab()
    (tmp_path / "no.png").write_text("words")
    assert not place.doing.put_photo(wall, tmp_path / "no.png")
    assert place.doing.without_photo(window.store.job.walls[0])
    assert window.store.job.walls[0].photo is None


def test_the_template_of_what_is_chosen_is_written(window, place, tmp_path, notices):
    place.view.choose("hybrid")
    target = tmp_path / "hybrid.pdf"
    assert place.doing.write_template(target)
    document = pypdfium2.PdfDocument(target.read_bytes(), autoclose=True)
    assert "Hybrid" in document[0].get_textpage().get_text_range()
    assert not place.doing.write_template(tmp_path / "none" / "x.pdf")
    assert "Not written" in notices()


def test_holes_that_were_measured_are_typed_as_on_a_sheet(window, place, notices):
    row = next(n for n, row in enumerate(place.parts.rows) if row.of.id == "hybrid-bypass")
    heads = [column.heading for column in place.parts.source.columns]
    at_ = heads.index("Fixings, mm: along, up, wide; …")
    place.parts.type_at(row, at_, "40, 260, 6; 160, 260, 6")
    assert [hole.x_mm for hole in at(window, "hybrid-bypass").fixings] == [40, 160]
    assert place.parts.source.columns[at_].text(place.parts.rows[row]) in ("40, 260, 6; 160, 260, 6", "")
    place.parts.type_at(row, at_, "40 by 260")
    assert "along, up and diameter in mm" in notices()


def test_corners_of_a_wall_are_typed(window, place, settled, notices):
    row = next(n for n, row in enumerate(place.walls.rows) if row.of.id == "plant")
    column = [column.heading for column in place.walls.source.columns].index("Corners: along up; …")
    place.walls.type_at(row, column, "0 0; 6.4 0; 6.4 2; 3 2.5; 0 2")
    assert len(window.store.job.walls[0].outline) == 5
    settled(window)
    window.grab()
    place.walls.type_at(row, column, "0 0; 6.4")
    assert "two numbers" in notices()
    place.walls.type_at(row, column, "0 0; 9 0; 0 2")
    assert len(window.store.job.walls[0].outline) == 5


def test_a_wall_goes_with_all_that_lies_on_it(window, place, settled):
    row = next(row for row in place.walls.rows if row.of.id == "corridor")
    assert place._without_wall(row)
    job = window.store.job
    assert [wall.id for wall in job.walls] == ["plant"]
    assert all(one.wall == "plant" for kept in job.arrangements for one in kept.standing)
    window.store.undo()
    assert len(window.store.job.walls) == 2


# --- side by side ----------------------------------------------------------------------------------------
@pytest.fixture
def page(window, settled, qtbot):
    window.side.open_standings()
    qtbot.waitUntil(lambda: window.side.standings.comparison is not None, timeout=30_000)
    return window.side.standings


def told(page, heading):
    names = [column.heading for column in page.table.source.columns]
    return {row[0]: page.table.source.columns[names.index(heading)].text(row) for row in page.table.rows}


def test_ways_to_stand_it_all_side_by_side(page):
    near, far = told(page, "Battery by the hybrid"), told(page, "Battery at the far end")
    assert near["Blocks"] == "none"
    assert "air brick" in far["Blocks"]
    assert near["Cable between places"] < far["Cable between places"]
    assert len(page.walls.marks()) == 2
    page.grab()


def test_a_way_is_kept_chosen_and_recorded(window, page, qtbot):
    assert not page.keep()
    assert "name first" in page.words.text()
    page.name.setText("Once more")
    assert page.keep()
    qtbot.waitUntil(lambda: page.comparison is not None, timeout=30_000)
    assert [one.name for one in window.store.job.arrangements][-1] == "Once more"
    page.chosen.setCurrentText("Battery at the far end")
    page.why.setText("nearer to the yard")
    page.by.setText("the owner")
    assert page.record()
    job = window.store.job
    assert (job.choices[-1].chosen, job.choices[-1].why) == ("Battery at the far end", "nearer to the yard")
    assert at(window, "battery").x_m == 5.2
    qtbot.waitUntil(lambda: page.comparison is not None, timeout=30_000)
    page.chosen.setCurrentText("Once more")
    assert page.forget()
    assert len(window.store.job.arrangements) == 2
