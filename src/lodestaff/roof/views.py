"""What is seen of the things around: their shadows on a face, and their outline before the sky from a
point."""

import numpy as np

from lodestaff.job.array import Face
from lodestaff.roof.frame import frame_of
from lodestaff.roof.solids import Points, Prism

Outline = tuple[tuple[float, float], ...]
STEPS_OF_EDGE = 6  # an edge before the sky is a curve
LEAST_M = 1e-9


def towards(azimuth_deg: float, elevation_deg: float) -> Points:
    """The unit vector east, north, up of a direction."""
    azimuth, elevation = np.radians(azimuth_deg), np.radians(elevation_deg)
    flat = np.cos(elevation)
    return np.array((flat * np.sin(azimuth), flat * np.cos(azimuth), np.sin(elevation)))


def shadow_on(face: Face, prism: Prism, azimuth_deg: float, elevation_deg: float) -> Outline:
    """The shadow of a thing on a face's plane, in the face's own metres; empty where the sun is down or
    behind.

    The shadow of a convex thing is the hull of its corners' shadows; what lies below the plane throws none.
    """
    frame, sun = frame_of(face), towards(azimuth_deg, elevation_deg)
    facing = float(frame.out @ sun)
    if elevation_deg <= 0 or facing <= 1e-3:
        return ()
    corners = []
    for top in prism.top:
        above = float(frame.out @ (top - frame.corner))
        if above <= LEAST_M:
            continue
        corners.append(top - sun * (above / facing))
        low = np.array((top[0], top[1], prism.base_m))  # down its upright edge, to its base or to the plane
        if frame.out[2] > 1e-6:
            low[2] = max(prism.base_m, top[2] - above / frame.out[2])
        corners.append(low - sun * (max(0.0, float(frame.out @ (low - frame.corner))) / facing))
    if len(corners) < 3:
        return ()
    flat = np.array([((at - frame.corner) @ frame.along, (at - frame.corner) @ frame.up) for at in corners])
    return _hull(flat)


def before_the_sky(prism: Prism, point: Points, middle_azimuth_deg: float) -> Outline:
    """The outline of a thing as seen from a point: azimuths from the middle one, and elevations, in degrees.

    Empty where all of it lies below the horizon.
    """
    low = prism.top.copy()
    low[:, 2] = prism.base_m
    edges = [(ring[i], ring[(i + 1) % len(ring)]) for ring in (prism.top, low) for i in range(len(ring))]
    part = np.arange(STEPS_OF_EDGE) / STEPS_OF_EDGE
    along = np.concatenate([a + part[:, None] * (b - a) for a, b in edges]) - point
    far = np.hypot(along[:, 0], along[:, 1])
    elevation = np.degrees(np.arctan2(along[:, 2], np.maximum(far, LEAST_M)))
    if elevation.max() <= 0:
        return ()
    azimuth = np.degrees(np.arctan2(along[:, 0], along[:, 1]))
    turned = (azimuth - middle_azimuth_deg + 180) % 360 - 180
    if turned.max() - turned.min() > 180:  # it stands at the back, across the seam
        turned = np.where(turned < 0, turned + 360, turned)
    return _hull(np.column_stack((turned, np.clip(elevation, 0, None))))


def _hull(points: Points) -> Outline:
    """The convex hull; empty where it has no area."""
    from scipy.spatial import ConvexHull, QhullError

    try:
        return tuple((float(x), float(y)) for x, y in points[ConvexHull(points).vertices])
    except QhullError:
        return ()
