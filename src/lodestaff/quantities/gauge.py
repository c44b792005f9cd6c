"""A conductor's size in words: in mm², or by American gauge and kcmil."""

from lodestaff.quantities.convention import plain
from lodestaff.quantities.reader import FACTORS, awg_mm2

NEAR = 0.01  # tables round areas to a hundredth


def gauge_words(mm2: float) -> str:
    """The gauge of an area, or its kcmil above 4/0; mm² where it is neither."""
    if mm2 > awg_mm2(-3) * (1 + NEAR):
        return f"{plain(round(mm2 / FACTORS['kcmil', 'mm²']))} kcmil"
    gauge = min(range(-3, 20), key=lambda number: abs(awg_mm2(number) - mm2))
    if abs(awg_mm2(gauge) / mm2 - 1) > NEAR:
        return f"{plain(mm2)} mm²"
    return f"{1 - gauge}/0 AWG" if gauge < 1 else f"{gauge} AWG"
