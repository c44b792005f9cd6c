"""What the wires of a simulated site are asked of it: its parts and where they stand."""

from datetime import datetime
from typing import Protocol

from lodestaff.job import Job
from lodestaff.plant.built import Built
from lodestaff.plant.generators import PlantGenerator
from lodestaff.plant.meters import Meters
from lodestaff.plant.unit import PlantUnit
from lodestaff.topology import Topology
from lodestaff.topology.model import Terminal


class Standing(Protocol):
    """A site at a moment. `drawn` is the wiring as planned, `topology` as it was built."""

    job: Job
    drawn: Topology
    built: Built
    topology: Topology
    units: dict[str, PlantUnit]
    generators: dict[str, PlantGenerator]
    meters: Meters
    faults: frozenset[str]
    running: dict[str, bool]
    plugged: dict[str, tuple[Terminal, str]]
    plugged_kw: dict[str, float]
    told_a: dict[str, float]
    grid_present: bool

    def device_clock(self, unit: str) -> datetime: ...
