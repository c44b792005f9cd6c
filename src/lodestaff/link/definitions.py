"""Model definitions: the standard's, and one of this project for what the standard has no writable point for.

`models/model_64901.json` is the project's definition; it is read like any other.
"""

from collections.abc import Iterator
from functools import cache
from importlib import resources
from typing import Any

SITE_SETTINGS = 64901
COMMON, AC, CAPACITY, ENTER_SERVICE, CONTROLS, STORAGE, DC = 1, 701, 702, 703, 704, 713, 714
CURVES = (
    705,
    706,
    707,
    708,
    709,
    710,
    711,
    712,
)  # of voltage, trips, frequency and watts: none in force here
SIMULATED = "simulated"  # the options of a device that is none
METER_OF = {1: 201, 2: 202, 3: 203}  # the meter's model by how many legs it counts
LEG_POINTS = ("WphA", "WphB", "WphC")
BASE_ADDRESS = 40000
MARKER = b"SunS"
END = 0xFFFF


@cache
def definitions() -> Any:
    """The package that encodes models, its search path set to the project's folder and its own, never the
    working one."""
    import sunspec2.device as device

    ours = str(resources.files("lodestaff.link") / "models")
    device.set_model_defs_path([ours, device.models_dir])
    return device


def model(number: int, data: dict[str, Any] | bytes | None = None) -> Any:
    """A model by number, from values or from registers' bytes. Its `error_info` says what is wrong with
    it."""
    return definitions().Model(number, data=data)


def known(number: int) -> bool:
    """Whether there is a definition for a model number."""
    try:
        definitions().get_model_def(number)
    except Exception:  # noqa: BLE001  (the package raises its own kind for a missing definition)
        return False
    return True


def placed(group: Any, at: int = 0, path: str = "") -> Iterator[tuple[str, Any, int]]:
    """Every point of a model with its path (Win.0.Str) and its offset in registers."""
    for name, point in group.points.items():
        yield path + name, point, at
        at += int(point.len)
    for name, inner in group.groups.items():
        for index, definition in enumerate(inner if isinstance(inner, list) else [inner]):
            where = f"{path}{name}.{index}."
            for inner_name, point, offset in placed(definition, at, where):
                yield inner_name, point, offset
            at += sum(int(point.len) for _, point, _ in placed(definition))


def point_of(whole: Any, path: str) -> Any:
    """A point by its path; None where the model has none."""
    group = whole
    *groups, name = path.split(".")
    for group_name, index in zip(groups[::2], groups[1::2], strict=True):
        inner = group.groups.get(group_name)
        if not isinstance(inner, list) or int(index) >= len(inner):
            return None
        group = inner[int(index)]
    return group.points.get(name)
