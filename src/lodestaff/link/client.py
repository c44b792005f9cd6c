"""The application's SunSpec client: what it can't read or write is a state, never a value.

Answers are matched to their requests by transaction number (pymodbus), and after any failure the
connection is closed, so that a late answer can't be taken for the next one's. A device outside
loopback is only read in this version.
"""

import ipaddress
import logging
import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from functools import partial
from typing import Any

from lodestaff.link import definitions as d
from lodestaff.link.points import CLOCK_TOLERANCE_S, SettingPoints, setting_points, to_points

TIMEOUT_S = 2.0
MOST_REGISTERS = 120  # a request; the protocol allows 125
MOST_MODELS = 64
MOST_SCALE = 10


class LinkState(StrEnum):
    """How a reading or a write ended."""

    OK = "ok"
    NO_CONNECTION = "no connection"
    TIMEOUT = "no answer in time"
    LOST = "connection lost"
    GARBAGE = "an answer that makes no sense"
    REFUSED = "refused by the device"
    ABSENT = "not given by the device"
    READ_ONLY = "read only: the device is not on this machine"


@dataclass(frozen=True)
class Value:
    """A point's value in its unit, or the state that kept it from being one."""

    state: LinkState
    value: float | str | None = None
    unit: str = ""

    @property
    def ok(self) -> bool:
        return self.state is LinkState.OK


@dataclass(frozen=True)
class FoundModel:
    """A model found by a scan: number, address of its first register, length after the header."""

    number: int
    address: int
    length: int
    known: bool


@dataclass(frozen=True)
class Written:
    """How writing a setting ended: what was asked for and what the device then held, point by point."""

    state: LinkState
    wanted: tuple[float, ...] = ()
    read_back: tuple[float, ...] = ()
    enabled: bool | None = None

    @property
    def equal(self) -> bool:
        """Whether the device holds what was asked for, and has it in force."""
        return self.state is LinkState.OK and self.wanted == self.read_back and self.enabled is not False


class _LinkError(Exception):
    def __init__(self, state: LinkState) -> None:
        super().__init__(str(state))
        self.state = state


def on_loopback(host: str) -> bool:
    """Whether a host is this machine."""
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


def _write_registers(client: Any, address: int, words: list[int], unit: int) -> Any:
    return client.write_registers(address, words, device_id=unit)


