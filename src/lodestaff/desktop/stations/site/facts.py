"""The facts of the site as rows: which plate they hang on, their words, units, and what may be typed."""

from dataclasses import dataclass, replace
from typing import Any, Literal

from lodestaff.catalogue.library import building_kinds
from lodestaff.desktop.understood import Reads, as_date, as_number
from lodestaff.job import Fact, Job, Known
from lodestaff.job.plan import SYSTEMS
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.dates import read_date
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.quantities.zones import zone_names

Kind = Literal[
    "number",
    "whole",
    "text",
    "choice",
    "plain number",
    "plain choice",
    "plain text",
    "plain months",
    "plain yes",
    "plain date",
    "zone",
    "photos",
]


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
        return self.kind.startswith("plain") or self.kind == "photos"


EARTHINGS = ("TN-C-S", "TN-S", "TT", "TN-C", "MEN")
STATES = ("not asked", "applied for", "granted", "refused", "expired")
PARALLEL_STATES = (*STATES, "granted without export")
YES = ("no", "yes")
ROWS: tuple[FactRow, ...] = (
    FactRow(
        "site/supply/earthing",
        "supply",
        words="Earthing arrangement",
        unit="",
        kind="choice",
        choices=EARTHINGS,
    ),
    FactRow("mains/system", "supply", words="Kind of supply", unit="", kind="plain choice", choices=SYSTEMS),
    FactRow("site/supply/voltage_v", "supply", "Voltage", "V", "number"),
    FactRow("mains/fault_ka", "supply", "Fault level", "kA", "number"),
    FactRow("site/supply/ze_ohm", "supply", "Ze", "ohm", "number"),
    FactRow("site/supply/rating_a", "head", "Service rating", "A", "number"),
    FactRow(
        "site/supply/seal", "head", words="Seal", unit="", kind="choice", choices=("intact", "broken", "none")
    ),
    FactRow("site/supply/de_energise", "head", "May de-energise", "", "text"),
    FactRow("site/supply/de_energise_how", "head", "How", "", "text"),
    FactRow("site/supply/without_power", "head", "People without power", "", "text"),
    FactRow("site/supply/meter", "meter", "Meter", "", "text"),
    FactRow("site/supply/tails_mm2", "meter", "Tails", "mm²", "number"),
    FactRow(
        "site/supply/isolator", "meter", words="Isolator there", unit="", kind="choice", choices=("yes", "no")
    ),
    FactRow("site/supply/earthing_mm2", "earth", "Earthing conductor", "mm²", "number"),
    FactRow("site/supply/bonding_mm2", "earth", "Main bonding", "mm²", "number"),
    FactRow("site/supply/electrode_ohm", "earth", "Electrode", "ohm", "number"),
    FactRow(
        "site/supply/board_condition",
        "board",
        words="Condition",
        unit="",
        kind="choice",
        choices=("good", "worn", "unfit"),
    ),
    FactRow("site/supply/spare_ways", "board", "Spare ways", "", "whole"),
    FactRow(
        "site/supply/surge_protection",
        "board",
        words="Surge protection",
        unit="",
        kind="choice",
        choices=("yes", "no"),
    ),
    FactRow("site/permission/parallel_kva", "parallel", "Generation, each phase", "kVA", "number"),
    FactRow(
        "site/permission/parallel_state",
        "parallel",
        words="State",
        unit="",
        kind="plain choice",
        choices=PARALLEL_STATES,
    ),
    FactRow("site/permission/parallel_date", "parallel", "Date", "", "plain date"),
    FactRow("site/permission/asked_kva", "parallel", "Asked for, each phase", "kVA", "number"),
    FactRow("site/permission/expanded_kva", "parallel", "Expanded, each phase", "kVA", "number"),
    FactRow("site/permission/export_kw", "export", "Export", "kW", "number"),
    FactRow("site/permission/state", "export", words="State", unit="", kind="plain choice", choices=STATES),
    FactRow("site/permission/date", "export", "Date", "", "plain date"),
    FactRow("site/record_low_c", "place", "Record low", "°C", "number"),
    FactRow("site/record_high_c", "place", "Record high", "°C", "number"),
    FactRow("site/latitude_deg", "place", "Latitude", "deg", "plain number"),
    FactRow("site/longitude_deg", "place", "Longitude", "deg", "plain number"),
    FactRow("site/altitude_m", "place", "Altitude", "m", "plain number"),
    FactRow("site/place_known", "place", words="Place confirmed", unit="", kind="choice", choices=("yes",)),
    FactRow("site/time_zone", "place", "Time zone", "", "zone"),
    FactRow(
        "site/building",
        "place",
        words="Kind of building",
        unit="",
        kind="plain choice",
        choices=("", *building_kinds()),
    ),
    FactRow("site/floor_m2", "place", "Floor area", "m²", "number"),
)
WEATHER_ROWS: tuple[FactRow, ...] = (
    FactRow("site/weather/clearness", "weather", "Clearness, 12 months", "", "plain months"),
    FactRow("site/weather/temperature_low_c", "weather", "Mean low, 12 months", "°C", "plain months"),
    FactRow("site/weather/temperature_high_c", "weather", "Mean high, 12 months", "°C", "plain months"),
    FactRow("site/weather/wind_m_s", "weather", "Wind, 12 months", "m/s", "plain months"),
)
KNOWN = tuple(str(known) for known in Known)


