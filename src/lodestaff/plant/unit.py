"""One converter of a simulated site: its battery, its sun, and how it answers what it sees from second to
second."""

from dataclasses import dataclass, field

import numpy as np

from lodestaff.catalogue import BatterySheet, HybridSheet
from lodestaff.plant.settings import UnitSettings

FOLLOW = 0.7  # of the way to its target that a unit goes in a second
OCV_LOW, OCV_SPAN = 0.94, 0.12  # open-circuit voltage over the nominal, empty and from empty to full
BATTERY_OHM_PER_V = 0.0004  # inner resistance of a module per volt of its nominal
WITHOUT_LIMIT = 1e9
YIELD_S = 5.0  # what follows an island yields to its frequency within so long


@dataclass
class Battery:
    """A bank: energy at the cells in kWh, and its voltage at the terminals."""

    sheet: BatterySheet
    modules: int
    capacity_kwh: float
    energy_kwh: float
    power_kw: float = 0.0  # at its terminals; above 0 discharging
    series: int = 1  # modules in series; the others are beside them
    heard: bool = True  # whether the unit and its battery understand each other

    @property
    def soc(self) -> float:
        return self.energy_kwh / self.capacity_kwh

    @property
    def volts(self) -> float:
        nominal = (self.sheet.v_nominal or 51.2) * self.series
        at_rest = nominal * (OCV_LOW + OCV_SPAN * self.soc)
        module_ohm = BATTERY_OHM_PER_V * nominal / self.series
        if self.sheet.rest_v and self.sheet.inner_mohm is not None:
            at, rest = zip(*self.sheet.rest_v, strict=True)
            at_rest = float(np.interp(self.soc, at, rest)) * self.series
            module_ohm = self.sheet.inner_mohm / 1000
        beside = self.modules / self.series
        volts = at_rest
        for _ in range(3):  # the current that the power needs at these volts
            volts = at_rest - 1000 * self.power_kw / volts / beside * module_ohm * self.series
        return volts

    def most_charge_kw(self, setting_kw: float) -> float:
        sheet = self.sheet
        most = min(setting_kw, self.capacity_kwh * sheet.charge_c_per_h)
        if self.soc >= sheet.top_soc or not self.heard:
            return 0.0
        if self.soc > sheet.taper_start_soc:
            along = (self.soc - sheet.taper_start_soc) / (sheet.top_soc - sheet.taper_start_soc)
            most *= 1 - (1 - sheet.taper_end_share) * along
        return most

    def most_discharge_kw(self, setting_kw: float, floor_soc: float) -> float:
        if self.soc <= max(floor_soc, self.sheet.floor_soc) or not self.heard:
            return 0.0
        return min(setting_kw, self.capacity_kwh * self.sheet.discharge_c_per_h)

    def follow(self, seconds: float) -> None:
        eta = self.sheet.eta_round_trip**0.5
        flow = self.power_kw / eta if self.power_kw > 0 else self.power_kw * eta
        self.energy_kwh = float(np.clip(self.energy_kwh - flow * seconds / 3600, 0, self.capacity_kwh))


