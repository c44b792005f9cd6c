"""Generators of a simulated site: started by two wires or by hand, warm before they take load."""

from __future__ import annotations

from dataclasses import dataclass

from lodestaff.job.plan import Generator
from lodestaff.plant.unit import PlantUnit

WARM_UP_S = 15.0


@dataclass
class PlantGenerator:
    """One generator. `called` is what the two wires say, `locked` that its start is locked out, `by_hand`
    that a person runs it."""

    part: Generator
    called: bool = False
    locked: bool = False
    by_hand: bool = False
    warm_s: float = 0.0
    pair_open: bool = False  # the two wires don't reach it

    @property
    def turning(self) -> bool:
        return not self.locked and (self.by_hand or (self.called and not self.pair_open))

    @property
    def position(self) -> str:
        """What the switch between it and the site's wires shows: it takes load when it is warm."""
        return "running" if self.turning and self.warm_s >= WARM_UP_S else "stopped"

    @staticmethod
    def _charged(master: PlantUnit) -> bool:
        """Whether the battery is as full as the unit was told: by its volts, else where charging slows."""
        battery = master.battery
        assert battery is not None
        if master.settings.generator_stop_v > 0:
            return battery.volts >= master.settings.generator_stop_v
        return battery.soc >= battery.sheet.taper_start_soc

    def follow(self, seconds: float, master: PlantUnit | None) -> None:
        """Let the unit that starts it call it by its charge or its volts, and let it warm up or stop."""
        if master is not None and master.battery is not None and master.mode != "off":
            s = master.settings
            if s.generator_start_v > 0:
                low = master.battery.volts <= s.generator_start_v
                self.called = low or (self.called and not self._charged(master))
            elif s.generator_start_pct > 0:
                shown = master.device_pct()
                self.called = shown <= s.generator_start_pct or (self.called and shown < s.generator_stop_pct)
        elif master is not None and master.mode == "off":
            self.called = False
        self.warm_s = self.warm_s + seconds if self.turning else 0.0
