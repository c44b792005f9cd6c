"""How a value with its unit is written for people.

Inside the core values are in kW, kWh, V, A, ohm, m, mm², °C, W/m², degrees and currency units;
this module turns them into words at the edge.
"""

import math

from lodestaff.quantities.convention import written

# Digits after the point that fit what a figure in this unit is worth.
DECIMALS = {
    "circuits": 0, "labels": 0, "switches": 0, "ways": 0,
    "kW": 2, "kVA": 2, "kWh": 1, "W": 0, "VA": 0, "V": 0, "A": 1, "ohm": 2, "m": 1, "mm²": 1,
    "°C": 1, "W/m²": 0, "deg": 0, "h": 1, "s": 1, "%": 0, "money": 0, "bonds": 0, "K": 1, "days": 1,
}  # fmt: skip

MINUS = "−"


def text_of(value: float, unit: str = "", decimals: int | None = None) -> str:
    """Write a value with its unit, thousands grouped; a value that is not finite says so in words."""
    if math.isnan(value):
        return "unknown"
    if math.isinf(value):
        return "no limit"
    places = DECIMALS.get(unit, 2) if decimals is None else decimals
    if decimals is None and len(unit) == 3 and unit.isupper():  # a currency
        places = 0 if abs(value) >= 100 else 2
    if decimals is None and unit == "kWh" and abs(value) >= 1000:
        places = 0  # a simulated year knows no tenths
    if decimals is None and not unit and (abs(value) >= 100 or value == int(value)):
        places = 0
    number = written(f"{abs(value):,.{places}f}")
    negative = value < 0 and round(abs(value), places) != 0
    shown_unit = {"money": "", "bonds": ""}.get(unit, unit)
    return f"{MINUS if negative else ''}{number} {shown_unit}".strip()


def clock(hour: float) -> str:
    """Write an hour of the day, 0 to 24 and beyond, as 18:45."""
    minutes = round(hour * 60) % (24 * 60)
    return f"{minutes // 60:02d}:{minutes % 60:02d}"
