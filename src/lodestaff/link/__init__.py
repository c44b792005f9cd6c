"""SunSpec over Modbus TCP: the application's client, and the simulated site's server (loopback only)."""

from typing import TYPE_CHECKING

from lodestaff.quantities.lazily import lazily

if TYPE_CHECKING:
    from lodestaff.link.client import Link, LinkState, Value
    from lodestaff.link.server import PlantServer

__all__ = ["Link", "LinkState", "PlantServer", "Value"]

__getattr__ = lazily(
    __name__, {"Link": "client", "LinkState": "client", "Value": "client", "PlantServer": "server"}
)
