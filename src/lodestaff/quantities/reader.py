"""A number as a person types it, with or without its unit: one reader for every place where one is typed.

What is printed is read back as itself. A single separator that isn't the decimal sign of the convention is
taken for one all the same, unless exactly three digits follow it: then it may as well part groups, and both
readings are said instead of one being guessed. Groups are parted as they are printed, by spaces, or by
apostrophes.
"""

import math
import re

from lodestaff.quantities.convention import CONVENTION, plain
from lodestaff.quantities.errors import JobError

# From a unit to another, by factor.
FACTORS = {
    ("W", "kW"): 1e-3, ("kW", "W"): 1e3, ("MW", "kW"): 1e3, ("VA", "kVA"): 1e-3, ("kVA", "VA"): 1e3,
    ("Wh", "kWh"): 1e-3,
    ("MWh", "kWh"): 1e3, ("kWh", "Wh"): 1e3, ("mV", "V"): 1e-3, ("kV", "V"): 1e3, ("mA", "A"): 1e-3,
    ("kA", "A"): 1e3,
    ("A", "kA"): 1e-3, ("mohm", "ohm"): 1e-3, ("kohm", "ohm"): 1e3, ("kohm", "Mohm"): 1e-3, ("mm", "m"): 1e-3,
    ("cm", "m"): 1e-2, ("m", "mm"): 1e3, ("cm", "mm"): 10.0, ("ft", "m"): 0.3048, ("in", "mm"): 25.4,
    ("ms", "s"): 1e-3,
    ("min", "h"): 1 / 60, ("kcmil", "mm²"): 0.506707, ("%", ""): 1e-2,
}  # fmt: skip
SAME = {"mm2": "mm²", "Ω": "ohm", "MΩ": "Mohm", "kΩ": "kohm", "mΩ": "mohm", "Ohm": "ohm", "°": "deg",
        "m2": "m²",
        "W/m2": "W/m²"}  # fmt: skip
NAMES = {".": "point", ",": "comma"}
SPACES = " \u00a0\u2009\u202f"
SHAPE = re.compile(
    rf"^\s*([+\-−–]?)\s*([0-9](?:[0-9.,'’{SPACES}]*[0-9])?|[.,][0-9]+)((?:[eE][+-]?[0-9]+)?)\s*(.*?)\s*$"
)
GROUPED = re.compile(r"[0-9]{1,3}(?:G[0-9]{3})+")


class NotANumberError(JobError):
    """What was typed is no number; two readings of one are a JobError of their own."""


def awg_mm2(gauge: float) -> float:
    """Area of an American wire gauge, mm²: (pi/4) (0.127 x 92^((36 - n)/39))². 1/0 is gauge 0, 2/0 is -1.

    Source: ASTM B258 (published).
    """
    diameter_mm: float = 0.127 * 92.0 ** ((36 - gauge) / 39)
    return math.pi / 4 * diameter_mm**2


def split_number(text: str, decimal: str = "") -> tuple[float, str]:
    """The number at the beginning of what was typed, and the unit that follows it. `decimal` as for
    `read_number`.

    Raises JobError where there is none, or where one separator allows two readings.
    """
    gauge = re.fullmatch(r"\s*([1-4])\s*/\s*0\s*(AWG)\s*", text, re.IGNORECASE)
    if gauge:
        return 1.0 - int(gauge.group(1)), "AWG"
    shape = SHAPE.match(text)
    if shape is None:
        raise NotANumberError(f"{text!r} is not a number")
    sign, body, power, unit = shape.groups()
    value = float(f"{_plain(body, decimal or CONVENTION.decimal)}{power}")
    if not math.isfinite(value):
        raise NotANumberError(f"{text!r} is not a number")
    return (-value if sign in ("-", "−", "–") else value), unit


def _plain(body: str, decimal: str) -> str:
    """Digits and a point, of a body with separators."""
    body = re.sub(rf"[{SPACES}'’]", "", body) if _spaced(body) else body
    if re.search(rf"[{SPACES}'’]", body):
        raise NotANumberError(f"{body!r} is not a number", right="groups have three digits")
    points, commas = body.count("."), body.count(",")
    if points and commas:
        last, other = (".", ",") if body.rfind(".") > body.rfind(",") else (",", ".")
        whole, _, rest = body.rpartition(last)
        if body.count(last) > 1 or not GROUPED.fullmatch(whole.replace(other, "G")):
            raise NotANumberError(f"{body!r} is not a number", right="groups have three digits")
        return f"{whole.replace(other, '')}.{rest}"
    if commas > 1 or points > 1:
        sign = "," if commas else "."
        if not GROUPED.fullmatch(body.replace(sign, "G")):
            raise NotANumberError(f"{body!r} is not a number", right="groups have three digits")
        return body.replace(sign, "")
    doubtful = "," if decimal == "." else "."
    if re.fullmatch(rf"[1-9][0-9]{{0,2}}{re.escape(doubtful)}[0-9]{{3}}", body):
        raise JobError(
            f"{body}: {body.replace(doubtful, '')} or {plain(float(body.replace(',', '.')))}?",
            right=f"type it without the {NAMES[doubtful]}, or with a {NAMES[decimal]}",
        )
    return body.replace(",", ".")


def _spaced(body: str) -> bool:
    """Whether spaces stand between groups of three before the decimal sign."""
    whole = re.split(r"[.,]", body)[0]
    return bool(GROUPED.fullmatch(re.sub(rf"[{SPACES}'’]", "G", whole))) or not re.search(
        rf"[{SPACES}'’]", whole
    )


def read_number(text: str, unit: str = "", decimal: str = "") -> float:
    """What was typed, in a unit: its own unit may stand behind it, or one that is related to it.

    `decimal` is the sign of a file, whose convention isn't the person's; '' takes that of the convention.

    Raises JobError with what would be right.
    """
    try:
        value, given = split_number(text, decimal)
    except NotANumberError as trouble:
        raise NotANumberError(f"{trouble.what}{f' of {unit}' if unit else ''}", right=trouble.right) from None
    given, wanted = SAME.get(given, given), SAME.get(unit, unit)
    if not given or given == wanted:
        return value
    if given == "AWG" and wanted == "mm²":
        return round(awg_mm2(value), 3)
    if given == "°F" and wanted == "°C":
        return (value - 32) * 5 / 9
    if (given, wanted) in FACTORS:
        return float(f"{value * FACTORS[given, wanted]:.12g}")
    raise NotANumberError(
        f"{text.strip()!r} is not a number{f' of {unit}' if unit else ''}",
        right=f"type one in {unit}" if unit else "type it without a unit",
    )
