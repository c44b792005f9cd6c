"""What was built: photos of its parts, the plan that was kept, and who stands for each difference from it."""

from collections.abc import Callable
from datetime import date
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory

from PySide6.QtGui import QImageReader
from PySide6.QtWidgets import QFileDialog, QMenu, QWidget

from lodestaff.desktop.stations.place.adding import free_id
from lodestaff.desktop.stations.typing_in import Owner, Typing
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, words
from lodestaff.job import Change
from lodestaff.places import placeable
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.built import AsBuilt, Built, as_built, confirming, plan_text, planning

PICTURES = "Pictures (*.png *.jpg *.jpeg *.PNG *.JPG *.JPEG)"
WHOLE = "the whole"


def photos_table(store: Store, remove: Callable[[Owner], object]) -> Table[Owner]:
    """A row for each photo: of which part, what it shows."""
    of = Typing(store)
    columns: tuple[Column[Owner], ...] = (
        of.text("What it shows", "what"),
        words("Of", lambda row: row.of.of or WHOLE),
        of.text("Taken on", "date"),
    )
    return Table("Photos of what was built", columns, remove=remove)


def fill_photos(menu: QMenu, parent: QWidget, store: Store) -> None:
    """A photo of the whole, or of a part that hands work or that stands on a wall."""
    menu.clear()
    job = store.job
    if job is None:
        return
    menu.addAction(f"of {WHOLE}…", partial(ask_photo, parent, store, "", "The installation"))
    topology = store.reckoner.wiring(job).topology
    seen = {part.id for part in (*topology.switches(), *placeable(job, topology))}  # nothing inside a case
    for part in topology.parts.values():
        if part.id in seen:
            menu.addAction(f"{part.name}…", partial(ask_photo, parent, store, part.id, part.name))


def ask_photo(parent: QWidget, store: Store, part: str, name: str) -> None:
    chosen, _ = QFileDialog.getOpenFileName(parent, f"A photo: {name}", "", PICTURES)
    if chosen:
        add_photo(store, part, name, Path(chosen))


def add_photo(store: Store, part: str, name: str, source: Path) -> bool:
    """A photo of a part, '' for the whole, into the job."""
    job = store.job
    if job is None:
        return False
    if not QImageReader(str(source)).canRead():
        store.trouble.emit("attach", f"Not attached. {source.name}: no picture that can be read.")
        return False
    digest = store.attach(source)
    if digest is None:
        return False
    rows = [photo.model_dump(mode="json") for photo in job.handed.photos]
    row = {"id": free_id({photo.id for photo in job.handed.photos}, "photo"), "sha256": digest, "of": part,
           "what": name[:60], "date": f"{date.today():%Y-%m-%d}"}  # fmt: skip
    return store.edit(f"Add a photo: {name}", Change("handed/photos", [*rows, row]))


# --- as built --------------------------------------------------------------------------------------------
def built_of(store: Store) -> AsBuilt | None:
    """What was built against the plan; None without one, or where it can't be read."""
    job, reckoner = store.job, store.reckoner
    if job is None or job.handed.plan is None:
        return None
    try:
        return reckoner.of_job("as built", job, lambda: as_built(job, reckoner.attachment))
    except JobError:
        return None  # said on its page


def built_table(store: Store) -> Table[Built]:
    """A row for each difference from the plan; a name typed there confirms it."""

    def typed(row: Built, text: str) -> bool:
        job, built = store.job, built_of(store)
        if job is None or built is None:
            return False
        if not text.strip():
            left = [
                confirmation.model_dump(mode="json")
                for confirmation in job.handed.confirmed
                if confirmation.path != row.path
            ]
            return store.edit(f"Take back what was confirmed at {row.path}", Change("handed/confirmed", left))
        change = confirming(job, built, [row.path], by=text, date=f"{date.today():%Y-%m-%d}")
        return store.edit(f"Confirm {row.path} as built", change)

    columns: tuple[Column[Built], ...] = (
        words("Where", lambda row: row.path, wide=True),
        words("As planned", lambda row: row.planned, wide=True),
        words("As built", lambda row: row.built, wide=True),
        words("Confirmed by", lambda row: row.confirmed.by if row.confirmed else "", typed=typed,
              spoken=lambda row: f"Who confirms {row.path}"),
    )  # fmt: skip
    return Table("As built, against the plan", columns)


def keep_plan(store: Store) -> bool:
    """The job as it is now becomes the plan, to hold what is built against."""
    job = store.job
    if job is None:
        return False
    with TemporaryDirectory() as folder:
        source = Path(folder) / f"{job.id}-plan.json"
        source.write_bytes(plan_text(job))
        digest = store.attach(source)
    if digest is None:
        return False
    made = planning(digest, by="", date=f"{date.today():%Y-%m-%d}")
    return store.edit("Keep this as the plan", *made)


def confirm_all(store: Store, by: str) -> bool:
    """All that nobody has confirmed yet, by one who stands for it."""
    job, built = store.job, built_of(store)
    if job is None or built is None or not built.open:
        return False
    try:
        change = confirming(job, built, [], by=by, date=f"{date.today():%Y-%m-%d}")
    except JobError as trouble:
        store.trouble.emit("edit", f"Not confirmed. {trouble}")
        return False
    return store.edit(f"Confirm {len(built.open)} differences from the plan", change)
