"""Where a face and what lies on it stand in space. Metres; axes point east, north and up."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lodestaff.job.array import Face

Vector = NDArray[np.float64]


@dataclass(frozen=True)
class Frame:
    """A face's own axes, as unit vectors: along the eaves (right, seen square on), up the slope, out."""

    corner: Vector
    along: Vector
    up: Vector
    out: Vector

    def at(self, x_m: float, y_m: float) -> Vector:
        """A point of the face."""
        return self.corner + x_m * self.along + y_m * self.up


def frame_of(face: Face) -> Frame:
    """A face's frame; one whose place isn't known stands at the origin. Derived."""
    tilt, azimuth = np.radians(face.tilt_deg), np.radians(face.azimuth_deg)
    place = face.origin
    corner = np.array((place.east_m, place.north_m, place.eaves_m) if place else (0.0, 0.0, 0.0))
    flat = np.array((np.sin(azimuth), np.cos(azimuth), 0.0))  # the way it looks
    along = np.array((-np.cos(azimuth), np.sin(azimuth), 0.0))
    upwards = np.array((0.0, 0.0, 1.0))
    return Frame(
        corner,
        along,
        up=-flat * np.cos(tilt) + upwards * np.sin(tilt),
        out=flat * np.sin(tilt) + upwards * np.cos(tilt),
    )