class Link:
    """One unit at an address. Calls don't raise for what the device does; they return states."""

    def __init__(
        self,
        host: str,
        port: int,
        unit: int = 1,
        windows: tuple[str, ...] = (),
        timeout_s: float = TIMEOUT_S,
        meters: tuple[tuple[str | None, tuple[str, ...]], ...] = (),
    ):
        self.host, self.port, self.unit, self.windows, self.timeout_s = host, port, unit, windows, timeout_s
        self.meters = meters  # behind the unit, in order: the transformer (None: the site's own) and its legs
        self.models: dict[int, FoundModel] = {}
        self.more: dict[int, list[FoundModel]] = {}  # those of a number after its first, in order
        self._client: Any = None

    # --- what is done with it ----------------------------------------------------------------------------
    def scan(self) -> LinkState:
        """Find the models. After OK `models` holds them by number."""
        try:
            self.models = self._scan()
        except _LinkError as trouble:
            self.models = {}
            return trouble.state
        return LinkState.OK

    def read(self, model: int, path: str, nth: int = 0) -> Value:
        """One point of a model, scaled, in the unit that the definition gives; `nth` of several of a
        number."""
        try:
            return self._value(self._model(model, nth), path)
        except _LinkError as trouble:
            return Value(trouble.state)

    def read_all(self, model: int, paths: tuple[str, ...]) -> dict[str, Value]:
        """Several points of one model from one reading of it."""
        try:
            whole = self._model(model)
            return {path: self._value(whole, path) for path in paths}
        except _LinkError as trouble:
            return dict.fromkeys(paths, Value(trouble.state))

    def write_setting(self, key: str, value: Any) -> Written:
        """Write a setting's setpoints, then the point that puts them in force, and read both back."""
        if not on_loopback(self.host):
            return Written(LinkState.READ_ONLY)
        points = setting_points(key, self.windows)
        if points is None:
            return Written(LinkState.ABSENT)
        wanted = to_points(key, value)
        try:
            for path, number in zip(points.setpoints, wanted, strict=True):
                self._write(d.SITE_SETTINGS, path, number)
            if points.enable:
                self._write(d.SITE_SETTINGS, points.enable, 1)
            return self._read_back(key, points, wanted)
        except _LinkError as trouble:
            return Written(trouble.state, wanted)

    def write_point(self, model: int, path: str, value: float) -> Value:
        """Write one point and read it back. The value returned is what the device then holds."""
        if not on_loopback(self.host):
            return Value(LinkState.READ_ONLY)
        try:
            self._write(model, path, value)
            return self._value(self._model(model), path)
        except _LinkError as trouble:
            return Value(trouble.state)

    def close(self) -> None:
        """Let go of the connection; the next call opens a new one."""
        if self._client is not None:
            self._client.close()
            self._client = None

    # --- models ------------------------------------------------------------------------------------------
    def _scan(self) -> dict[int, FoundModel]:
        head = self._registers(d.BASE_ADDRESS, 2)
        if b"".join(word.to_bytes(2, "big") for word in head) != d.MARKER:
            raise _LinkError(LinkState.GARBAGE)
        models: dict[int, FoundModel] = {}
        self.more = {}
        address = d.BASE_ADDRESS + 2
        for _ in range(MOST_MODELS):
            number, length = self._registers(address, 2)
            if number == d.END:
                return models
            if number == 0 or address + 2 + length > 0xFFFF:
                raise _LinkError(LinkState.GARBAGE)
            model = FoundModel(number, address, length, d.known(number))
            if models.setdefault(number, model) is not model:
                self.more.setdefault(number, []).append(model)
            address += 2 + length
        raise _LinkError(LinkState.GARBAGE)

    def _model(self, number: int, nth: int = 0) -> Any:
        """A model read afresh; its header must still be what the scan found."""
        if not self.models:
            self.models = self._scan()
        where = (
            self.models.get(number) if nth == 0 else dict(enumerate(self.more.get(number, ()), 1)).get(nth)
        )
        if where is None or not where.known:
            raise _LinkError(LinkState.ABSENT)
        count = where.length + 2
        registers: list[int] = []
        while len(registers) < count:
            registers += self._registers(
                where.address + len(registers), min(MOST_REGISTERS, count - len(registers))
            )
        if registers[0] != number or registers[1] != where.length:
            self.close()
            raise _LinkError(LinkState.GARBAGE)
        try:
            whole = d.model(number, b"".join(register.to_bytes(2, "big") for register in registers))
            length = len(whole.get_mb()) // 2 - 2
        except Exception as trouble:  # the package raises many kinds for registers that fit no model
            raise _LinkError(LinkState.GARBAGE) from trouble
        if whole.error_info or length != where.length:
            raise _LinkError(LinkState.GARBAGE)
        return whole

    def _value(self, whole: Any, path: str) -> Value:
        point = d.point_of(whole, path)
        if point is None or point.value is None:
            return Value(LinkState.ABSENT)
        unit = str(point.pdef.get("units", ""))
        if isinstance(point.value, str):
            return Value(LinkState.OK, point.value, unit)
        scale = self._scale(whole, point)
        value = point.value * 10.0**scale
        if not math.isfinite(value):
            raise _LinkError(LinkState.GARBAGE)
        return Value(LinkState.OK, round(value, max(0, -scale)) if scale else float(point.value), unit)

    def _scale(self, whole: Any, point: Any) -> int:
        if not point.sf:
            return 0
        scale = point.sf if isinstance(point.sf, int) else whole.points[point.sf].value
        if scale is None or not -MOST_SCALE <= scale <= MOST_SCALE:
            raise _LinkError(LinkState.GARBAGE)
        return int(scale)

    def _write(self, number: int, path: str, value: float) -> None:
        whole = self._model(number)
        for name, point, offset in d.placed(whole):
            if name == path:
                scaled = round(value / 10.0 ** self._scale(whole, point))
                try:
                    raw = point.info.to_data(scaled, int(point.len) * 2)
                except Exception as trouble:  # the package raises struct's error for a number too large
                    raise _LinkError(LinkState.REFUSED) from trouble
                address = self.models[number].address + offset
                words = [int.from_bytes(raw[i : i + 2], "big") for i in range(0, len(raw), 2)]
                self._send(partial(_write_registers, address=address, words=words, unit=self.unit))
                return
        raise _LinkError(LinkState.ABSENT)

    def _read_back(self, key: str, points: SettingPoints, wanted: tuple[float, ...]) -> Written:
        whole = self._model(d.SITE_SETTINGS)
        values = [self._value(whole, path) for path in points.setpoints]
        if not all(answer.ok and isinstance(answer.value, float) for answer in values):
            return Written(LinkState.ABSENT, wanted)
        held = tuple(float(answer.value) for answer in values if isinstance(answer.value, float))
        near = (
            CLOCK_TOLERANCE_S
            if key == "clock"
            else 0.5 * 10.0 ** self._scale(whole, d.point_of(whole, points.setpoints[0]))
        )
        taken = tuple(
            asked if abs(asked - kept) <= near else kept for asked, kept in zip(wanted, held, strict=True)
        )
        enabled = None
        if points.enable:
            state = self._value(whole, points.enable)
            enabled = state.ok and state.value == 1
        return Written(LinkState.OK, wanted, taken, enabled)

    # --- the wire ----------------------------------------------------------------------------------------
    def _registers(self, address: int, count: int) -> list[int]:
        answer = self._send(
            lambda client: client.read_holding_registers(address, count=count, device_id=self.unit)
        )
        registers = list(answer.registers)
        if len(registers) != count:
            self.close()
            raise _LinkError(LinkState.GARBAGE)
        return registers

    def _send(self, request: Callable[[Any], Any]) -> Any:
        from pymodbus.client import ModbusTcpClient
        from pymodbus.exceptions import ConnectionException, ModbusIOException

        if self._client is None:
            logging.getLogger("pymodbus").setLevel(logging.CRITICAL)  # a failure is a state here, told by us
            client: Any = ModbusTcpClient(self.host, port=self.port, timeout=self.timeout_s, retries=0)
            if not client.connect():
                client.close()
                raise _LinkError(LinkState.NO_CONNECTION)
            self._client = client
        try:
            answer = request(self._client)
        except ConnectionException as trouble:
            self.close()
            raise _LinkError(LinkState.LOST) from trouble
        except ModbusIOException as trouble:
            self.close()
            raise _LinkError(LinkState.TIMEOUT) from trouble
        except Exception as trouble:  # a decoder met bytes that are no answer
            self.close()
            raise _LinkError(LinkState.GARBAGE) from trouble
        if answer is None:
            self.close()
            raise _LinkError(LinkState.TIMEOUT)
        if answer.isError():
            raise _LinkError(LinkState.REFUSED)
        return answer
