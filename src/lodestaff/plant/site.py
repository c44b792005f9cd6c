"""The simulated site: what was built from a job's topology, step by step on a clock of its own."""

import math
import threading
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import numpy as np

from lodestaff.energy.calendar import daylight_saving, step_of
from lodestaff.energy.mismatch import module_points
from lodestaff.job import Circuit, Job
from lodestaff.plant.array import (
    CELL_ABOVE_BACK_K,
    LAG_S,
    RISE_K,
    BuiltString,
    Curve,
    string_curve,
    tracker_point,
)
from lodestaff.plant.faults import Fault
from lodestaff.plant.settings import HALF_DAY_S, HELD_AS, WORDS, UnitSettings
from lodestaff.plant.sky import Sky
from lodestaff.plant.timetables import Timetables
from lodestaff.plant.unit import Battery, PlantUnit
from lodestaff.quantities.errors import JobError
from lodestaff.topology import Answer, State, answer, build, islands

STEP_S = 1.0
METER_CLASS, CT_CLASS = 0.01, 0.01
NOISE_KW = 0.004


@dataclass(frozen=True)
class PlantStart:
    """How a simulated site begins: a local standard time, a sky, a state of charge, a seed, the faults in
    it."""

    at: datetime = datetime(2026, 6, 18, 12, 0)
    clearness: float = 0.95
    soc: float = 0.55
    seed: int = 1
    faults: tuple[Fault, ...] = ()
    timetables: bool = False  # circuits run by their timetables; else only by hand