OUTSIDE = FactRow(
    "site/supply/outside_disconnect",
    "meter",
    words="Disconnect outside",
    unit="",
    kind="choice",
    choices=("yes", "no", "no dwelling"),
)


SHUTDOWN = replace(OUTSIDE, path="site/supply/storage_shutdown", words="Battery's shutdown outside")


def rows_of(job: Job) -> tuple[FactRow, ...]:
    """The rows that a job has: a synthetic year is told by its months, a file by its name; records as they
    are."""
    rows = ROWS if job.mains.grid else tuple(row for row in ROWS if not _of_the_grid(row))
    if job.mains.grid and "outside_disconnect" in job.pack.values:
        rows = (*rows, OUTSIDE)
    if job.mains.grid and job.banks and "storage_shutdown" in job.pack.values:
        rows = (*rows, SHUTDOWN)
    return (*rows, *_record_rows(job), *(WEATHER_ROWS if job.site.weather.kind == "synthetic" else ()))


OF_THE_GRID = ("head", "meter", "parallel", "export")  # plates


def _of_the_grid(row: FactRow) -> bool:
    """Whether a row is of the operator's supply: where there is no grid nobody reads it off."""
    return row.plate in OF_THE_GRID or (row.plate == "supply" and row.path != "mains/system")


CONDITIONS = ("good", "worn", "unfit")


def _record_rows(job: Job) -> list[FactRow]:
    """Rows of the records: a plate for each found device, one for permits, one for limits, one for
    choices."""
    rows = []
    for device in job.site.found:
        path, plate = f"site/found/{device.id}", f"found-{device.id}"
        rows += [
            FactRow(f"{path}/name", plate, "What it is", "", "plain text"),
            FactRow(
                f"{path}/rating",
                plate,
                "Size" if device.what == "conductor" else "Rating",
                device.unit,
                "number",
            ),
            FactRow(
                f"{path}/condition", plate, words="Condition", unit="", kind="choice", choices=CONDITIONS
            ),
        ]
        if device.what == "conductor":
            rows.append(FactRow(f"{path}/device_a", plate, "Protected by", "A", "number"))
        if device.what in ("generation", "car charger", "heat pump", "generator"):
            rows.append(FactRow(f"{path}/phase", plate, "Phase", "", "plain text"))
            rows.append(FactRow(f"{path}/part", plate, "Stands in the job as", "", "plain text"))
        rows += [
            FactRow(f"{path}/note", plate, "Note", "", "plain text"),
            FactRow(
                f"{path}/shown_to_customer",
                plate,
                words="Customer has seen it",
                unit="",
                kind="plain yes",
                choices=YES,
            ),
            FactRow(f"{path}/photos", plate, "Photos", "", "photos"),
        ]
    for permit in job.site.permits:
        path, words = f"site/permits/{permit.id}", f"{permit.kind[0].upper()}{permit.kind[1:]}"
        aim = f" to {plain(permit.value)} A" if permit.value else ""
        rows += [
            FactRow(
                f"{path}/state", "permits", words=words + aim, unit="", kind="plain choice", choices=STATES
            ),
            FactRow(f"{path}/date", "permits", "  date", "", "plain date"),
        ]
    for limit in job.site.interim:
        path = f"site/interim/{limit.id}"
        rows += [
            FactRow(
                f"{path}/value",
                "interim",
                f"{limit.what[0].upper()}{limit.what[1:]}",
                limit.unit,
                "plain number",
            ),
            FactRow(f"{path}/until", "interim", "  until", "", "plain text"),
            FactRow(f"{path}/lifted", "interim", words="  lifted", unit="", kind="plain yes", choices=YES),
        ]
    for choice in job.choices:
        path = f"choices/{choice.id}"
        rows += [
            FactRow(f"{path}/{field}", "choices", words, "", "plain text")
            for field, words in (
                ("about", "About"),
                ("offered", "  offered"),
                ("advised", "  advised"),
                ("chosen", "  chosen"),
                ("why", "  why"),
                ("by", "  who"),
                ("date", "  date"),
            )
        ]
    return rows


