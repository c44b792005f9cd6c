"""One hybrid of a simulated site: its battery, its trackers, and how it answers its meter from second to
second."""

from dataclasses import dataclass

import numpy as np

from lodestaff.catalogue import BatterySheet, HybridSheet
from lodestaff.plant.settings import UnitSettings

FOLLOW = 0.7  # of the way to its target that a unit goes in a second
OCV_LOW, OCV_SPAN = 0.94, 0.12  # open-circuit voltage over the nominal, empty and from empty to full
BATTERY_OHM_PER_V = 0.0004  # inner resistance of a module per volt of its nominal


@dataclass
class Battery:
    """A bank: energy at the cells in kWh, and its voltage at the terminals."""

    sheet: BatterySheet
    modules: int
    capacity_kwh: float
    energy_kwh: float
    power_kw: float = 0.0  # at its terminals; above 0 discharging
    series: int = 1  # modules in series; the others are beside them

    @property
    def soc(self) -> float:
        return self.energy_kwh / self.capacity_kwh

    @property
    def volts(self) -> float:
        nominal = (self.sheet.v_nominal or 51.2) * self.series
        at_rest = nominal * (OCV_LOW + OCV_SPAN * self.soc)
        per_module_a = 1000 * self.power_kw / at_rest / (self.modules / self.series)
        return at_rest - per_module_a * nominal * BATTERY_OHM_PER_V

    def most_charge_kw(self, setting_kw: float) -> float:
        sheet = self.sheet
        most = min(setting_kw, self.capacity_kwh * sheet.charge_c_per_h)
        if self.soc >= sheet.top_soc:
            return 0.0
        if self.soc > sheet.taper_start_soc:
            along = (self.soc - sheet.taper_start_soc) / (sheet.top_soc - sheet.taper_start_soc)
            most *= 1 - (1 - sheet.taper_end_share) * along
        return most

    def most_discharge_kw(self, setting_kw: float, floor_soc: float) -> float:
        if self.soc <= max(floor_soc, self.sheet.floor_soc):
            return 0.0
        return min(setting_kw, self.capacity_kwh * self.sheet.discharge_c_per_h)

    def follow(self, seconds: float) -> None:
        eta = self.sheet.eta_round_trip**0.5
        flow = self.power_kw / eta if self.power_kw > 0 else self.power_kw * eta
        self.energy_kwh = float(np.clip(self.energy_kwh - flow * seconds / 3600, 0, self.capacity_kwh))


@dataclass
class PlantUnit:
    """A unit's state. Powers in kW; `ac_kw` above 0 feeds the site."""

    id: str
    sheet: HybridSheet
    battery: Battery | None
    settings: UnitSettings
    mode: str = "off"  # off, grid, island
    standby: bool = False
    hold_battery: bool = False
    tripped: str = ""
    ac_kw: float = 0.0
    pv_used_kw: float = 0.0
    pv_there_kw: float = 0.0
    trackers: dict[str, tuple[float, float]] | None = None  # volts, amps at the tracker's best point
    island_s: float = 0.0

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

    def run(self, seconds: float, meter_kw: float, behind_kw: float, minute: float) -> None:
        """One step. `meter_kw` is what its CT shows (import above 0), `behind_kw` what hangs on its backup
        port."""
        if self.mode == "island" and not self.tripped:
            self._on_its_own(behind_kw)
            self.island_s += seconds
        elif self.mode == "grid" and not self.standby:
            self.tripped = ""
            self._with_the_grid(meter_kw, minute)
        else:
            self._still()
        if self.battery is not None:
            self.battery.follow(seconds)

    def _still(self) -> None:
        self.ac_kw = self.pv_used_kw = 0.0
        if self.battery is not None:
            self.battery.power_kw = 0.0
        if self.mode != "island":
            self.tripped, self.island_s = "", 0.0

    def _room(self, floor_soc: float) -> tuple[float, float]:
        """Most charge and discharge in kW."""
        if self.battery is None:
            return 0.0, 0.0
        charge = self.battery.most_charge_kw(min(self.settings.charge_kw, self.sheet.charge_kw))
        discharge = self.battery.most_discharge_kw(
            min(self.settings.discharge_kw, self.sheet.discharge_kw), floor_soc
        )
        return (0.0, 0.0) if self.hold_battery else (charge, discharge)

    def _on_its_own(self, behind_kw: float) -> None:
        charge, discharge = self._room(0.0)
        need = self.dc_of(behind_kw)
        if behind_kw > self.sheet.rated_kw:
            self.tripped = "overload"
        elif need > self.pv_there_kw + discharge:
            self.tripped = "energy"
        if self.tripped:
            self._still()
            return
        battery_kw = float(np.clip(need - self.pv_there_kw, -charge, discharge))
        self.pv_used_kw = need - battery_kw
        self.ac_kw = behind_kw
        if self.battery is not None:
            self.battery.power_kw = battery_kw

    def _with_the_grid(self, meter_kw: float, minute: float) -> None:
        s = self.settings
        rated = self.sheet.rated_kw * (s.output_pct / 100 if s.output_enabled else 1.0)
        believed_kw = self.ac_kw + meter_kw  # what the unit thinks that the site takes
        charge, discharge = self._room(self.soc_of(s.reserve_pct))
        high = min(rated, believed_kw + (s.export_kw if s.export_enabled else 1e9))
        low = max(-self.sheet.rated_kw, believed_kw - (s.import_kw if s.import_enabled else 1e9))
        window = next((w for w in s.windows if w.holds(minute)), None) if s.mode == "time of use" else None
        if window is not None and self.battery is not None:
            wanted = (
                min(window.power_kw, charge) if self.battery.soc < self.soc_of(window.target_pct) else 0.0
            )
            target = self.ac_of(self.pv_there_kw - wanted)
            discharge = 0.0
        else:
            battery_kw = float(np.clip(self.dc_of(believed_kw) - self.pv_there_kw, -charge, discharge))
            target = self.ac_of(self.pv_there_kw + battery_kw)
        target = float(np.clip(target, low, max(low, high)))
        ac = self.ac_kw + FOLLOW * (target - self.ac_kw)
        need = self.dc_of(ac)
        battery_kw = float(np.clip(need - self.pv_there_kw, -charge, discharge))
        self.pv_used_kw = float(np.clip(need - battery_kw, 0.0, self.pv_there_kw))
        self.ac_kw = self.ac_of(self.pv_used_kw + battery_kw)
        if self.battery is not None:
            self.battery.power_kw = battery_kw
