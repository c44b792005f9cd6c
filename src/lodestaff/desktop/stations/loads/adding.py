"""Circuits of the library put into the job, and circuits taken out: one named step each."""

from functools import partial

from PySide6.QtWidgets import QMenu

from lodestaff.catalogue.library import LibraryCircuit, building_kinds, library
from lodestaff.desktop.store import Store
from lodestaff.job import Change, Job
from lodestaff.quantities import text_of
from lodestaff.reckoning.from_library import circuit_of


def fill_menu(menu: QMenu, store: Store) -> None:
    """A submenu for each kind of building, the job's own first."""
    menu.clear()
    job = store.job
    if job is None:
        return
    kinds = building_kinds()
    own = job.site.building if job.site.building in kinds else ""
    for kind in sorted(kinds, key=lambda kind: kind != own):
        sub = menu.addMenu(kinds[kind])
        sub.aboutToShow.connect(partial(_fill_kind, sub, store, kind))


def _fill_kind(menu: QMenu, store: Store, kind: str) -> None:
    job = store.job
    if job is None or menu.actions():
        return
    for row in library(kind, job.pack.beginning.circuits, job.site.latitude_deg < 0):
        words = (
            f"{row.name}   {text_of(row.values['running_w'] / 1000, 'kW')}, "
            f"{text_of(row.values['kwh_year'], 'kWh', 0)} a year"
        )
        menu.addAction(words, partial(add_circuit, store, row))


def add_circuit(store: Store, row: LibraryCircuit) -> str:
    """Put a circuit of the library into the job; its id, or '' where the job refuses."""
    job = store.job
    if job is None:
        return ""
    made = circuit_of(job, row, {c.id for c in job.circuits})
    rows = [c.model_dump(mode="json") for c in job.circuits]
    done = store.edit(f"Add {made.name}", Change("circuits", [*rows, made.model_dump(mode="json")]))
    return made.id if done else ""


def take_out(store: Store, circuit_id: str) -> bool:
    """Take a circuit out of the job."""
    job: Job | None = store.job
    if job is None or circuit_id not in {c.id for c in job.circuits}:
        return False
    rows = [c.model_dump(mode="json") for c in job.circuits if c.id != circuit_id]
    return store.edit(f"Take out {job.circuit(circuit_id).name}", Change("circuits", rows))
