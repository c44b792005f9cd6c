"""What a step's reading is held against: a rule gives the expected value for the conditions measured beside
it."""

import math
from dataclasses import dataclass, field, replace
from typing import Literal, Protocol, runtime_checkable

from lodestaff.catalogue import ModuleSheet
from lodestaff.commissioning.clipping import Clip
from lodestaff.commissioning.expect import DC_DERATE, Conditions, Expected, ac_power_w, string_isc, string_voc
from lodestaff.quantities.convention import plain

Asked = Literal[
    "poa_w_m2",
    "module_c",
    "voltage_v",
    "load_kw",
    "poa_2_w_m2",
    "module_2_c",
    "out_from_kwh",
    "in_from_kwh",
    "in_to_kwh",
    "sun_kwh",
    "sun_stored_kwh",
    "stored_kwh",
]
ASKED_WORDS: dict[Asked, str] = {
    "poa_w_m2": "irradiance on the plane",
    "module_c": "module temperature",
    "poa_2_w_m2": "irradiance on the second plane",
    "module_2_c": "its modules' temperature",
    "voltage_v": "the supply's voltage",
    "load_kw": "the known load, by clamp meter",
    "out_from_kwh": "the register of what comes out, as it was",
    "in_from_kwh": "the register of what goes in, as it was",
    "in_to_kwh": "the register of what goes in, as it is",
    "sun_kwh": "the sun's energy meanwhile, by the unit",
    "sun_stored_kwh": "of it into the battery, by the unit",
    "stored_kwh": "all into the battery, by the unit",
}
STRING_PCT, POWER_PCT, LOAD_PCT = 5.0, 10.0, 5.0  # common practice
DIM_POWER_PCT = 25.0  # modules give less than in proportion in little light; common practice
BESIDE_PCT = 4.0  # strings against each other, module for module, read one after the other; common practice
COLD_C, HOT_C = -10.0, 70.0  # modules in daylight, where nobody measured them; common practice
DIM_W_M2 = 50.0  # the least light in which one begins a string test; common practice
LOAD_ABS_KW = 0.1
RESISTIVE_PCT = 12.0  # a heater against its rating at the measured voltage, others being on; common practice
LEAST_SUN_W_M2 = 400.0  # below it a reading proves little; common practice
FALL_FROM_W_M2 = 600.0  # above it the fall of voltage with light is inside the tolerance


class Rule(Protocol):
    """Gives the expected value; `asks` names the conditions it needs; `weak` says why a pass would prove
    little."""

    @property
    def asks(self) -> tuple[Asked, ...]: ...

    @property
    def unit(self) -> str: ...

    def expected(self, conditions: Conditions) -> Expected | None: ...

    def weak(self, value: float, conditions: Conditions) -> str: ...


@runtime_checkable
class Telling(Protocol):
    """A rule that says more of a reading than whether it passes."""

    def tells(self, value: float, conditions: Conditions) -> str: ...


@runtime_checkable
class Unmeasured(Protocol):
    """A rule that can be held to less, where the light was not measured: a weaker proof, said as such."""

    def without(self) -> Expected: ...


@dataclass(frozen=True)
class Confirmed:
    """A person says that it was done and found right."""

    asks: tuple[Asked, ...] = ()
    unit: str = ""

    def expected(self, conditions: Conditions) -> Expected | None:
        return None

    def weak(self, value: float, conditions: Conditions) -> str:
        return ""


@dataclass(frozen=True)
class Between:
    """Bounds that don't hang on conditions. `reach` is the least that proves anything."""

    value: float
    unit: str
    low: float | None
    high: float | None
    source: str
    reach: float | None = None
    asks: tuple[Asked, ...] = ()

    def expected(self, conditions: Conditions) -> Expected:
        return Expected(self.value, self.unit, self.low, self.high, self.source)

    def weak(self, value: float, conditions: Conditions) -> str:
        if self.reach is not None and value < self.reach:
            return f"the reading stayed under {plain(self.reach)} {self.unit}: the limit was not reached"
        return ""