class Plant:
    """Loads, array, batteries, units, changeover, meter. Every public method may be called from any
    thread."""

    def __init__(self, job: Job, start: PlantStart = PlantStart()) -> None:
        self.job, self.now = job, start.at
        self.faults = frozenset(fault.name for fault in start.faults)
        self.topology = build(job)
        self.lock = threading.RLock()
        self.ticks = 0
        self.hands: dict[str, str] = {}
        self.grid_present = True
        self.timetables = Timetables(job, start.seed) if start.timetables else None
        self.running: dict[str, bool] = {circuit.id: False for circuit in job.circuits}
        self._random = np.random.default_rng([start.seed, 2])
        spread = self._random.uniform(-1, 1, 2)
        self.meter_gain = 1 + METER_CLASS * float(spread[0]) * 0.7 + CT_CLASS * float(spread[1]) * 0.7
        self.ct_sign = -1.0 if "ct-reversed" in self.faults else 1.0
        self.sky = Sky(job, start.clearness, start.seed)
        self.strings = self._built_strings()
        self.units = {unit.id: self._unit(unit.id, start.soc) for unit in job.units}
        self.poa_w_m2 = self.sky.poa_w_m2(job.faces, self.now)
        air = self.sky.air_c(job, self.now)
        self.back_c = {
            face.id: air + RISE_K[face.mounting] * self.poa_w_m2[face.id] / 1000 for face in job.faces
        }  # the site has stood in this sky
        self.meter_kw, self.site_kw, self.imported_kwh, self.exported_kwh = 0.0, 0.0, 0.0, 0.0
        self._curves: dict[str, Curve] = {}
        self._curves_at = -1e9
        self._answer: tuple[object, Answer] | None = None
        self._follow_light(0.0)
        self._follow_units(0.0)

    def _built_strings(self) -> dict[str, BuiltString]:
        job, built = self.job, {}
        wired = [string for string in job.strings if job.modules_in(string.id)]
        for string in wired:
            parts = [
                (face.id, module_points(job.sheets.modules[face.module]), n)
                for face, n in job.modules_in(string.id)
            ]
            if "module-missing" in self.faults and string is wired[-1]:
                parts[-1] = (*parts[-1][:2], parts[-1][2] - 1)
            built[string.id] = BuiltString(string.id, f"{string.unit}/{string.tracker}", tuple(parts))
        return built

    def _unit(self, unit_id: str, soc: float) -> PlantUnit:
        job = self.job
        unit = job.unit(unit_id)
        sheet, bank = job.sheet_of(unit), job.bank_of(unit)
        battery = None
        if bank is not None:
            cells = job.sheets.batteries[bank.sheet]
            capacity = cells.module_kwh * bank.modules * bank.state_of_health
            series = cells.modules_in_series(bank.modules) or 1
            battery = Battery(cells, bank.modules, capacity, soc * capacity, series=series)
        fresh = UnitSettings(charge_kw=sheet.charge_kw, discharge_kw=sheet.discharge_kw)
        return PlantUnit(unit_id, sheet, battery, fresh)

    # --- hands -----------------------------------------------------------------------------------------
    def switch(self, part: str, position: str) -> None:
        """Set a switch. Raises JobError where there is no such part or position."""
        choices = {switch.id: switch.positions for switch in self.topology.switches()}
        if part not in choices or position not in choices[part]:
            words = "; ".join(f"{name}: {', '.join(positions)}" for name, positions in choices.items())
            raise JobError(f"no switch and position {part} {position}", "plant", words)
        with self.lock:
            self.hands[part] = position
            self._follow_units(0.0)

    def set_grid(self, present: bool) -> None:
        """The operator's supply comes or goes."""
        with self.lock:
            self.grid_present = present
            self._follow_units(0.0)

    def run_circuit(self, circuit: str, on: bool) -> None:
        """Switch a circuit's load on or off. Raises JobError for an unknown one."""
        if circuit not in self.running:
            raise JobError(f"no circuit {circuit!r}", "plant", f"choose from {', '.join(self.running)}")
        with self.lock:
            self.running[circuit] = on

    def set_time(self, at: datetime) -> None:
        """Move the site's clock; what it holds stays."""
        with self.lock:
            self.now = at
            self._curves_at = -1e9
            self._follow_light(0.0)

    # --- time ------------------------------------------------------------------------------------------
    def advance(self, seconds: float) -> None:
        """Let the site run for a time, a second a step."""
        with self.lock:
            left = seconds
            while left > 1e-9:
                step = min(STEP_S, left)
                self.now += timedelta(seconds=step)
                if self.timetables is not None:
                    self.timetables.follow(self.now, self.running)
                self._follow_light(step)
                self._follow_units(step)
                left -= step
            self.ticks += 1

    def _follow_light(self, seconds: float) -> None:
        job, air = self.job, self.sky.air_c(self.job, self.now)
        self.poa_w_m2 = self.sky.poa_w_m2(job.faces, self.now)
        for face in job.faces:
            settled = air + RISE_K[face.mounting] * self.poa_w_m2[face.id] / 1000
            self.back_c[face.id] += (settled - self.back_c[face.id]) * (1 - math.exp(-seconds / LAG_S))
        if abs(self.now.timestamp() - self._curves_at) >= 5:
            self._curves_at = self.now.timestamp()
            cell = {
                face: back + CELL_ABOVE_BACK_K * self.poa_w_m2[face] / 1000
                for face, back in self.back_c.items()
            }
            self._curves = {
                name: string_curve(one, self.poa_w_m2, cell) for name, one in self.strings.items()
            }

    def curve_of(self, string: str) -> Curve:
        """The present curve of a string."""
        with self.lock:
            return self._curves[string]

    def module_voc_v(self, string: str, face: str) -> float:
        """Open-circuit voltage of one module of a string on a face, at the present light."""
        with self.lock:
            built = self.strings[string]
            alone = replace(
                built, parts=tuple((name, points, 1) for name, points, _ in built.parts if name == face)
            )
            cell = {
                name: back + CELL_ABOVE_BACK_K * self.poa_w_m2[name] / 1000
                for name, back in self.back_c.items()
            }
            return string_curve(alone, self.poa_w_m2, cell).voc_v

    def answer(self) -> Answer:
        """What is live and fed in the present position of every switch."""
        key = (tuple(sorted(self.hands.items())), self.grid_present)
        if self._answer is None or self._answer[0] != key:
            daylight = max(self.poa_w_m2.values(), default=0.0) > 5
            state = State("as switched", key[0], self.grid_present, daylight)
            self._answer = (key, answer(self.topology, state))
        return self._answer[1]

    def _follow_units(self, seconds: float) -> None:
        found = self.answer()
        boards = {
            name: island.forming[0] for island in islands(self.topology, found) for name in island.circuits
        }
        behind = dict.fromkeys(self.units, 0.0)
        on_grid = 0.0
        for circuit in self.job.circuits:
            sources = found.fed[circuit.id]
            if not self.running[circuit.id] or not sources:
                continue
            if "grid" in sources:
                on_grid += self._draws_kw(circuit)
            elif circuit.id in boards:
                behind[boards[circuit.id]] += self._draws_kw(circuit)
        for unit in self.units.values():
            mode = found.unit_modes[unit.id]
            unit.mode = (
                mode if mode in ("grid", "island") else "off"
            )  # what follows a generator or island rests here
            unit.trackers = self._tracker_points(unit, found)
            best = sum(v * a for v, a in unit.trackers.values()) / 1000
            unit.pv_there_kw = min(best * unit.sheet.eta_mppt, unit.sheet.max_dc_kw)
            minute = self._device_minute(unit)
            if seconds or unit.mode == "off":
                unit.run(seconds, self.meter_kw, behind[unit.id], minute)
        self._meter(on_grid, found, seconds)

    def supply_v(self) -> float:
        """Voltage at the site: the supply's less its own drop, an island's nominal, 0 where neither is."""
        supply, nominal = self.job.site.supply, self.job.pack.value("nominal_v").value
        if not self.grid_present:
            return nominal if any(unit.mode == "island" for unit in self.units.values()) else 0.0
        at_rest = supply.voltage_v.value or nominal
        return at_rest - (supply.ze_ohm.value or 0.0) * 1000 * self.site_kw / at_rest

    def _draws_kw(self, circuit: Circuit) -> float:
        """What a running circuit takes: heaters by the square of the voltage, others their power."""
        by_voltage = (
            (self.supply_v() / self.job.pack.value("nominal_v").value) ** 2
            if circuit.kind == "heating"
            else 1.0
        )
        return circuit.running_w / 1000 * by_voltage

    def taken_kw(self) -> float:
        """What all circuits that run and are fed take."""
        fed = self.answer().fed
        return sum(self._draws_kw(c) for c in self.job.circuits if self.running[c.id] and fed[c.id])

    def _tracker_points(self, unit: PlantUnit, found: Answer) -> dict[str, tuple[float, float]]:
        points = {}
        for tracker in unit.sheet.trackers:
            on = found.positions.get(self.topology.array_isolator(unit.id, tracker.name)) == "closed"
            curves = [
                self._curves[s.id] for s in self.strings.values() if s.tracker == f"{unit.id}/{tracker.name}"
            ]
            points[tracker.name] = tracker_point(curves, tracker) if on else (0.0, 0.0)
        return points

    def _device_minute(self, unit: PlantUnit) -> float:
        shown = self.device_clock(unit.id)
        return shown.hour * 60 + shown.minute + shown.second / 60

    def _meter(self, on_grid_kw: float, found: Answer, seconds: float) -> None:
        """The site's meter: what passes the tails, and what the CT makes of it."""
        feeding = sum(unit.ac_kw for unit in self.units.values() if unit.mode == "grid")
        passes = found.live.get("cutout.load>meter.line", frozenset())
        self.site_kw = (
            on_grid_kw - feeding
            if "grid" in passes and found.positions.get("main-isolator") == "closed"
            else 0.0
        )
        noise = NOISE_KW * float(self._random.standard_normal())
        self.meter_kw = self.ct_sign * self.site_kw * self.meter_gain + noise
        energy = self.site_kw * seconds / 3600
        self.imported_kwh += max(energy, 0.0)
        self.exported_kwh += max(-energy, 0.0)

    # --- what the units hold ------------------------------------------------------------------------------
    def right_clock(self) -> datetime:
        """The time by the clock that the units are to follow: standard, or the household's."""
        job = self.job
        if job.limits.device_clock == "standard":
            return self.now
        day = min(self.now.day, 28) if self.now.month == 2 else self.now.day
        saving = daylight_saving(job.time_zone, job.site.utc_offset_h)
        ahead = int(saving[step_of(self.now.month, day, self.now.hour)])
        return self.now + timedelta(hours=ahead)

    def device_clock(self, unit: str) -> datetime:
        """What a unit's clock shows."""
        return self.right_clock() + timedelta(seconds=self.units[unit].settings.clock_error_s)

    def set_device_clock(self, unit: str, shown: datetime) -> None:
        """Set a unit's clock, with whatever it makes of it."""
        with self.lock:
            error = (shown - self.right_clock()).total_seconds()
            self.units[unit].settings.clock_error_s = error + (
                HALF_DAY_S if "clock-half-day" in self.faults else 0
            )

    def set_export_kw(self, unit: str, limit_kw: float) -> None:
        """Set a unit's export limit, with whatever it makes of the unit."""
        with self.lock:
            self.units[unit].settings.export_kw = limit_kw * (10 if "export-unit" in self.faults else 1)

    def set_by_hand(self, unit: str, key: str, value: str | float) -> None:
        """What a person sets on the unit's own panel. Raises JobError for a setting it has not."""
        with self.lock:
            settings = self.units[unit].settings
            if key == "export_kw":
                self.set_export_kw(unit, float(value))
                settings.export_enabled = True
            elif key in HELD_AS:
                setattr(settings, HELD_AS[key], value if key in WORDS else float(value))
                settings.import_enabled = settings.import_enabled or key == "import_kw"
            else:
                raise JobError(
                    f"no setting {key!r} on the panel of {unit}", "plant", f"choose from {', '.join(HELD_AS)}"
                )
