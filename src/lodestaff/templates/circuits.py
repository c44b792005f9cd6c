"""Circuits to begin with, from the library of the building's kind: to be measured and changed."""

from typing import Any

from lodestaff.catalogue.library import LibraryCircuit, library, library_circuit
from lodestaff.job import Circuit, Role
from lodestaff.templates.wanted import Wanted


def circuit(
    row: LibraryCircuit,
    phase: str,
    role: Role | None = None,
    board: str = "",
    also_on: str = "",
    id: str = "",
) -> Circuit:
    """The circuit of a library row on a phase."""
    values: dict[str, Any] = {
        **row.values,
        "phase": phase,
        "board": board,
        "also_on": also_on,
        "id": id or row.id,
    }
    if role is not None:
        values["role"] = role
    return Circuit.model_validate(values)


def addition(wanted: Wanted, id: str) -> LibraryCircuit:
    """A row of what stands beside the usual circuits: charger, surplus elements, a tank."""
    return library_circuit("additions", id, wanted.begins.circuits, wanted.begins.latitude_deg < 0)


def base_circuits(wanted: Wanted) -> tuple[Circuit, ...]:
    """The building's usual circuits dealt over the phases in turn, heavy ones across both legs where the
    supply has two."""
    phases = wanted.phases
    across = "+".join(phases) if wanted.split or wanted.system == "three phases" else ""
    circuits, turn = [], 0
    for row in library(wanted.circuits, wanted.begins.circuits, wanted.begins.latitude_deg < 0):
        if not row.usual:
            continue
        if row.wide and across:
            circuits.append(circuit(row, across))
        else:
            circuits.append(circuit(row, phases[turn % len(phases)]))
            turn += 1
    return tuple(circuits)
