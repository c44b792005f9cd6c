"""The simulated site served as SunSpec models over Modbus TCP, on loopback only."""

import asyncio
import logging
import threading
import time
from functools import partial
from typing import Any

from lodestaff.link.definitions import BASE_ADDRESS
from lodestaff.link.image import Image, RefusedError
from lodestaff.plant.site import Plant
from lodestaff.quantities.errors import JobError

HOST = "127.0.0.1"
TICK_S = 0.2
START_PATIENCE_S = 10.0
CLOSING_S = 0.02


class PlantServer:
    """Serves a plant from a thread of its own; unit addresses count from 1 in the job's order.

    `speed` is plant seconds for a second of ours; 0 leaves the clock to whoever calls `plant.advance`.
    """

    def __init__(self, plant: Plant, port: int = 0, speed: float = 0.0) -> None:
        self.plant, self.port, self.speed = plant, port, speed
        self._images = [Image(plant, unit) for unit in plant.units]
        self._stop: asyncio.Event | None = None
        self._loop: asyncio.AbstractEventLoop | None = None
        self._ready = threading.Event()
        self._failed: BaseException | None = None
        self._thread = threading.Thread(target=self._run, name="lodestaff-plant", daemon=True)

    def start(self) -> "PlantServer":
        """Begin to serve. Raises JobError where the port is taken."""
        self._thread.start()
        self._ready.wait(START_PATIENCE_S)
        if self._failed is not None or not self._ready.is_set():
            raise JobError(
                f"port {self.port} could not be opened", "plant", "choose another --port"
            ) from self._failed
        return self

    def stop(self) -> None:
        """End serving and wait for the thread."""
        if self._loop is not None and self._stop is not None and self._thread.is_alive():
            self._loop.call_soon_threadsafe(self._stop.set)
        self._thread.join(START_PATIENCE_S)

    def __enter__(self) -> "PlantServer":
        return self.start()

    def __exit__(self, *_: object) -> None:
        self.stop()

    def _run(self) -> None:
        try:
            asyncio.run(self._serve())
        except BaseException as trouble:  # noqa: BLE001  (told to whoever started it)
            self._failed = trouble
            self._ready.set()

    async def _serve(self) -> None:
        from pymodbus.server import ModbusTcpServer
        from pymodbus.simulator import DataType, SimData, SimDevice

        told = logging.getLogger("pymodbus.logging")  # it would tell traces to whoever holds standard error
        told.addHandler(logging.NullHandler())
        told.propagate = False
        self._loop, self._stop = asyncio.get_running_loop(), asyncio.Event()
        devices = []
        for number, image in enumerate(self._images, start=1):
            data = SimData(BASE_ADDRESS, values=image.registers(), datatype=DataType.REGISTERS)
            devices.append(SimDevice(number, [data], action=_hook(image)))
        server: Any = ModbusTcpServer(devices, address=(HOST, self.port))
        if not await server.listen():
            raise OSError(f"port {self.port} is taken")
        assert server.transport is not None
        self.port = server.transport.sockets[0].getsockname()[1]
        self._ready.set()
        ticking = asyncio.create_task(self._tick()) if self.speed > 0 else None
        await self._stop.wait()
        if ticking is not None:
            ticking.cancel()
        await server.shutdown()
        await asyncio.sleep(
            CLOSING_S
        )  # transports close in the loop's next turns, and there are none after this

    async def _tick(self) -> None:
        last = time.monotonic()
        while True:
            await asyncio.sleep(TICK_S)
            now = time.monotonic()
            advance = partial(self.plant.advance, (now - last) * self.speed)
            last = now
            await asyncio.get_running_loop().run_in_executor(None, advance)


def _hook(image: Image) -> Any:
    """What answers a request: a read is filled from the plant, a write goes into it or is refused."""
    from pymodbus.constants import ExcCodes

    async def action(
        _function: int, start: int, address: int, count: int, registers: list[int], values: list[int] | None
    ) -> Any:
        if values is not None:
            try:
                image.write(address, [int(value) for value in values])
            except RefusedError as refusal:
                return ExcCodes.ILLEGAL_ADDRESS if refusal.address else ExcCodes.ILLEGAL_VALUE
            return None
        registers[:] = image.registers()
        return None

    return action
