"""The simulated site: physics and faults of an installation made from a job, apart from any socket."""

from typing import TYPE_CHECKING

from lodestaff.quantities.lazily import lazily

if TYPE_CHECKING:
    from lodestaff.plant.faults import FAULTS, Fault
    from lodestaff.plant.site import Plant, PlantStart

__all__ = ["FAULTS", "Fault", "Plant", "PlantStart"]

__getattr__ = lazily(__name__, {"FAULTS": "faults", "Fault": "faults", "Plant": "site", "PlantStart": "site"})
