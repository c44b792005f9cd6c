"""The simulated site: physics and faults of an installation made from a job, apart from any socket."""

from lodestaff.plant.faults import FAULTS, Fault
from lodestaff.plant.site import Plant, PlantStart

__all__ = ["FAULTS", "Fault", "Plant", "PlantStart"]
