"""Whether modules lie where they can: on their face, not on each other, not on what rises from it."""

from lodestaff.catalogue import ModuleSheet
from lodestaff.job.array import Corner, Face
from lodestaff.quantities.convention import plain

SLACK_M = 1e-6
Box = tuple[str, float, float, float, float]


def check_places(face: Face, sheet: ModuleSheet) -> None:
    """Raises ValueError that names the module that lies wrongly."""
    boxes: list[Box] = [
        (module.id, module.x_m, module.y_m, *face.size_of(module, sheet)) for module in face.modules
    ]
    for name, x, y, w, h in boxes:
        if x + w > face.width_m + SLACK_M or y + h > face.height_m + SLACK_M:
            raise ValueError(
                f"faces {face.id} modules {name}: reaches beyond the face of {plain(face.width_m)} x "
                f"{plain(face.height_m)} m"
            )
        if face.outline and not lies_within(face.corners, (x, y, w, h)):
            raise ValueError(f"faces {face.id} modules {name}: reaches beyond the outline of {face.name}")
    others: list[Box] = boxes + [(o.name, o.x_m, o.y_m, o.w_m, o.h_m) for o in face.obstacles]
    for index, (name, x, y, w, h) in enumerate(boxes):
        for other, ox, oy, ow, oh in others[index + 1 :]:
            if lie_over((x, y, w, h), (ox, oy, ow, oh)):
                raise ValueError(f"faces {face.id} modules {name}: lies on {other}; move one of them")


def lie_over(first: tuple[float, float, float, float], other: tuple[float, float, float, float]) -> bool:
    """Whether two rectangles, each by its lower left corner, width and height, lie on each other."""
    (x, y, w, h), (ox, oy, ow, oh) = first, other
    return x < ox + ow - SLACK_M and ox < x + w - SLACK_M and y < oy + oh - SLACK_M and oy < y + h - SLACK_M


def lies_within(corners: tuple[Corner, ...], box: tuple[float, float, float, float]) -> bool:
    """Whether a box lies inside an outline: no edge passes through it, and its middle is inside."""
    x, y, w, h = box
    edges = list(zip(corners, (*corners[1:], corners[0]), strict=True))
    if any(_crosses(a, b, (x + SLACK_M, y + SLACK_M, w - 2 * SLACK_M, h - 2 * SLACK_M)) for a, b in edges):
        return False
    return _inside(edges, (x + w / 2, y + h / 2))


def _inside(edges: list[tuple[Corner, Corner]], at: Corner) -> bool:
    """By the count of edges to the right of a point."""
    x, y = at
    return (
        sum(
            (a[1] > y) != (b[1] > y) and x < a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0])
            for a, b in edges
        )
        % 2
        == 1
    )


def _crosses(a: Corner, b: Corner, box: tuple[float, float, float, float]) -> bool:
    """Whether a straight edge passes through a box: the part of it between the box's sides is not empty."""
    x, y, w, h = box
    enter, leave = 0.0, 1.0
    for start, step, low, high in ((a[0], b[0] - a[0], x, x + w), (a[1], b[1] - a[1], y, y + h)):
        if abs(step) < 1e-12:
            if not low < start < high:
                return False
            continue
        first, last = sorted(((low - start) / step, (high - start) / step))
        enter, leave = max(enter, first), min(leave, last)
    return enter < leave
