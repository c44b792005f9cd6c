"""From a job to the record that each check takes."""

from lodestaff.reckoning.records import (  # noqa: F401
    array,
    backup,
    busbars,
    circuits,
    design,
    devices,
    earths,
    fill,
    glands,
    guards,
    isolating,
    labels,
    modes,
    mounting,
    paths,
    places,
    runs,
    service,
    shade,
    sheets,
    site,
    wiring,
)
from lodestaff.reckoning.records.making import RECORDS

__all__ = ["RECORDS"]
