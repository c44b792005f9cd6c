"""A file of interval data from the supply's meter, and how it is to be read: recognised first, then
confirmed."""

from typing import Annotated, Literal

from pydantic import Field

from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.found import Sha256

Clock = Literal["local time", "standard time", "UTC"]


class FileShape(Frozen):
    """How a CSV file of interval data is to be read. Columns are counted from 0; `time_column` -1: none of
    its own.

    `stamp` says whether a time is the start or the end of its interval. Where the file has a line for each
    day and a column for each interval, `layout` is "days".
    """

    delimiter: Literal[",", ";", "\t", "|"]
    decimal: Literal[".", ","]
    header_lines: Annotated[int, Field(ge=0, le=60)]
    layout: Literal["rows", "days"] = "rows"
    date_column: Annotated[int, Field(ge=0, le=400)] = 0
    time_column: Annotated[int, Field(ge=-1, le=400)] = -1
    value_column: Annotated[int, Field(ge=0, le=400)] = 1
    order: Literal["year month day", "day month year", "month day year"]
    unit: Literal["kWh", "Wh", "kW", "W"]
    interval_min: Literal[5, 10, 15, 20, 30, 60]
    stamp: Literal["start", "end"] = "start"
    clock: Clock


class IntervalFile(Frozen):
    """The attached file (by SHA-256) with its shape; `confirmed` once a person has looked at it."""

    sha256: Sha256
    name: Annotated[str, Field(max_length=120)] = ""
    shape: FileShape
    confirmed: bool = False
