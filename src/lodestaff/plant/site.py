"""The simulated site: what was built from a job's topology, step by step on a clock of its own."""

from __future__ import annotations

import math
import threading
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from lodestaff.energy.calendar import daylight_saving, step_of
from lodestaff.job import Job
from lodestaff.job.plan import Generator
from lodestaff.plant import making
from lodestaff.plant.array import Curve, string_curve, tracker_point
from lodestaff.plant.faults import Fault, built_with
from lodestaff.plant.generators import PlantGenerator
from lodestaff.plant.light import Light
from lodestaff.plant.meters import Meters
from lodestaff.plant.running import Running
from lodestaff.plant.settings import ELSEWHERE, HALF_DAY_S, HELD_AS, WORDS
from lodestaff.plant.sky import Sky
from lodestaff.plant.timetables import Timetables
from lodestaff.plant.unit import PlantUnit
from lodestaff.quantities.errors import JobError
from lodestaff.topology import Answer, State, answer, build
from lodestaff.topology.model import Terminal

STEP_S = 1.0
FULL_SHARE, EMPTIER_SHARE = 0.97, 0.9  # of its top, from which a battery lets surplus loads on, and off
SPARE_KW = 0.3  # export from which they come on, import from which they go off
HOUR_S = 3600.0


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
    """Loads, array, batteries, units, changeover, meters, generators. Every public method may be called from
    any thread."""

    def __init__(self, job: Job, start: PlantStart = PlantStart()) -> None:
        self.job, self.now = job, start.at
        self.faults = frozenset(fault.name for fault in start.faults)
        self.drawn = build(job)
        self.built = built_with(job, self.drawn, self.faults)
        self.topology = self.built.topology
        self.lock = threading.RLock()
        self.ticks = 0
        self.hands: dict[str, str] = {}
        self.grid_present = True
        self.surplus = False
        self.timetables = Timetables(job, start.seed) if start.timetables else None
        self.running: dict[str, bool] = {circuit.id: False for circuit in job.circuits}
        self.plugged: dict[str, tuple[Terminal, str]] = {}
        self.plugged_kw: dict[str, float] = {}
        self.told_a: dict[str, float] = {}  # by car charger
        self._random = np.random.default_rng([start.seed, 2])
        self.meters = Meters(self.built, self._random)
        self.sky = Sky(job, start.clearness, start.seed)
        self.strings = making.strings(job, self.faults)
        self.released: set[str] = set()  # units whose optimisers were released
        self.units: dict[str, PlantUnit] = {
            unit.id: making.unit(job, unit.id, start.soc, self.faults) for unit in job.units
        }
        self.generators = {
            part.id: PlantGenerator(part, pair_open="start-pair-open" in self.faults)
            for part in job.parts
            if isinstance(part, Generator) and part.id in self.topology.parts
        }
        self.light = Light(job, self.strings, self.now, self.sky)
        self.imported_kwh, self.exported_kwh = 0.0, 0.0
        self._answers: dict[object, Answer] = {}
        self.wires = Running(self)
        self._follow_units(0.0)

    # --- what is seen ------------------------------------------------------------------------------------
    @property
    def poa_w_m2(self) -> dict[str, float]:
        return self.light.poa_w_m2

    @property
    def back_c(self) -> dict[str, float]:
        return self.light.back_c

    @property
    def site_kw(self) -> float:
        """What passes the tails, import above 0."""
        return self.wires.site_kw

    @property
    def meter_gain(self) -> float:
        return self.meters.gain

    @property
    def meter_kw(self) -> float:
        """What the first transformer on the supply shows; the tails themselves where none sits there."""
        first = next((ct for ct in self.topology.cts if ct.watches == "whole site"), None)
        shown = self.meters.sum_kw(first.id) if first is not None else self.site_kw
        return 0.0 if shown is None else shown

    def supply_v(self) -> float:
        """Voltage at the site: at the main isolator, else where an island is made; 0 where neither is."""
        return self.wires.supply_v()

    def taken_kw(self) -> float:
        """What all circuits that run and are fed take."""
        return self.wires.taken_kw()

    # --- hands -----------------------------------------------------------------------------------------
    def switch(self, part: str, position: str) -> None:
        """Set a switch. Raises JobError where there is no such part or position."""
        choices = {switch.id: switch.positions for switch in self.topology.switches()}
        if part not in choices or position not in choices[part]:
            words = "; ".join(f"{name}: {', '.join(positions)}" for name, positions in choices.items())
            raise JobError(f"no switch and position {part} {position}", "plant", words)
        with self.lock:
            if part in self.generators:
                self.generators[part].by_hand = position == "running"
                self.generators[part].warm_s = math.inf if position == "running" else 0.0
                self.hands[part] = self.generators[part].position
            else:
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

    def tell_charger(self, circuit: str, amps: float | None) -> None:
        """Tell the vehicle on a charger how much it may take on each leg, A; None: as much as it can."""
        with self.lock:
            self.told_a.pop(circuit, None)
            if amps is not None:
                self.told_a[circuit] = amps

    def plug(self, name: str, at: Terminal, leg: str, kw: float) -> None:
        """Plug a load into a socket of a board on a leg."""
        with self.lock:
            self.plugged[name], self.plugged_kw[name] = (at, leg), kw

    def unplug(self, name: str) -> None:
        """Take a plugged load out again."""
        with self.lock:
            del self.plugged[name], self.plugged_kw[name]

    def pull_meter(self, ct: str, out: bool) -> None:
        """A transformer's lead pulled out of what it serves, or put back."""
        with self.lock:
            (self.meters.unplugged.add if out else self.meters.unplugged.discard)(ct)

    def lock_generator(self, generator: str, locked: bool) -> None:
        """The generator's start locked out, or freed."""
        with self.lock:
            self.generators[generator].locked = locked
            self._follow_units(0.0)

    def release(self, unit: str) -> None:
        """A unit's optimisers told to give their full volts, those that were paired."""
        with self.lock:
            self.released.add(unit)

    def set_time(self, at: datetime) -> None:
        """Move the site's clock; what it holds stays."""
        with self.lock:
            self.now = at
            self.light.anew()
            self.light.follow(0.0, at)

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
                self.light.follow(step, self.now)
                self._follow_units(step)
                left -= step
            self.ticks += 1

    def answer(self) -> Answer:
        """What is live and fed in the present position of every switch."""
        key = (tuple(sorted(self.hands.items())), self.grid_present, self.surplus, self.light.any)
        if key not in self._answers:
            state = State("as switched", key[0], self.grid_present, key[3], surplus=self.surplus)
            self._answers[key] = answer(self.topology, state)
        return self._answers[key]

    def _follow_units(self, seconds: float) -> None:
        for name, generator in self.generators.items():
            generator.follow(seconds, self.units.get(generator.part.started_by))
            self.hands[name] = generator.position
        outcome = self.answer()
        for unit in self.units.values():
            unit.mode = outcome.unit_modes[unit.id]
            self._sun(unit, outcome)
        if seconds:
            self.wires.step(outcome, seconds)
            self.surplus = self._to_spare()
        else:
            self.wires.look(outcome)
        energy = self.site_kw * seconds / HOUR_S
        self.imported_kwh += max(energy, 0.0)
        self.exported_kwh += max(-energy, 0.0)

    def _to_spare(self) -> bool:
        """Whether surplus loads are called for: batteries full or export flowing, until neither nearly is."""
        shares = [u.battery.soc / u.battery.sheet.top_soc for u in self.units.values() if u.battery]
        full = bool(shares) and min(shares) >= (EMPTIER_SHARE if self.surplus else FULL_SHARE)
        fed = self.job.mains.grid and self.hands.get("main-isolator") != "open" and self.grid_present
        return full or (fed and self.site_kw < (SPARE_KW if self.surplus else -SPARE_KW))

    # --- sun ---------------------------------------------------------------------------------------------
    def curve_of(self, string: str) -> Curve:
        """The present curve of a string."""
        with self.lock:
            return self.light.curves[string]

    def module_voc_v(self, string: str, face: str) -> float:
        """Open-circuit voltage of one module of a string on a face, at the present light."""
        with self.lock:
            alone = making.alone(self.strings[string], face)
            return string_curve(alone, self.poa_w_m2, self.light.cell_c()).voc_v

    def safe_v(self, string: str) -> float | None:
        """The volts at rest of each optimiser of a string; None where its modules lie at their full volts."""
        decided = next(each for each in self.job.strings if each.id == string)
        if not self.strings[string].freed or decided.unit in self.released:
            return None
        sheet = self.job.sheets.optimisers.get(decided.optimiser)
        everywhere = self.job.optimisers_on(decided) == "all"
        own = sheet.safe_v if sheet is not None else None
        return own or (1.0 if everywhere else None)

    def shutdown_parts(self, unit: str) -> tuple[str, ...]:
        """The devices that part a unit's array on the roof."""
        return making.shutdowns(self.topology, unit)

    def _sun(self, unit: PlantUnit, outcome: Answer) -> None:
        """What the sun gives at a unit's inputs: at each tracker, or behind each module."""
        unit.trackers = {}
        here = [s for s in self.job.strings if s.unit == unit.id and s.id in self.strings]
        own = [self.strings[s.id] for s in here]
        if unit.sheet.module_level:
            making.behind_modules(self.job, unit, own, self.light, self.faults)
            return
        for tracker in unit.sheet.trackers:
            isolator = self.topology.array_isolator(unit.id, tracker.name)
            on = outcome.positions.get(isolator, "closed") == "closed" and self._transmitted(unit.id)
            curves = tuple(
                self.light.curves[s.id] for s in here if s.tracker == tracker.name and self._gives(s.id)
            )
            unit.trackers[tracker.name] = tracker_point(curves, tracker) if on else (0.0, 0.0)
        best = sum(v * a for v, a in unit.trackers.values()) / 1000
        unit.pv_there_kw = min(best * unit.sheet.eta_mppt, unit.sheet.max_dc_kw)

    def _gives(self, string: str) -> bool:
        """Whether a string gives: not one that is broken or the wrong way round, nor one that rests."""
        built_string = self.strings[string]
        at_rest = len(built_string.freed) == len(built_string.parts) and "optimiser-unpaired" in self.faults
        return not (built_string.broken or built_string.reversed or at_rest)

    def _transmitted(self, unit: str) -> bool:
        """Whether the devices on a unit's roof are held on; so where there are none."""
        return all(self.answer().positions.get(name) != "open" for name in self.shutdown_parts(unit))

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

    def seen_kw(self, unit: str) -> float | None:
        """What the transformer that a unit obeys shows, import above 0; None where it obeys none."""
        group = next(group for group in self.wires.groups if unit in group.units)
        return self.wires.seen_kw(group)

    def device_clock(self, unit: str) -> datetime:
        """What a unit's clock shows."""
        return self.right_clock() + timedelta(seconds=self.units[unit].settings.clock_error_s)

    def set_device_clock(self, unit: str, shown: datetime) -> None:
        """Set a unit's clock, with whatever it makes of it."""
        with self.lock:
            error = (shown - self.right_clock()).total_seconds()
            error += HALF_DAY_S if "clock-half-day" in self.faults else 0
            error += HOUR_S if "clock-hour" in self.faults else 0
            self.units[unit].settings.clock_error_s = error

    def set_export_kw(self, unit: str, limit_kw: float) -> None:
        """Set a unit's export limit, with whatever it makes of the unit."""
        with self.lock:
            self.units[unit].settings.export_kw = limit_kw * (10 if "export-unit" in self.faults else 1)

    def set_window(self, unit: str, place: int, numbers: tuple[float, ...]) -> None:
        """Set a window: start and end in hours, target in the device's percent, power in kW."""
        with self.lock:
            start_h, end_h, target_pct, power_kw = numbers
            slot = self.units[unit].settings.windows[place]
            shift = 720 if "window-midnight" in self.faults else 0
            slot.start_min = (round(60 * start_h) + shift) % 1440
            slot.end_min, slot.target_pct = round(60 * end_h) % 1440, target_pct
            slot.power_kw, slot.enabled, slot.kind = power_kw, True, self.job.limits.windows[place].kind

    def set_by_hand(self, unit: str, key: str, value: str | float) -> None:
        """What a person sets on the unit's own panel. Raises JobError for a setting it has not."""
        with self.lock:
            settings = self.units[unit].settings
            if key == "export_kw":
                self.set_export_kw(unit, float(value))
                settings.export_enabled = True
            elif key in HELD_AS:
                if key == "grid_profile" and "profile-wrong" in self.faults:
                    value = ELSEWHERE
                setattr(settings, HELD_AS[key], value if key in WORDS else float(value))
                settings.import_enabled = settings.import_enabled or key == "import_kw"
            else:
                raise JobError(
                    f"no setting {key!r} on the panel of {unit}", "plant", f"choose from {', '.join(HELD_AS)}"
                )
