"""Faces from the usual forms of roofs, as a building stands: typed sizes go in, faces with their places come
out."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from lodestaff.job.array import Corner, Face, Origin

Form = Literal["gable", "hip", "lean-to", "flat", "ground"]
NAMES: dict[Form, str] = {
    "gable": "Gable roof, two faces",
    "hip": "Hip roof, four faces",
    "lean-to": "Lean-to, one face",
    "flat": "Flat roof",
    "ground": "Frame on the ground",
}
WINDS = ("North", "North-east", "East", "South-east", "South", "South-west", "West", "North-west")


@dataclass(frozen=True)
class Building:
    """The sizes of a roof: along its eaves, across them, how steep, which way its first face looks, how high
    the eaves are, and where the left end of these stands on the plan, seen from outside."""

    long_m: float = 10.0
    deep_m: float = 8.0
    tilt_deg: float = 35.0
    azimuth_deg: float = 180.0
    eaves_m: float = 4.5
    east_m: float = 0.0
    north_m: float = 0.0


def faces_of(
    form: Form, building: Building, module: str, taken: frozenset[str] = frozenset()
) -> tuple[Face, ...]:
    """The faces of a form, without modules; ids differ from those taken.

    A hip's ends are as steep as its sides. Source: derived.
    """
    b = building
    if form == "gable":
        slope = b.deep_m / 2 / np.cos(np.radians(b.tilt_deg))
        made = [_face(b, 0, b.long_m, slope), _face(b, 180, b.long_m, slope)]
    elif form == "hip":
        slope, run = b.deep_m / 2 / np.cos(np.radians(b.tilt_deg)), min(b.deep_m, b.long_m) / 2
        made = []
        for turn in (0, 270, 180, 90):
            wide = b.long_m if turn in (0, 180) else b.deep_m
            inner = min(run, wide / 2)
            top = ((wide - inner, slope), (inner, slope)) if wide > 2 * inner + 1e-6 else ((wide / 2, slope),)
            made.append(_face(b, turn, wide, slope, ((0.0, 0.0), (wide, 0.0), *top)))
    elif form == "lean-to":
        made = [_face(b, 0, b.long_m, b.deep_m / np.cos(np.radians(b.tilt_deg)))]
    elif form == "flat":
        made = [_face(Building(**{**vars(b), "tilt_deg": 0.0}), 0, b.long_m, b.deep_m)]
    else:
        made = [_face(b, 0, b.long_m, b.deep_m / np.cos(np.radians(b.tilt_deg)))]
    faces: list[Face] = []
    for rough in made:
        number = next(n for n in range(1, 200) if f"face-{n}" not in taken | {face.id for face in faces})
        mounting = "open rack" if form in ("flat", "ground") else "close roof"
        faces.append(
            rough.model_copy(update={"id": f"face-{number}", "module": module, "mounting": mounting})
        )
    return tuple(faces)


def wind_of(azimuth_deg: float) -> str:
    """The name of the direction that a face looks to."""
    return WINDS[round(azimuth_deg / 45) % 8]


def _face(b: Building, turn: float, wide_m: float, slope_m: float, outline: tuple[Corner, ...] = ()) -> Face:
    """One side of the building: 0 the first, 270 the one at its right hand, 180 behind, 90 at its left."""
    first = np.radians(b.azimuth_deg)
    looks, right = np.array((np.sin(first), np.cos(first))), np.array((-np.cos(first), np.sin(first)))
    corner = np.array((b.east_m, b.north_m))
    corner = (
        corner
        + {
            0: 0 * looks,
            270: right * b.long_m,
            180: right * b.long_m - looks * b.deep_m,
            90: -looks * b.deep_m,
        }[int(turn)]
    )
    azimuth = (b.azimuth_deg + turn) % 360
    east, north = (round(float(value), 3) for value in corner)
    return Face(
        id="face",
        name=wind_of(azimuth),
        tilt_deg=b.tilt_deg,
        azimuth_deg=azimuth,
        width_m=round(wide_m, 3),
        height_m=round(float(slope_m), 3),
        outline=tuple((round(float(x), 3), round(float(y), 3)) for x, y in outline),
        origin=Origin(east_m=east, north_m=north, eaves_m=b.eaves_m),
        module="",
    )
