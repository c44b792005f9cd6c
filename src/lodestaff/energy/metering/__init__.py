"""Interval data of the supply's meter: recognised, read onto one clock, and what they say."""

from lodestaff.energy.metering.logged import Logged
from lodestaff.energy.metering.reading import read_intervals
from lodestaff.energy.metering.recognise import Recognised, recognise

__all__ = ["Logged", "Recognised", "read_intervals", "recognise"]