def value_of(job: Job, row: FactRow) -> Any:
    """The fact, or the plain value, at a row's path."""
    node: Any = job
    for step in row.path.split("/"):
        node = (
            next(item for item in node if item.id == step) if isinstance(node, tuple) else getattr(node, step)
        )
    return node


def shown(job: Job, row: FactRow) -> tuple[str, str, bool]:
    """The value in words, how it is known, and whether it is firm."""
    stored = value_of(job, row)
    if not isinstance(stored, Fact):
        if row.kind == "photos":
            return f"{len(stored)} attached" if stored else "none", "", bool(stored)
        if row.kind == "plain yes":
            return YES[bool(stored)], "", True
        if row.kind == "plain months":
            return " ".join(f"{plain(value)}" for value in stored), "", True
        number = text_of(stored, row.unit, _decimals(stored)) if isinstance(stored, int | float) else ""
        return number or str(stored) or "-", "", True
    value = stored.value
    text = (
        "?"
        if value is None
        else text_of(float(value), row.unit, _decimals(float(value)))
        if row.kind in ("number", "whole")
        else str(value)
    )
    return text, stored.words(), stored.firm


def _decimals(value: float) -> int:
    """As many digits as were typed, two at most."""
    return next((places for places in (0, 1) if abs(value - round(value, places)) < 1e-9), 2)


def reads_of(row: FactRow) -> Reads | None:
    """How a row is understood while it is typed; None for words."""
    if row.kind == "plain date":
        return as_date
    return as_number(row.unit) if row.kind in ("number", "plain number", "whole") else None


def typed(row: FactRow, text: str) -> Any:
    """What was typed as a value; raises ValueError with what would be right."""
    text = text.strip()
    if not text and not row.plain:
        return None
    if row.kind == "plain yes":
        if text not in YES:
            raise ValueError(f"{text!r} is neither yes nor no")
        return text == "yes"
    if row.kind == "photos":
        raise ValueError("photos are attached with the button beside it")
    if row.choices and text not in row.choices:
        raise ValueError(f"{text!r} is none of {', '.join(row.choices)}")
    try:
        return _read(row, text)
    except JobError as trouble:
        raise ValueError(str(trouble)) from None


def _read(row: FactRow, text: str) -> Any:
    """Numbers, dates and words; raises JobError with what would be right."""
    if row.kind in ("number", "plain number"):
        return read_number(text, row.unit)
    if row.kind == "whole":
        number = read_number(text, row.unit)
        if number != int(number) or number < 0:
            raise JobError(f"{text!r} is not a whole number")
        return int(number)
    if row.kind == "plain months":
        months = [read_number(part) for part in text.split()]
        if len(months) != 12:
            raise JobError(f"{len(months)} values were given; a year has 12 months, with spaces between them")
        return months
    if row.kind == "zone" and text not in zone_names():
        raise JobError(f"no time zone {text!r}", right="write one like Europe/London")
    return read_date(text) if row.kind == "plain date" else text