@dataclass(frozen=True)
class StringVolts:
    """Open-circuit voltage of a string in series.

    `beside` names the steps of the other strings of the day with their volts at standard conditions and what
    they are called: without a sun meter a string is held against them. `others` are what other strings would
    show here, by name.
    """

    parts: tuple[tuple[ModuleSheet, int], ...]
    beside: tuple[tuple[str, float, str], ...] = field(default=(), compare=False)
    others: tuple[tuple[str, tuple[tuple[ModuleSheet, int], ...]], ...] = field(default=(), compare=False)
    at_rest_v: float = 0.0  # of optimisers that were not released, beside the modules without one
    asks: tuple[Asked, ...] = ("poa_w_m2", "module_c")
    unit: str = "V"

    @property
    def voc_stc_v(self) -> float:
        return sum(module.voc_v * count for module, count in self.parts)

    def without(self) -> Expected:
        """By the count of its modules alone, between cold and hot modules, in any light worth testing in."""
        cold, hot = (
            sum(string_voc(m, n, Conditions(1000.0, at)) for m, n in self.parts) for at in (COLD_C, HOT_C)
        )
        fall = sum(count * light_fall_v(module.voc_v, DIM_W_M2) for module, count in self.parts)
        source = "count of modules, −10 to 70 °C, any light; common practice"
        rest = self.at_rest_v
        return Expected((cold + hot) / 2 + rest, "V", hot - fall + rest, cold + rest, source)

    def expected(self, conditions: Conditions) -> Expected:
        value = sum(string_voc(module, count, conditions) for module, count in self.parts) + self.at_rest_v
        expectation = _within(value, "V", STRING_PCT, "IEC 62446-1 string tests; 5 % common practice")
        poa_w_m2, _ = conditions.sun()
        fall = sum(count * light_fall_v(module.voc_v, poa_w_m2) for module, count in self.parts)
        if fall == 0 or expectation.low is None:
            return expectation
        source = f"{expectation.source}; {plain(fall, 0)} V more below, for little light"
        return replace(expectation, low=expectation.low - fall, source=source)

    def weak(self, value: float, conditions: Conditions) -> str:
        return _dim(conditions, LEAST_SUN_W_M2)


@dataclass(frozen=True)
class StringAmps:
    """Short-circuit current of a string: its weakest module's. `beside` as of the volts, on the same face."""

    module: ModuleSheet
    beside: tuple[tuple[str, float, str], ...] = field(default=(), compare=False)
    asks: tuple[Asked, ...] = ("poa_w_m2", "module_c")
    unit: str = "A"

    def without(self) -> Expected:
        """Some current, and no more than the brightest hour gives."""
        most = 1.3 * self.module.isc_a
        return Expected(
            most / 2, "A", 0.03 * self.module.isc_a, most, "daylight, not measured; common practice"
        )

    def expected(self, conditions: Conditions) -> Expected:
        return _within(
            string_isc(self.module, conditions),
            "A",
            STRING_PCT,
            "IEC 62446-1 string tests; 5 % common practice",
        )

    def weak(self, value: float, conditions: Conditions) -> str:
        return _dim(conditions, LEAST_SUN_W_M2)


@dataclass(frozen=True)
class SunPower:
    """Power of modules on one face, or on two that are read apart, none held back. `eta` is what comes of it
    behind an inverter, 1 before one."""

    p_stc_w: float
    gamma_pct_per_k: float
    most_kw: float
    p_2_stc_w: float = 0.0  # of the modules on a second face
    eta: float = 1.0
    asks: tuple[Asked, ...] = ("poa_w_m2", "module_c")
    unit: str = "kW"
    clip: Clip | None = None  # where strings in parallel may work at more than their tracker takes

    def expected(self, conditions: Conditions) -> Expected:
        watts = self._watts(self.p_stc_w, conditions)
        if self.p_2_stc_w:
            watts += self._watts(self.p_2_stc_w, Conditions(conditions.poa_2_w_m2, conditions.module_2_c))
        source = "IEC 62446-1 performance check; 10 % common practice"
        expectation = _within(min(watts / 1000, self.most_kw), "kW", POWER_PCT, source)
        if self.clip is not None:
            expectation = self.clip.held(expectation, conditions)
        if self.weak(0.0, conditions) and expectation.low is not None:
            low = min(expectation.low, (1 - DIM_POWER_PCT / 100) * expectation.value)
            return replace(expectation, low=low, source=f"{source}, 25 % below in little light")
        return expectation

    def _watts(self, p_stc_w: float, light: Conditions) -> float:
        gamma = self.gamma_pct_per_k
        return ac_power_w(p_stc_w, gamma, light, derate=DC_DERATE, eta=self.eta, rated_w=math.inf)

    def without(self) -> Expected:
        """Some power, and no more than the brightest hour gives."""
        most = min(1.2 * self.eta * (self.p_stc_w + self.p_2_stc_w) / 1000, self.most_kw)
        return Expected(most / 2, "kW", 0.02 * most, most, "daylight, not measured; common practice")

    def weak(self, value: float, conditions: Conditions) -> str:
        return _dim(conditions, LEAST_SUN_W_M2)


