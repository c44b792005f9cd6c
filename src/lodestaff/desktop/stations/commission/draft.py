"""What is typed for a step before it is recorded, and the words of what is measured beside a reading."""

from dataclasses import dataclass, field

from lodestaff.commissioning.expect import Conditions, Expected
from lodestaff.commissioning.reading import Status
from lodestaff.commissioning.rules import Asked, Unmeasured
from lodestaff.commissioning.step import Step
from lodestaff.commissioning.words import bounds_words

FIELD_WORDS: dict[Asked, str] = {
    "poa_w_m2": "Irradiance, W/m²",
    "module_c": "Modules, °C",
    "poa_2_w_m2": "Second face, W/m²",
    "module_2_c": "Its modules, °C",
    "voltage_v": "Supply, V",
    "load_kw": "Clamp meter, kW",
    "out_from_kwh": "Out, before, kWh",
    "in_from_kwh": "In, before, kWh",
    "in_to_kwh": "In, now, kWh",
    "sun_kwh": "Unit: sun, kWh",
    "sun_stored_kwh": "Unit: sun stored, kWh",
    "stored_kwh": "Unit: stored, kWh",
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


def held_against(step: Step, conditions: Conditions, last: Expected | None) -> tuple[str, Expected | None]:
    """What a reading of a step is held against in these conditions: in words, and as a band. Where nothing is
    typed it is what the last reading was held against."""
    rule = step.rule
    if last is not None:
        return f"Passes: {bounds_words(last)} · {last.source}", last
    unmeasured = any(getattr(conditions, name) is None for name in rule.asks)
    if unmeasured and isinstance(rule, Unmeasured):
        weaker = rule.without()
        return f"Without the light measured: {bounds_words(weaker)}, a weaker proof · {weaker.source}", weaker
    if unmeasured:
        return "Expected: reckoned once what is asked for is measured.", None
    band = rule.expected(conditions)
    return (f"Passes: {bounds_words(band)} · {band.source}", band) if band is not None else ("", None)
