"""The facts of the site as rows: which plate they hang on, their words, units, and what may be typed."""

from dataclasses import dataclass
from typing import Any, Literal

from lodestaff.job import Fact, Job, Known
from lodestaff.quantities import text_of

Kind = Literal["number", "whole", "text", "choice", "plain number", "plain choice", "plain text", "plain months"]


@dataclass(frozen=True)
class FactRow:
    """One value of the site. Plain rows are decisions or records without a way of knowing."""

    path: str
    plate: str
    words: str
    unit: str
    kind: Kind
    choices: tuple[str, ...] = ()

    @property
    def plain(self) -> bool:
        return self.kind.startswith("plain")


EARTHINGS = ("TN-C-S", "TN-S", "TT")
STATES = ("granted", "applied for", "not asked")
ROWS: tuple[FactRow, ...] = (
    FactRow("site/supply/earthing", "supply", "Earthing arrangement", "", "choice", EARTHINGS),
    FactRow("site/supply/voltage_v", "supply", "Voltage", "V", "number"),
    FactRow("site/supply/ze_ohm", "supply", "Ze", "ohm", "number"),
    FactRow("site/supply/rating_a", "head", "Service rating", "A", "number"),
    FactRow("site/supply/de_energise", "head", "May de-energise", "", "text"),
    FactRow("site/supply/tails_mm2", "meter", "Tails", "mm²", "number"),
    FactRow("site/supply/isolator", "meter", "Isolator there", "", "choice", ("yes", "no")),
    FactRow("site/supply/earthing_mm2", "earth", "Earthing conductor", "mm²", "number"),
    FactRow("site/supply/bonding_mm2", "earth", "Main bonding", "mm²", "number"),
    FactRow("site/supply/electrode_ohm", "earth", "Electrode", "ohm", "number"),
    FactRow("site/supply/board_condition", "board", "Condition", "", "choice", ("good", "worn", "unfit")),
    FactRow("site/supply/spare_ways", "board", "Spare ways", "", "whole"),
    FactRow("site/supply/surge_protection", "board", "Surge protection", "", "choice", ("yes", "no")),
    FactRow("site/permission/parallel_kva", "parallel", "Generation, each phase", "kVA", "number"),
    FactRow("site/permission/parallel_state", "parallel", "State", "", "plain choice", STATES),
    FactRow("site/permission/parallel_date", "parallel", "Date", "", "plain text"),
    FactRow("site/permission/export_kw", "export", "Export", "kW", "number"),
    FactRow("site/permission/state", "export", "State", "", "plain choice", STATES),
    FactRow("site/permission/date", "export", "Date", "", "plain text"),
    FactRow("site/record_low_c", "place", "Record low", "°C", "number"),
    FactRow("site/record_high_c", "place", "Record high", "°C", "number"),
    FactRow("site/latitude_deg", "place", "Latitude", "deg", "plain number"),
    FactRow("site/longitude_deg", "place", "Longitude", "deg", "plain number"),
    FactRow("site/altitude_m", "place", "Altitude", "m", "plain number"),
)
WEATHER_ROWS: tuple[FactRow, ...] = (
    FactRow("site/weather/clearness", "weather", "Clearness, 12 months", "", "plain months"),
    FactRow("site/weather/temperature_low_c", "weather", "Mean low, 12 months", "°C", "plain months"),
    FactRow("site/weather/temperature_high_c", "weather", "Mean high, 12 months", "°C", "plain months"),
    FactRow("site/weather/wind_m_s", "weather", "Wind, 12 months", "m/s", "plain months"),
)
KNOWN = tuple(str(known) for known in Known)


def rows_of(job: Job) -> tuple[FactRow, ...]:
    """The rows that a job has: a synthetic year is told by its months, a file by its name."""
    return ROWS + (WEATHER_ROWS if job.site.weather.kind == "synthetic" else ())


def value_of(job: Job, row: FactRow) -> Any:
    """The fact, or the plain value, at a row's path."""
    found: Any = job
    for step in row.path.split("/"):
        found = getattr(found, step)
    return found


def shown(job: Job, row: FactRow) -> tuple[str, str, bool]:
    """The value in words, how it is known, and whether it is firm."""
    found = value_of(job, row)
    if not isinstance(found, Fact):
        if row.kind == "plain months":
            return " ".join(f"{one:g}" for one in found), "", True
        number = text_of(found, row.unit, _decimals(found)) if isinstance(found, int | float) else ""
        return number or str(found) or "-", "", True
    value = found.value
    text = (
        "?"
        if value is None
        else text_of(float(value), row.unit, _decimals(float(value)))
        if row.kind in ("number", "whole")
        else str(value)
    )
    return text, found.words(), found.firm


def _decimals(value: float) -> int:
    """As many digits as were typed, two at most."""
    return next((places for places in (0, 1) if abs(value - round(value, places)) < 1e-9), 2)


def typed(row: FactRow, text: str) -> Any:
    """What was typed as a value; raises ValueError with what would be right."""
    text = text.strip()
    if row.unit:
        text = text.removesuffix(row.unit).strip()
    if not text and not row.plain:
        return None
    if row.kind in ("number", "plain number"):
        try:
            return float(text.replace(",", "."))
        except ValueError:
            raise ValueError(f"{text!r} is not a number{f' of {row.unit}' if row.unit else ''}") from None
    if row.kind == "plain months":
        try:
            months = [float(one) for one in text.replace(",", " ").split()]
        except ValueError:
            raise ValueError(f"{text!r} is not a list of numbers") from None
        if len(months) != 12:
            raise ValueError(f"{len(months)} values were given; a year has 12 months")
        return months
    if row.kind == "whole":
        if not text.isdigit():
            raise ValueError(f"{text!r} is not a whole number")
        return int(text)
    if row.choices and text not in row.choices:
        raise ValueError(f"{text!r} is none of {', '.join(row.choices)}")
    return text