@dataclass(frozen=True)
class LoadSeen:
    """The meter's import while nothing feeds and a known load is on.

    `heater_kw` is a heater's rating at `nominal_v`: it draws by the square of the voltage, so that the clamp
    meter can be doubted too; None for a load that is no heater.
    """

    heater_kw: float | None = None
    nominal_v: float = 230.0
    asks: tuple[Asked, ...] = ("voltage_v", "load_kw")
    unit: str = "kW"

    def expected(self, conditions: Conditions) -> Expected | None:
        if conditions.load_kw is None:
            return None
        room = conditions.load_kw * LOAD_PCT / 100 + LOAD_ABS_KW
        source = "import is above 0; clamp meter and meter class, common practice"
        return Expected(
            conditions.load_kw, "kW", conditions.load_kw - room, conditions.load_kw + room, source
        )

    def weak(self, value: float, conditions: Conditions) -> str:
        load = conditions.load_kw or 0.0
        if load < 1:
            return "the known load is under 1 kW"
        if self.heater_kw is not None and conditions.voltage_v is not None:
            draws = self.heater_kw * (conditions.voltage_v / self.nominal_v) ** 2
            if load < draws * (1 - RESISTIVE_PCT / 100):
                return (
                    f"the clamp meter shows less than the {plain(draws, 2)} kW that the heater draws "
                    "at this voltage"
                )
        return ""


@dataclass(frozen=True)
class LoadUnseen:
    """The meter while a load runs that its transformer doesn't see: no more than what passes there."""

    asks: tuple[Asked, ...] = ("load_kw",)
    unit: str = "kW"

    def expected(self, conditions: Conditions) -> Expected | None:
        if conditions.load_kw is None:
            return None
        room = conditions.load_kw * LOAD_PCT / 100 + LOAD_ABS_KW
        source = "what passes its own conductor, by clamp meter; common practice"
        return Expected(
            conditions.load_kw, "kW", conditions.load_kw - room, conditions.load_kw + room, source
        )

    def weak(self, value: float, conditions: Conditions) -> str:
        return ""


@dataclass(frozen=True)
class ShareOfLoad:
    """A current that ought not to be there, while a known load runs: a share of the load's own."""

    share: float
    least_a: float
    volts: float
    source: str
    asks: tuple[Asked, ...] = ("load_kw",)
    unit: str = "A"

    def expected(self, conditions: Conditions) -> Expected | None:
        if conditions.load_kw is None:
            return None
        most = max(self.least_a, self.share * abs(conditions.load_kw) * 1000 / self.volts)
        return Expected(0.0, "A", None, most, self.source)

    def weak(self, value: float, conditions: Conditions) -> str:
        return "the known load is under 0.5 kW" if (conditions.load_kw or 0.0) < 0.5 else ""


@dataclass(frozen=True)
class SettingIs:
    """A setting read back, number by number in the device's own units."""

    key: str
    wanted: tuple[float, ...]
    near: float
    unit: str
    asks: tuple[Asked, ...] = ()

    def expected(self, conditions: Conditions) -> Expected:
        first = self.wanted[0]
        return Expected(
            first, self.unit, first - self.near, first + self.near, "settings sheet; read back and equal"
        )

    def weak(self, value: float, conditions: Conditions) -> str:
        return ""

    def holds(self, numbers: tuple[float, ...]) -> bool:
        """Whether the device holds what the sheet says."""
        return len(numbers) == len(self.wanted) and all(
            abs(a - b) <= self.near for a, b in zip(numbers, self.wanted, strict=True)
        )


@dataclass(frozen=True)
class Named:
    """What stands on a type plate: the design's name of the part, and what else the job knows, by id, with
    the paths at which the design says which it is."""

    name: str
    paths: tuple[str, ...]
    others: tuple[tuple[str, str], ...] = ()
    asks: tuple[Asked, ...] = ()
    unit: str = ""

    def expected(self, conditions: Conditions) -> Expected | None:
        return None

    def weak(self, value: float, conditions: Conditions) -> str:
        return ""

    @staticmethod
    def alike(name: str, said: str) -> bool:
        """Whether a plate says a sheet's name, whole or up to its comma, whatever case, spaces and points."""
        whole, short, read = (
            "".join(sign for sign in text.casefold() if sign.isalnum())
            for text in (name, name.partition(",")[0], said)
        )
        return bool(read) and read in (whole, short)


def light_fall_v(voc_stc_v: float, poa_w_m2: float) -> float:
    """By how much a module's open-circuit voltage may fall below what temperature alone makes of it, V.

    Cells x ideality x kT/q x ln(600 / G) below 600 W/m², 0 above. Ideality 1.3 at most, 0.66 V a cell.
    Derived.
    """
    if poa_w_m2 >= FALL_FROM_W_M2:
        return 0.0
    return voc_stc_v / 0.66 * 1.3 * 0.0257 * math.log(FALL_FROM_W_M2 / max(poa_w_m2, 1.0))


def _within(value: float, unit: str, percent: float, source: str) -> Expected:
    room = abs(value) * percent / 100
    return Expected(value, unit, low=value - room, high=value + room, source=source, tolerance_pct=percent)


def _dim(conditions: Conditions, least_w_m2: float) -> str:
    if conditions.poa_w_m2 is not None and conditions.poa_w_m2 < least_w_m2:
        return f"only {plain(conditions.poa_w_m2, 0)} W/m² on the plane, under {plain(least_w_m2, 0)}"
    return ""
