"""Every figure of a job: pure, cached by what it rests on."""

from lodestaff.reckoning.moment import Moment, Sky
from lodestaff.reckoning.reckoner import Reckoner

__all__ = ["Moment", "Reckoner", "Sky"]
