"""The keys of settings: what each is measured in, and which are a charge window's. Taken apart here alone."""

from typing import Literal

WINDOW = "window:"
UNITS: dict[str, Literal["kW", "%"]] = {"kw": "kW", "soc": "%"}


def window_key(window: str) -> str:
    """The key under which a charge window is set."""
    return f"{WINDOW}{window}"


def window_of(key: str) -> str | None:
    """The charge window that a key sets; None where it sets something else."""
    return key.removeprefix(WINDOW) if key.startswith(WINDOW) else None


def unit_of(key: str) -> str:
    """What a setting is measured in on the settings sheet: kW, %, or nothing."""
    return UNITS.get(key.rpartition("_")[2], "")


def by_clock(key: str) -> bool:
    """Whether a setting is of the device's clock or runs by it."""
    return key == "clock" or window_of(key) is not None
