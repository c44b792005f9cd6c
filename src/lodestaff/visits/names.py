"""What tasks are called, by what they are about; nothing is ever taken apart again."""

CUT_IN, WAYS, CABLES, DEVICES = "cut-in", "ways", "cables", "devices"
SURVEY, DEAD_TESTS, PROVE, OUTAGE_TEST = "survey", "dead-tests", "prove", "outage-test"
LABELS, HAND_OVER, INSPECTION, ELECTRODES = "labels", "hand-over", "inspection", "electrodes"
SUPPORTS = "supports"


def brackets_on(face: str) -> str:
    return f"brackets-{face}"


def modules_on(face: str) -> str:
    return f"modules-{face}"


def runs_of(unit: str) -> str:
    return f"roof-runs-{unit}"


def unit_stands(unit: str) -> str:
    return f"unit-{unit}"


def battery_stands(bank: str) -> str:
    return f"battery-{bank}"


def board_stands(board: str) -> str:
    return f"board-{board}"


def generator_stands(generator: str) -> str:
    return f"generator-{generator}"


def connected(unit: str) -> str:
    return f"connect-{unit}"


def started(unit: str) -> str:
    return f"start-{unit}"


def moved_to(board: str) -> str:
    return f"move-{board}"


def trench_of(passage: str) -> str:
    return f"trench-{passage}"
