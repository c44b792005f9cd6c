"""Readings, bounds and conditions in words, the same on the screen, on paper and on the command line."""

from lodestaff.commissioning.expect import Expected
from lodestaff.commissioning.reading import Reading
from lodestaff.commissioning.record import StepResult
from lodestaff.commissioning.rules import SettingIs
from lodestaff.link.points import MODES
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.units import clock


def bounds_words(expected: Expected | None) -> str:
    """Within which bounds a reading passes."""
    if expected is None:
        return "yes"
    unit = expected.unit

    def number(value: float) -> str:
        if unit == "modules":
            return text_of(value, unit, 0)
        places = 3 if abs(value) < 1 else 2 if abs(value) < 100 else 1
        return text_of(value, unit, places)

    if expected.low is not None and expected.high is not None:
        if expected.high - expected.low <= 0.002 * max(abs(expected.value), 1.0):
            return number(expected.value)
        return f"{number(expected.low)} to {number(expected.high)}"
    if expected.low is not None:
        return f"at least {number(expected.low)}"
    return f"at most {number(expected.high or 0.0)}"


def setting_words(key: str, numbers: tuple[float, ...], unit: str) -> str:
    """A setting as it was read back."""
    if key == "mode":
        number = int(numbers[0])
        return MODES[number] if 0 <= number < len(MODES) else f"mode {number}"
    if key == "clock":
        return f"{text_of(numbers[0], 's', 0)} off"
    if len(numbers) == 4:
        start, end, target, power = numbers
        return f"{clock(start)} to {clock(end)}, to {plain(target, 0)} % at {text_of(power, 'kW')}"
    return ", ".join(text_of(number, unit) for number in numbers)


def reading_words(result: StepResult) -> str:
    """A reading as it was taken."""
    reading, unit = result.reading, result.step.rule.unit
    if reading is None:
        return ""
    if reading.put_off:
        return "put off"
    if reading.numbers and isinstance(result.step.rule, SettingIs):
        return setting_words(result.step.rule.key, reading.numbers, unit)
    if reading.numbers:
        return ", ".join(text_of(number, unit, 3 if abs(number) < 10 else 1) for number in reading.numbers)
    if reading.said:
        return reading.said
    return reading.state or ("yes" if reading.confirmed else "no")


def conditions_words(reading: Reading | None) -> str:
    """What was measured beside a reading."""
    if reading is None:
        return ""
    c = reading.conditions
    parts = (
        ("W/m²", c.poa_w_m2, 0),
        ("°C", c.module_c, 1),
        ("W/m²", c.poa_2_w_m2, 0),
        ("°C", c.module_2_c, 1),
        ("V", c.voltage_v, 0),
        ("kW", c.load_kw, 2),
        ("kWh out", c.out_from_kwh, 1),
        ("kWh in", c.in_from_kwh, 1),
        ("kWh in", c.in_to_kwh, 1),
        ("kWh of sun", c.sun_kwh, 2),
        ("kWh of it stored", c.sun_stored_kwh, 2),
        ("kWh stored", c.stored_kwh, 2),
    )
    return ", ".join(text_of(value, unit, places) for unit, value, places in parts if value is not None)
