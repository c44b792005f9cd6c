"""What is typed for a step before it is recorded, and the words of what is measured beside a reading."""

from dataclasses import dataclass, field

from lodestaff.commissioning.reading import Status
from lodestaff.commissioning.rules import Asked

FIELD_WORDS: dict[Asked, str] = {
    "poa_w_m2": "Irradiance, W/m²",
    "module_c": "Modules, °C",
    "voltage_v": "Supply, V",
    "load_kw": "Clamp meter, kW",
}
ASKED_UNITS = {name: words.rpartition(", ")[2] for name, words in FIELD_WORDS.items()}
STATUS_WORDS = {
    Status.PASSED: "passed",
    Status.DOUBTFUL: "doubtful",
    Status.FAILED: "failed",
    Status.OPEN: "open",
}
STATUS_ROLE = {
    Status.PASSED: "passed",
    Status.DOUBTFUL: "warns",
    Status.FAILED: "blocks",
    Status.OPEN: "soft",
}


@dataclass
class Draft:
    """What was typed for a step and not yet recorded: it stays while one looks elsewhere."""

    reading: str = ""
    conditions: dict[Asked, str] = field(default_factory=dict)
    put_off: str = ""
