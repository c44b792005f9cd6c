"""SunSpec over Modbus TCP: the application's client, and the simulated site's server (loopback only)."""

from lodestaff.link.client import Link, LinkState, Value
from lodestaff.link.server import PlantServer

__all__ = ["Link", "LinkState", "PlantServer", "Value"]
