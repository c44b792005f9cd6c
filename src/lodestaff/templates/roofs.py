"""Roofs to begin with: faces just large enough for the strings that were asked for."""

from typing import Any

from lodestaff.catalogue import HybridSheet, load_pack
from lodestaff.templates.units import Chosen, Part, sheet_named
from lodestaff.templates.wanted import Roof, Wanted

GAP_M, EDGE_M = 0.02, 0.3
OPTIMISER = "optimiser-700"  # the starter set's


def tracker_names(unit: Part) -> HybridSheet:
    """The sheet of a chosen unit."""
    return sheet_named(str(unit.fields["sheet"]), int(unit.fields.get("count", 1)))


def usual_roofs(chosen: Chosen) -> tuple[Roof, ...]:
    """Where nothing was said of the roof: one string of ten for the first unit with a tracker, facing the
    sun."""
    for number, unit in enumerate(chosen.units):
        trackers = tracker_names(unit).trackers
        if trackers:
            count = min(10, int(unit.fields.get("count", 10)))
            return (Roof(name="Roof", azimuth_deg=180, strings=((number, trackers[0].name, count),)),)
    return ()


def faces_and_strings(wanted: Wanted, chosen: Chosen) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """Faces with their modules in two rows, and the strings on them; a string of two faces is named in
    both."""
    from lodestaff.catalogue.kinds import checked, kind_named
    from lodestaff.shelf.model import starter

    entry = next(entry for entry in starter().entries if entry.id == chosen.module)
    sheet = checked(kind_named("module"), dict(entry.values), entry.id)
    w, h = sheet.width_m, sheet.length_m  # type: ignore[attr-defined]
    ridge_m = max(EDGE_M, load_pack(wanted.pack).value("roof_ridge_m").value)
    makers = [unit for unit in chosen.units if tracker_names(unit).trackers]
    faces: list[dict[str, Any]] = []
    strings: list[dict[str, Any]] = []
    for index, roof in enumerate(wanted.roofs or usual_roofs(chosen)):
        names = []
        for unit, tracker, count in roof.strings:
            name = f"string-{len(strings) + 1}"
            owner = makers[min(unit, len(makers) - 1)]
            known = [tracker.name for tracker in tracker_names(owner).trackers]
            if tracker not in known or unit >= len(makers):  # drawn for other units: where the fewest hang
                hang = [s["tracker"] for s in strings if s["unit"] == owner.id]
                tracker = min(known, key=hang.count)
            strings.append(
                {
                    "id": name,
                    "name": str(len(strings) + 1),
                    "unit": owner.id,
                    "tracker": tracker,
                    "optimisers": wanted.optimisers,
                    "optimiser": "" if wanted.optimisers == "none" else OPTIMISER,
                }
            )
            names += [name] * count
        columns = max(1, -(-len(names) // 2))
        faces.append(
            {
                "id": f"face-{index + 1}",
                "name": roof.name,
                "tilt_deg": roof.tilt_deg,
                "azimuth_deg": roof.azimuth_deg,
                "width_m": round(2 * EDGE_M + columns * (w + GAP_M), 2),
                "height_m": round(EDGE_M + ridge_m + 2 * (h + GAP_M), 2),
                "module": chosen.module,
                "modules": [
                    {
                        "id": f"m{number + 1}",
                        "x_m": round(EDGE_M + number % columns * (w + GAP_M), 3),
                        "y_m": round(EDGE_M + number // columns * (h + GAP_M), 3),
                        "string": name,
                        "optimiser": wanted.optimisers == "all",
                    }
                    for number, name in enumerate(names)
                ],
            }
        )
    return faces, strings
