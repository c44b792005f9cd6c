"""Several parts on one wall brought into line, and a photo brought to scale."""

from collections.abc import Mapping
from itertools import pairwise
from math import hypot

from lodestaff.job.walls import Underlay
from lodestaff.places.geometry import Rect
from lodestaff.quantities.errors import JobError

HOWS = (
    "left edges",
    "right edges",
    "middles, one above the other",
    "tops",
    "feet",
    "middles, side by side",
    "equal gaps across",
    "equal gaps up",
)


def aligned(rects: Mapping[str, Rect], first: str, how: str) -> dict[str, tuple[float, float]]:
    """New lower left corners, m. All follow `first`; of gaps the outermost stay.

    Raises JobError for a way that there isn't.
    """
    by = rects[first]
    match how:
        case "left edges":
            return {id: (by.x, rect.y) for id, rect in rects.items()}
        case "right edges":
            return {id: (by.right - rect.width, rect.y) for id, rect in rects.items()}
        case "middles, one above the other":
            return {id: (by.middle[0] - rect.width / 2, rect.y) for id, rect in rects.items()}
        case "tops":
            return {id: (rect.x, by.top - rect.height) for id, rect in rects.items()}
        case "feet":
            return {id: (rect.x, by.y) for id, rect in rects.items()}
        case "middles, side by side":
            return {id: (rect.x, by.middle[1] - rect.height / 2) for id, rect in rects.items()}
        case "equal gaps across":
            spread = _spread({id: (rect.x, rect.width) for id, rect in rects.items()})
            return {id: (spread[id], rect.y) for id, rect in rects.items()}
        case "equal gaps up":
            spread = _spread({id: (rect.y, rect.height) for id, rect in rects.items()})
            return {id: (rect.x, spread[id]) for id, rect in rects.items()}
    raise JobError(f"no way to align {how!r}", "align", f"choose from {', '.join(HOWS)}")


def _spread(spans: Mapping[str, tuple[float, float]]) -> dict[str, float]:
    """Beginnings with equal gaps between, in the order of their middles."""
    order = sorted(spans, key=lambda id: spans[id][0] + spans[id][1] / 2)
    first, last = spans[order[0]], spans[order[-1]]
    within = sum(spans[id][1] for id in order[1:-1])
    gap = (last[0] - first[0] - first[1] - within) / (len(order) - 1) if len(order) > 1 else 0.0
    places = {order[0]: first[0]}
    for before, id in pairwise(order):
        places[id] = places[before] + spans[before][1] + gap
    return places


def scaled(photo: Underlay, a: tuple[float, float], b: tuple[float, float], metres: float) -> Underlay:
    """A photo in which two points, given as they lie on the wall now, come to be so many metres apart; the
    first stays where it is.

    Raises JobError where the two are one, or the metres aren't above nothing.
    """
    apart = hypot(b[0] - a[0], b[1] - a[1])
    if apart < 0.01 or metres <= 0:
        raise JobError("two points apart and their distance are needed", "photo", "a measure above 0 m")
    by = metres / apart
    return photo.model_copy(
        update={
            "x_m": round(a[0] - (a[0] - photo.x_m) * by, 4),
            "y_m": round(a[1] - (a[1] - photo.y_m) * by, 4),
            "width_m": round(photo.width_m * by, 4),
        }
    )