@dataclass
class PlantUnit:
    """A unit's state. Powers in kW; `ac_kw` above 0 feeds the site.

    `modules_w` is what each unit behind a module gives, where a converter stands behind each.
    """

    id: str
    sheet: HybridSheet
    battery: Battery | None
    settings: UnitSettings
    mode: str = "off"  # off, grid, generator, island, follows
    standby: bool = False
    hold_battery: bool = False
    tripped: str = ""
    ac_kw: float = 0.0
    pv_used_kw: float = 0.0
    pv_there_kw: float = 0.0
    trackers: dict[str, tuple[float, float]] | None = None  # volts, amps at the tracker's best point
    modules_w: dict[str, list[float]] = field(default_factory=dict)
    island_s: float = 0.0
    over_s: float = 0.0  # how long its island has given it more than it can take

    def soc_of(self, device_pct: float) -> float:
        """The state of charge that a percentage of the device's own scale means."""
        if self.battery is None:
            return 0.0
        sheet = self.battery.sheet
        share = device_pct / 100
        return (
            sheet.floor_soc + share * (sheet.top_soc - sheet.floor_soc)
            if sheet.device_counts_usable
            else share
        )

    def device_pct(self) -> float:
        """The battery's state of charge on the device's own scale."""
        if self.battery is None:
            return 0.0
        sheet, soc = self.battery.sheet, self.battery.soc
        return 100 * (
            (soc - sheet.floor_soc) / (sheet.top_soc - sheet.floor_soc) if sheet.device_counts_usable else soc
        )

    def _eta(self, ac_kw: float) -> float:
        shares, etas = zip(*self.sheet.efficiency, strict=True)
        return float(np.interp(abs(ac_kw) / self.sheet.rated_kw, shares, etas))

    def dc_of(self, ac_kw: float) -> float:
        eta = self._eta(ac_kw)
        return (ac_kw / eta if ac_kw >= 0 else ac_kw * eta) + self.sheet.own_use_kw

    def ac_of(self, dc_kw: float) -> float:
        flow = dc_kw - self.sheet.own_use_kw
        eta = self._eta(flow)
        return flow * eta if flow >= 0 else flow / eta

    # --- a step in each of its modes ---------------------------------------------------------------------
    def with_the_grid(
        self, seconds: float, takes_kw: float | None, minute: float, share: float = 1.0
    ) -> None:
        """One step beside the grid. `takes_kw` is what it believes that its part of the site takes; None: it
        knows of nothing and feeds all its sun. `share` is its own of a limit that it keeps with others."""
        self.tripped, self.island_s = "", 0.0
        if self.standby or not self.settings.grid_profile_known:
            self.rest(seconds)
            return
        s = self.settings
        rated = self.sheet.rated_kw * (s.output_pct / 100 if s.output_enabled else 1.0)
        charge, discharge = self._room(self.soc_of(s.reserve_pct))
        if takes_kw is None:
            charge, discharge = 0.0, 0.0
            target = min(rated, self.ac_of(self.pv_there_kw))
        else:
            target, charge, discharge = self._target(takes_kw, charge, discharge, minute)
            high = min(rated, takes_kw + (share * s.export_kw if s.export_enabled else WITHOUT_LIMIT))
            most_kw = share * s.import_kw if s.import_enabled else WITHOUT_LIMIT
            low = max(-self.sheet.rated_kw, takes_kw - most_kw)
            target = float(np.clip(target, low, max(low, high)))
        self._give(self.ac_kw + FOLLOW * (target - self.ac_kw), charge, discharge)
        self._pass(seconds)

    def _target(
        self, takes_kw: float, charge: float, discharge: float, minute: float
    ) -> tuple[float, float, float]:
        """Where it wants to go, with what its battery may take and give meanwhile."""
        s, battery = self.settings, self.battery
        window = next((w for w in s.windows if w.holds(minute)), None) if s.mode == "time of use" else None
        if window is not None and battery is not None:
            aim = self.soc_of(window.target_pct)
            if window.kind == "give":
                gives = min(window.power_kw, discharge) if battery.soc > aim else 0.0
                return self.ac_of(self.pv_there_kw + gives), charge, discharge
            wanted = min(window.power_kw, charge) if window.kind == "charge" and battery.soc < aim else 0.0
            return self.ac_of(self.pv_there_kw - wanted), charge, 0.0
        if s.mode == "held for outages":
            return self.ac_of(self.pv_there_kw - charge), charge, 0.0
        if s.mode == "peak shaving":
            over = max(0.0, takes_kw - s.peak_kw) if s.peak_kw > 0 else takes_kw
            battery_kw = float(np.clip(self.dc_of(over) - self.pv_there_kw, -charge, discharge))
            return self.ac_of(self.pv_there_kw + battery_kw), charge, discharge
        battery_kw = float(np.clip(self.dc_of(takes_kw) - self.pv_there_kw, -charge, discharge))
        return self.ac_of(self.pv_there_kw + battery_kw), charge, discharge

    def leading(self, seconds: float, gives_kw: float) -> None:
        """One step as what makes an island: it gives (or takes, below 0) what the wires ask of it."""
        self.island_s += seconds
        charge, discharge = self._room(0.0)
        need = self.dc_of(gives_kw)
        if gives_kw > self.sheet.rated_kw:
            self.tripped = "overload"
        elif need > self.pv_there_kw + discharge + 1e-9:
            self.tripped = "energy"
        self.over_s = self.over_s + seconds if need < -charge - 0.05 else 0.0
        if not self.tripped and self.over_s > YIELD_S:
            self.tripped = "frequency"
        if self.tripped:
            self.rest(seconds, still=False)
            return
        battery_kw = float(np.clip(need - self.pv_there_kw, -charge, discharge))
        self.pv_used_kw = max(0.0, need - battery_kw)
        self.ac_kw = gives_kw
        if self.battery is not None:
            self.battery.power_kw = battery_kw
        self._pass(seconds)

    def following(self, seconds: float, most_kw: float) -> None:
        """One step in a network that another makes: its sun, up to what that network can take."""
        target = 0.0 if self.standby else min(self.sheet.rated_kw, self.ac_of(self.pv_there_kw), most_kw)
        self._give(max(0.0, target) if self.pv_there_kw > 0 else 0.0, 0.0, 0.0)
        self._pass(seconds)

    def by_generator(self, seconds: float, takes_kw: float) -> None:
        """One step on a generator: it charges with what the generator has left, the sun beside it."""
        charge, _ = self._room(0.0)
        target = 0.0 if self.standby else max(-takes_kw, self.ac_of(self.pv_there_kw - charge), -charge)
        self._give(self.ac_kw + FOLLOW * (min(0.0, target) - self.ac_kw), charge, 0.0)
        self._pass(seconds)

    def rest(self, seconds: float, still: bool = True) -> None:
        """One step without power."""
        self.ac_kw = self.pv_used_kw = 0.0
        if self.battery is not None:
            self.battery.power_kw = 0.0
        if still and self.mode != "island":
            self.tripped, self.island_s = "", 0.0
        self._pass(seconds)

    def room_kw(self) -> float:
        """What its battery can take beyond its own sun, as AC."""
        charge, _ = self._room(0.0)
        return max(0.0, -self.ac_of(self.pv_there_kw - charge)) if charge > self.pv_there_kw else 0.0

    # --- what these are made of --------------------------------------------------------------------------
    def _room(self, floor_soc: float) -> tuple[float, float]:
        """Most charge and discharge in kW."""
        if self.battery is None or self.hold_battery:
            return 0.0, 0.0
        charge = self.battery.most_charge_kw(min(self.settings.charge_kw, self.sheet.charge_kw))
        discharge = self.battery.most_discharge_kw(
            min(self.settings.discharge_kw, self.sheet.discharge_kw), floor_soc
        )
        return charge, discharge

    def _give(self, ac_kw: float, charge: float, discharge: float) -> None:
        """Feed so much, the battery within its room, the sun making up the rest."""
        need = self.dc_of(ac_kw)
        battery_kw = float(np.clip(need - self.pv_there_kw, -charge, discharge))
        self.pv_used_kw = float(np.clip(need - battery_kw, 0.0, self.pv_there_kw))
        self.ac_kw = self.ac_of(self.pv_used_kw + battery_kw)
        if self.battery is not None:
            self.battery.power_kw = battery_kw

    def _pass(self, seconds: float) -> None:
        if self.battery is not None:
            self.battery.follow(seconds)
