"""Which points of the site-settings model carry a setting: the setpoints first, then the point that puts
them in force."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from lodestaff.link.keys import unit_of, window_key, window_of

EPOCH = datetime(2000, 1, 1)
CLOCK_TOLERANCE_S = 60.0
MODES = ("self-consumption", "time of use", "off grid", "held for outages", "peak shaving")
SERVES = ("own port", "up to the CT", "grid")
EXPORT_OF = ("nothing", "sun only", "sun and battery")


@dataclass(frozen=True)
class SettingPoints:
    """The setpoints of a setting by path, and its enable point ('' where it has none)."""

    setpoints: tuple[str, ...]
    enable: str = ""


_FIXED = {
    "clock": SettingPoints(("Clk",)),
    "grid_profile": SettingPoints(("GrdPrf",)),
    "mode": SettingPoints(("Mode",)),
    "serves": SettingPoints(("Srv",)),
    "export_of": SettingPoints(("ExpOf",)),
    "export_kw": SettingPoints(("ExpLimW",), "ExpLimEna"),
    "import_kw": SettingPoints(("ImpLimW",), "ImpLimEna"),
    "reserve_soc": SettingPoints(("ResSoC",)),
    "shed_soc": SettingPoints(("ShdSoC",)),
    "charge_kw": SettingPoints(("ChaMaxW",)),
    "discharge_kw": SettingPoints(("DisMaxW",)),
}


def setting_points(key: str, windows: tuple[str, ...]) -> SettingPoints | None:
    """The points of a setting of the settings sheet; a window's slot is its place among the windows."""
    name = window_of(key)
    if name is not None:
        if name not in windows:
            return None
        slot = f"Win.{windows.index(name)}."
        return SettingPoints(tuple(slot + point for point in ("Str", "End", "Tgt", "Pwr")), slot + "Ena")
    return _FIXED.get(key)


def key_of(path: str, windows: tuple[str, ...]) -> str:
    """The setting that a point belongs to; '' for a point of none."""
    for key, points in _FIXED.items():
        if path in (*points.setpoints, points.enable):
            return key
    if path.startswith("Win."):
        slot = int(path.split(".")[1])
        return window_key(windows[slot]) if slot < len(windows) else ""
    return ""


def to_clock(shown: datetime) -> int:
    return round((shown - EPOCH).total_seconds())


def from_clock(seconds: float) -> datetime:
    return EPOCH + timedelta(seconds=seconds)


def to_points(key: str, value: Any) -> tuple[float, ...]:
    """A setting's value as its setpoints hold it, in W, percent, minutes or an enumeration's number."""
    if key == "clock":
        return (to_clock(value),)
    if key in ("mode", "serves", "export_of"):
        return (float({"mode": MODES, "serves": SERVES, "export_of": EXPORT_OF}[key].index(value)),)
    if unit_of(key) == "kW":
        return (1000 * float(value),)
    if window_of(key) is not None:
        start_h, end_h, target_pct, power_kw = value
        return (round(60 * start_h) % 1440, round(60 * end_h) % 1440, target_pct, 1000 * power_kw)
    return (float(value),)
