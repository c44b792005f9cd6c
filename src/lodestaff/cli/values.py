"""Values as they are typed on the command line: with their unit or without, within bounds."""

import argparse

from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import NotANumberError, read_number


def month(text: str) -> int:
    return int(bounded(text, "", 1, 12, "a month from 1 to 12"))


def hour(text: str) -> float:
    if ":" in text:
        hours, minutes = text.split(":", 1)
        text = str(
            bounded(hours, "", 0, 23, "an hour like 18:45")
            + bounded(minutes, "", 0, 59, "an hour like 18:45") / 60
        )
    return bounded(text, "h", 0.0, 23.999, "an hour like 18:45 or 18.75")


def irradiance(text: str) -> float:
    return bounded(text, "W/m²", 20.0, 1500.0, "an irradiance from 20 to 1500 W/m²")


def temperature(text: str) -> float:
    return bounded(text, "°C", -40.0, 100.0, "a module temperature from -40 to 100 °C")


def share(text: str) -> float:
    value = bounded(text, "%", 0.0, 100.0, "a state of charge from 0 to 100 (percent)")
    if 0 < value <= 1 and "%" not in text:
        raise argparse.ArgumentTypeError(f"{text}: {value:g} % or {100 * value:g} %? Type it with the sign")
    return value / 100


def share_pct(text: str) -> float:
    return 100 * share(text)


def seed(text: str) -> int:
    return int(bounded(text, "", 0, 2**31 - 1, "a seed: a whole number from 0"))


def clearness(text: str) -> float:
    return bounded(text, "", 0.02, 1.2, "a clearness from 0.02 to 1.2")


def port(text: str) -> int:
    return int(bounded(text, "", 0, 65535, "a port from 0 to 65535"))


def speed(text: str) -> float:
    return bounded(text, "s", 0.0, 86_400.0, "a number from 0 to 86400")


def bounded(text: str, unit: str, low: float, high: float, right: str) -> float:
    """A number within bounds, with its unit or without; whole where the bounds are."""
    try:
        value = read_number(text, unit)
    except NotANumberError:
        value = float("nan")
    except JobError as trouble:
        raise argparse.ArgumentTypeError(str(trouble)) from None
    if not low <= value <= high or (isinstance(low, int) and isinstance(high, int) and value != int(value)):
        raise argparse.ArgumentTypeError(f"{text!r} is not {right}")
    return value


def worked(text: str) -> float:
    return bounded(text, "h", 0.01, 200.0, "hours of work, as 3.5")
