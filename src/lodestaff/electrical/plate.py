"""A motor's plate: what it draws and how it starts, from what is stamped on it."""

import math

from lodestaff.electrical.split import motor_start
from lodestaff.job import Change, Circuit, Job
from lodestaff.job.facts import Known
from lodestaff.quantities import text_of
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number

AS_TYPED = "1.1 kW; 78 %; 0.8; 6"
RIGHT = f"kW at the shaft; efficiency; power factor; start, times running, as {AS_TYPED}"
WHERE = "motor's plate"
NAMES, UNITS = ("shaft", "efficiency", "power factor", "start"), ("kW", "%", "", "")
BOUNDS = ((0.01, 75.0), (30.0, 99.0), (0.3, 1.0), (1.0, 12.0))  # of motors on such circuits; common practice


def plate_changes(job: Job, circuit: Circuit, text: str, read_on: str) -> tuple[str, tuple[Change, ...]]:
    """What a circuit becomes by its motor's plate, typed as four values, in words and as changes; the plate
    stays as a note.

    Raises JobError for anything that isn't one. Source: common practice.
    """
    parts = [part.strip() for part in text.split(";")]
    if len(parts) != len(NAMES):
        raise JobError(f"{len(parts)} of 4 values by semicolons", WHERE, RIGHT)
    values = [read_number(part, unit) for part, unit in zip(parts, UNITS, strict=True)]
    for name, value, (low, high) in zip(NAMES, values, BOUNDS, strict=True):
        if not low <= value <= high:
            raise JobError(f"{name} {value:g}", WHERE, f"{low:g} to {high:g}; {RIGHT}")
    shaft_kw, percent, factor, multiple = values
    motor = motor_start(shaft_kw, percent / 100, factor, _across_v(job, circuit), multiple)
    known = {
        "value": "yes",
        "known": Known.READ.value,
        "note": f"motor's plate: {'; '.join(parts)}",
        "date": read_on,
    }
    path = f"circuits/{circuit.id}"
    words = (
        f"draws {text_of(motor.input_kw, 'kW')} and {text_of(motor.running_a, 'A')}, "
        f"starts with {text_of(motor.start_a, 'A')}"
    )
    return words, (
        Change(f"{path}/kind", "motor"),
        Change(f"{path}/running_w", round(motor.input_kw * 1000, 1)),
        Change(f"{path}/power_factor", factor),
        Change(f"{path}/start_multiple", multiple),
        Change(f"{path}/known", known),
    )


def _across_v(job: Job, circuit: Circuit) -> float:
    """Volts by which a circuit's apparent power is its current in each leg: S = V I, sqrt(3) U I on three."""
    nominal, count = job.pack.value("nominal_v").value, len(circuit.legs)
    opposite = job.mains.system == "120/240 V"
    return nominal * (math.sqrt(3) if count == 2 and not opposite else count)
