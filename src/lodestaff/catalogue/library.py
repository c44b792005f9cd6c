"""The library of ordinary circuits by kind of building, in the words of each rule pack; every value can be
changed."""

import json
from functools import cache
from importlib import resources
from typing import Any

from lodestaff.catalogue.frozen import Frozen
from lodestaff.quantities.errors import JobError

WINTER = (
    1.6,
    1.5,
    1.3,
    1.0,
    0.7,
    0.4,
    0.3,
    0.4,
    0.6,
    1.0,
    1.4,
    1.6,
)  # by month in the north; moved by six in the south
SUMMER = (0.2, 0.2, 0.4, 0.7, 1.2, 1.8, 2.0, 1.9, 1.3, 0.7, 0.3, 0.2)
SEASONS = {"even": (1.0,) * 12, "winter": WINTER, "summer": SUMMER}


class LibraryCircuit(Frozen):
    """A circuit of the library: `values` are those of a circuit of a job; `wide` takes all legs where there
    are several."""

    id: str
    building: str
    name: str
    usual: bool
    wide: bool
    values: dict[str, Any]


@cache
def _book() -> dict[str, Any]:
    text = (resources.files("lodestaff.catalogue") / "circuits.json").read_text(encoding="utf-8")
    book: dict[str, Any] = json.loads(text)
    return book


def building_kinds() -> dict[str, str]:
    """Kinds of building with their titles."""
    return {key: str(building["title"]) for key, building in _book()["buildings"].items()}


def library(building: str, pack: str, south: bool = False) -> tuple[LibraryCircuit, ...]:
    """The circuits of a kind of building, the usual ones first, in a pack's words; `south` moves the seasons.

    Raises JobError where there is no such kind.
    """
    kinds = _book()["buildings"]
    if building not in kinds:
        raise JobError(f"no kind of building {building!r}", right=f"kinds: {', '.join(kinds)}")
    of_building = kinds[building]
    rows = [(row, True) for row in of_building["usual"]] + [(row, False) for row in of_building["further"]]
    return tuple(_circuit(building, row, usual, pack, south) for row, usual in rows)


def library_circuit(building: str, id: str, pack: str, south: bool = False) -> LibraryCircuit:
    """One circuit of the library. Raises JobError where there is none of that id."""
    circuits = library(building, pack, south)
    for circuit in circuits:
        if circuit.id == id:
            return circuit
    raise JobError(
        f"no circuit {id!r} for {building}",
        right=f"circuits: {', '.join(circuit.id for circuit in circuits)}",
    )


def _circuit(building: str, row: dict[str, Any], usual: bool, pack: str, south: bool) -> LibraryCircuit:
    values = {**row, **row.get("by_pack", {}).get(pack, {})}
    name = row.get("names", {}).get(pack, row["name"])
    shapes = _book()["shapes"]
    hours, weekend = shapes[values["hours"]], shapes[values.get("weekend", values["hours"])]
    months = SEASONS[values.get("season", "even")]
    device, wide = values.pop("device_a", None), bool(values.get("wide"))
    for key in ("hours", "season", "by_pack", "names", "wide"):
        values.pop(key, None)
    values |= {
        "name": name,
        "weekday": hours,
        "weekend": weekend if sum(weekend) else [0.02] * 24,
        "months": months[6:] + months[:6] if south else months,
    }
    if device is not None:
        values["device_a"] = {"value": device, "known": "assumed"}
    return LibraryCircuit(id=row["id"], building=building, name=name, usual=usual, wide=wide, values=values)
