"""What is done with parts and the ways of their cables: menus of the Place station, each entry a step."""

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu, QWidget

from lodestaff.desktop.stations.place.pointing import Pointing, Spot
from lodestaff.desktop.stations.place.view import PlaceView
from lodestaff.desktop.store import Store
from lodestaff.job import Change
from lodestaff.job.walls import Underlay, Wall
from lodestaff.places import Route
from lodestaff.places.aligning import HOWS, scaled
from lodestaff.quantities.disk import write_whole
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.reckoning.containing import contained
from lodestaff.reckoning.lengths import Length, lengths

PICTURES = "Pictures (*.png *.jpg *.jpeg *.PNG *.JPG *.JPEG)"


class Doing:
    """The steps behind the menus."""

    def __init__(self, parent: QWidget, store: Store, view: PlaceView) -> None:
        self.parent, self.store, self.view = parent, store, view

    # --- parts -------------------------------------------------------------------------------------------
    def fill_parts(self, menu: QMenu) -> None:
        """What can be done with the parts that are chosen."""
        menu.clear()
        several = len(self.view.together()) > 1
        align = menu.addMenu("Align")
        align.setEnabled(several)
        for how in HOWS:
            align.addAction(how, partial(self.view.align, how))
        drill = menu.addAction("Drilling template…", self.ask_template)
        drill.setEnabled(self.view.body is not None and self.view.body.kind != "array")
        if not several:
            menu.addAction("Choose several: Space, or a click with Ctrl").setEnabled(False)

    def ask_template(self) -> None:
        body = self.view.body
        if body is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self.parent, "Write the template", f"{body.id}-drilling.pdf", "PDF (*.pdf)"
        )
        if name:
            self.write_template(Path(name))

    def write_template(self, target: Path) -> bool:
        """The template of what is chosen, at full size."""
        from lodestaff.exchange.drilling import drilling_sheets
        from lodestaff.places.templates import template

        job = self.store.job
        if job is None:
            return False
        try:
            made = template(self.view.bodies, [body.id for body in self.view.together()])
            write_whole(target, drilling_sheets(made, job.pack.paper, job.title))
        except (JobError, OSError) as trouble:
            self.store.trouble.emit("template", f"Not written. {trouble}")
            return False
        self.store.settled.emit("template")
        return True

    # --- ways --------------------------------------------------------------------------------------------
    def fill_ways(self, menu: QMenu) -> None:
        """What can be done with the ways of cables."""
        menu.clear()
        job, measures = self.store.job, self._lengths()
        if job is None:
            return
        lay = menu.addMenu("Lay by points")
        back = menu.addMenu("Propose again")
        other = menu.addMenu("Take the way without a residual-current device")
        for length in measures:
            lay.addAction(length.name, partial(self.lay, length))
            if length.route.laid:
                back.addAction(length.name, partial(self.propose_again, length))
            if length.route.guardless is not None:
                other.addAction(length.name, partial(self.take_guardless, length))
        for sub in (lay, back, other):
            sub.setEnabled(bool(sub.actions()))
        menu.addAction("Conduits and trunkings of the ways", self.take_containments)

    def _lengths(self) -> tuple[Length, ...]:
        job = self.store.job
        return lengths(self.store.reckoner, job) if job is not None else ()

    def lay(self, length: Length) -> None:
        """Let a hand point out the way of a run, from its first stop to its last."""
        self.view.run = length.run
        wall, x, y = length.route.points[0]
        words = f"{length.name}, from {self._name(length.route, 0)} to {self._name(length.route, -1)}."
        self.view.point_out(Pointing(words, partial(self.laid, length), (wall, round(x, 2), round(y, 2))))

    def _name(self, route: Route, at: int) -> str:
        part = route.stops[at]
        return next((body.name for body in self.view.bodies if body.id == part), part)

    def laid(self, length: Length, spots: list[Spot]) -> bool:
        """The way of a run by its points; without any it stays as it is."""
        if not spots:
            return False
        by = [{"wall": wall, "x_m": x, "y_m": y} for wall, x, y in spots]
        return self._put(length.run, by, f"Lay {length.name} by {len(spots)} points")

    def take_guardless(self, length: Length) -> bool:
        """The way that needs no residual-current device, as if it had been laid."""
        other = length.route.guardless
        if other is None:
            return False
        by = [{"wall": wall, "x_m": round(x, 3), "y_m": round(y, 3)} for wall, x, y in other.points[1:-1]]
        return self._put(length.run, by, f"Lay {length.name} where it needs no residual-current device")

    def propose_again(self, length: Length) -> bool:
        """The proposed way of a run."""
        return self._put(length.run, [], f"Propose the way of {length.name} again")

    def _put(self, run: str, by: list[dict[str, object]], words: str) -> bool:
        job = self.store.job
        if job is None:
            return False
        rows = [course.model_dump(mode="json") for course in job.courses if course.id != run]
        return self.store.edit(words, Change("courses", [*rows, {"id": run, "by": by}] if by else rows))

    def take_containments(self) -> bool:
        """Conduits and trunkings with what lies in them, as the ways have them."""
        job = self.store.job
        changes = contained(self.store.reckoner, job) if job is not None else ()
        if not changes:
            self.store.trouble.emit(
                "place",
                "No other conduit or trunking follows from the ways: say at a wall or a way that "
                "cables run in one.",
            )
            return False
        return self.store.edit("Take the conduits and trunkings of the ways", *changes)

    # --- photos ------------------------------------------------------------------------------------------
    def ask_photo(self, wall: Wall) -> None:
        """A photo under a wall."""
        name, _ = QFileDialog.getOpenFileName(self.parent, f"A photo of {wall.name}", "", PICTURES)
        if name:
            self.put_photo(wall, Path(name))

    def put_photo(self, wall: Wall, source: Path) -> bool:
        """Lay a photo under a wall, as wide as it; two points bring it to scale."""
        from PySide6.QtGui import QImageReader

        if not QImageReader(str(source)).canRead():
            self.store.trouble.emit("attach", f"Not attached. {source.name}: no picture that can be read.")
            return False
        digest = self.store.attach(source)
        if digest is None:
            return False
        made = Underlay(sha256=digest, width_m=wall.width_m).model_dump(mode="json")
        return self.store.edit(f"Lay a photo under {wall.name}", Change(f"walls/{wall.id}/photo", made))

    def without_photo(self, wall: Wall) -> bool:
        return self.store.edit(f"Take the photo from {wall.name}", Change(f"walls/{wall.id}/photo", None))

    def measure_photo(self, wall: Wall) -> None:
        """Let a hand point out two points whose distance was measured."""
        words = f"Two points of the photo of {wall.name} whose distance you measured."
        self.view.point_out(Pointing(words, partial(self._measured, wall), (wall.id, 0.0, 0.0), True, 2))

    def _measured(self, wall: Wall, spots: list[Spot]) -> None:
        if len(spots) < 2:
            return
        text, yes = QInputDialog.getText(self.parent, wall.name, "How far apart are they, m?")
        if yes:
            self.scale_photo(wall, spots, text)

    def scale_photo(self, wall: Wall, spots: list[Spot], text: str) -> bool:
        """The photo to the scale in which the two points are as far apart as was typed."""
        photo = wall.photo
        if photo is None:
            return False
        try:
            if {spot[0] for spot in spots} != {wall.id}:
                raise JobError("both points lie on its own wall", wall.name, "two points of one photo")
            made = scaled(photo, spots[0][1:], spots[1][1:], read_number(text, "m"))
        except JobError as trouble:
            self.store.trouble.emit("edit", f"Not changed. {trouble}")
            return False
        return self.store.edit(
            f"Scale the photo of {wall.name}", Change(f"walls/{wall.id}/photo", made.model_dump(mode="json"))
        )
