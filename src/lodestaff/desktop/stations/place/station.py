"""The Place station: walls to scale, what stands on them, what is too near, how long the cables get."""

from typing import Any

from PySide6.QtWidgets import QMenu, QPushButton, QTabWidget, QWidget

from lodestaff.checks import Finding
from lodestaff.checks.places import PLACE_RULES
from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.place.adding import fill_menu, stand_all
from lodestaff.desktop.stations.place.menus import Doing
from lodestaff.desktop.stations.place.tables import (
    feature_rows,
    features_table,
    lengths_table,
    part_rows,
    parts_table,
    passage_rows,
    passages_table,
    wall_rows,
    walls_table,
)
from lodestaff.desktop.stations.place.view import PlaceView
from lodestaff.desktop.stations.typing_in import Owner
from lodestaff.desktop.store import Store
from lodestaff.job import Change
from lodestaff.reckoning.lengths import lengths, taken
from lodestaff.reckoning.place_readings import place_readings
from lodestaff.reckoning.readings import Reading


class PlaceStation(StationView):
    """Walls, their tables, and the step that gives cables the lengths of their ways."""

    id = "place"
    crowded = True
    hint = (
        "Drag a part onto a wall, along it, to another. Dashed: the room that its maker wants, and its next "
        "modules. Keys: Page Up and Down choose, Space several, arrows move, W the next wall, Delete takes "
        "it off."
    )

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self.view = PlaceView(store)
        self.doing = Doing(self, store, self.view)
        self.add = QPushButton("Add…")
        self.menu = QMenu(self.add)
        self.menu.aboutToShow.connect(lambda: fill_menu(self.menu, self.store, self.doing))
        self.add.setMenu(self.menu)
        self.all = QPushButton("Stand all")
        self.all.setToolTip("First places for all that wait, side by side; move them from there")
        self.all.clicked.connect(self.stand)
        self.take = QPushButton("Take the lengths")
        self.take.setToolTip("Cables whose length is only assumed get that of their way; typed ones stay")
        self.take.clicked.connect(self.take_lengths)
        self.of_parts = QPushButton("Parts…")
        self.of_parts.setToolTip("Align what is chosen; templates to drill by")
        parts = QMenu(self.of_parts)
        parts.aboutToShow.connect(lambda: self.doing.fill_parts(parts))
        self.of_parts.setMenu(parts)
        self.of_ways = QPushButton("Ways…")
        self.of_ways.setToolTip("Lay the way of a cable by points; the conduits that they lie in")
        ways = QMenu(self.of_ways)
        ways.aboutToShow.connect(lambda: self.doing.fill_ways(ways))
        self.of_ways.setMenu(ways)
        self.arranged = QPushButton("Side by side")
        self.arranged.setToolTip("Keep how it stands, and see two or three ways side by side (Ctrl+L)")
        self.arranged.clicked.connect(lambda: self.action_wanted.emit("standings"))
        for button in (self.add, self.all, self.of_parts, self.of_ways, self.take, self.arranged):
            self.buttons.addWidget(button)
        self.lay(self.view, self._make_table())

    def _make_table(self) -> QWidget:
        self.walls = walls_table(self.store, self._without_wall)
        self.features = features_table(self.store, self._without)
        self.parts = parts_table(self.store, self._without)
        self.parts.came_to.connect(lambda row: self.view.choose(row.of.id))
        self.passages = passages_table(self.store, self._without)
        self.lengths = lengths_table()
        self.lengths.came_to.connect(lambda length: self.view.show_run(length.run))
        self.tabs = QTabWidget()
        self.tabs.setAccessibleName("Tables of places")
        self.tabs.tabBar().setAccessibleName("Tables of places")
        for table, name in (
            (self.walls, "Walls"),
            (self.features, "On the walls"),
            (self.parts, "Parts"),
            (self.passages, "Ways"),
            (self.lengths, "Lengths"),
        ):
            self.tabs.addTab(table, name)
        return self.tabs

    def readings(self) -> list[Reading]:
        results = self.store.preview or self.store.results
        return place_readings(results, self.store.reckoner) if results else []

    def findings(self) -> list[Finding]:
        """Those of places, also where their code belongs to another station."""
        results = self.store.preview or self.store.results
        return [finding for finding in results.findings if finding.rule in PLACE_RULES] if results else []

    def refresh(self) -> None:
        job = self.store.job
        if job is None:
            return
        self.view.refresh()
        bodies, measures = self.view.bodies, lengths(self.store.reckoner, job)
        self.walls.show_rows(wall_rows(job.walls))
        self.features.show_rows(feature_rows(job.walls))
        self.parts.show_rows(part_rows(bodies))
        self.passages.show_rows(passage_rows(job.passages))
        self.lengths.show_rows(measures)
        waits = any(body.standing is None and body.kind != "array" for body in bodies)
        self.all.setEnabled(bool(job.walls) and waits)
        self.take.setEnabled(any(length.changes for length in measures))

    def stand(self) -> bool:
        """First places for all that wait, as one step."""
        job = self.store.job
        change = stand_all(job, self.store) if job is not None else None
        if change is None:
            self.say("No wall has room for what waits: add one, or make it wider in the table.")
            return False
        return self.store.edit("Stand all that waits on the walls", change)

    def take_lengths(self) -> bool:
        """The lengths of the ways into the cables, as one step."""
        job = self.store.job
        if job is None:
            return False
        measures = lengths(self.store.reckoner, job)
        changes = taken(job, measures)
        count = sum(length.changes for length in measures)
        return self.store.edit(f"Take the lengths of {count} ways into their cables", *changes)

    def _without(self, row: Owner) -> bool:
        """Take out what a row is of."""
        path = row.path.rpartition("/")[0]
        job = self.store.job
        if job is None:
            return False
        if path.startswith("walls/"):
            wall = next(other for other in job.walls if path == f"walls/{other.id}/features")
            rows = [feature.model_dump(mode="json") for feature in wall.features if feature.id != row.of.id]
        else:
            rows = [item.model_dump(mode="json") for item in getattr(job, path) if item.id != row.of.id]
        return self.store.edit(f"Take out {row.name}", Change(path, rows))

    def _without_wall(self, row: Owner) -> bool:
        """A wall goes with what stands on it and the ways from it."""
        job, wall = self.store.job, row.of.id
        if job is None:
            return False
        kept = [arrangement.model_dump(mode="json") for arrangement in job.arrangements]
        for record in kept:
            record["standing"] = [each for each in record["standing"] if each["wall"] != wall]
            record["courses"] = [each for each in record["courses"] if wall not in _walls(each["by"])]
        rows: dict[str, list[Any]] = {
            "passages": [passage for passage in job.passages if wall not in (passage.a, passage.b)],
            "standing": [standing for standing in job.standing if standing.wall != wall],
            "courses": [course for course in job.courses if wall not in {turn.wall for turn in course.by}],
            "walls": [other for other in job.walls if other.id != wall],
        }
        changes = [Change("arrangements", kept)]
        changes += [
            Change(path, [item.model_dump(mode="json") for item in left]) for path, left in rows.items()
        ]
        return self.store.edit(f"Take out {row.name} with what stands on it", *changes)


def _walls(turns: list[dict[str, Any]]) -> set[str]:
    return {turn["wall"] for turn in turns}
