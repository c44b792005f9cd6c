"""From a job to the record that each check takes."""

from lodestaff.reckoning.records import array, backup, circuits, design, isolating, runs, shade, site, wiring  # noqa: F401
from lodestaff.reckoning.records.making import RECORDS

__all__ = ["RECORDS"]
