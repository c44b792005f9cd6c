"""The settings that a simulated unit holds, as its own panel and link show them."""

from dataclasses import dataclass, field

WINDOWS = 4
WORDS = ("grid_profile", "serves", "export_of", "mode")
HELD_AS = {
    **{word: word for word in WORDS},
    **{name: name for name in ("export_kw", "import_kw", "charge_kw", "discharge_kw")},
    "reserve_soc": "reserve_pct",
    "shed_soc": "shed_pct",
    "late": "charges_late",
    "generator_start_soc": "generator_start_pct",
    "generator_stop_soc": "generator_stop_pct",
    "generator_start_v": "generator_start_v",
    "generator_stop_v": "generator_stop_v",
    "generator_quiet": "generator_quiet_h",
    "generator_exercise": "generator_exercise_h",
    "peak_kw": "peak_kw",
}  # fields of the unit by the keys of the settings sheet
HALF_DAY_S = 12 * 3600
ELSEWHERE = "another country's"


@dataclass
class WindowSlot:
    """A charge window in the unit: minutes of its own clock's day, target in its own percent, power."""

    start_min: int = 0
    end_min: int = 0
    target_pct: float = 0.0
    power_kw: float = 0.0
    enabled: bool = False
    kind: str = "charge"  # charge, hold, give

    def holds(self, minute: float) -> bool:
        if not self.enabled or self.start_min == self.end_min:
            return False
        if self.start_min < self.end_min:
            return self.start_min <= minute < self.end_min
        return minute >= self.start_min or minute < self.end_min


@dataclass
class UnitSettings:
    """What the unit was told. Fresh from its box it has no limits and no windows, and its clock is wrong."""

    clock_error_s: float = -413.0
    grid_profile: str = "none"
    mode: str = "self-consumption"
    serves: str = "own port"
    export_of: str = "sun only"
    export_kw: float = 0.0
    export_enabled: bool = False
    import_kw: float = 0.0
    import_enabled: bool = False
    reserve_pct: float = 10.0
    shed_pct: float = 10.0
    charge_kw: float = 0.0
    discharge_kw: float = 0.0
    charges_late: float = 0.0  # 1: it keeps room for the midday sun
    generator_start_pct: float = 0.0
    generator_stop_pct: float = 0.0
    generator_start_v: float = 0.0
    generator_stop_v: float = 0.0
    generator_quiet_h: float = 0.0
    generator_exercise_h: float = 0.0
    peak_kw: float = 0.0  # import is kept below it while it shaves the peak; 0: none
    output_pct: float = 100.0  # of its rating, what it may give while `output_enabled`
    output_enabled: bool = False
    windows: list[WindowSlot] = field(default_factory=lambda: [WindowSlot() for _ in range(WINDOWS)])

    @property
    def grid_profile_known(self) -> bool:
        """Whether it may run beside the grid: another country's profile keeps it off."""
        return self.grid_profile != ELSEWHERE
