"""Strings of modules against a tracker: voltages at temperature, lengths that fit, currents, fuses."""

import math
from dataclasses import dataclass

STC_C = 25.0


def at_temperature(value_stc: float, coefficient_pct_per_k: float, temp_c: float) -> float:
    """A module value at a cell temperature: value x (1 + coefficient/100 x (T - 25)).

    Source: IEC 62548, clause on array maximum voltage; NEC 690.7(A)(1) (from memory).
    """
    return value_stc * (1 + coefficient_pct_per_k / 100 * (temp_c - STC_C))


@dataclass(frozen=True)
class ModuleVolts:
    """One module's voltages: open circuit cold and hot, operating cold and hot, V; and the temperatures,
    °C."""

    voc_cold_v: float
    voc_hot_v: float
    vmp_cold_v: float
    vmp_hot_v: float
    cold_c: float
    hot_c: float


def module_volts(
    voc_v: float,
    beta_voc_pct_per_k: float,
    vmp_v: float,
    beta_vmp_pct_per_k: float,
    record_low_c: float,
    ambient_max_c: float,
    mounting_rise_k: float,
) -> ModuleVolts:
    """Voltages between the record low at dawn (cell = air) and the hottest cell (air + mounting rise).

    Source: IEC 62548 string design; mounting rise 20 K free-standing to 35 K roof-parallel (common practice).
    """
    hot = ambient_max_c + mounting_rise_k
    return ModuleVolts(
        at_temperature(voc_v, beta_voc_pct_per_k, record_low_c),
        at_temperature(voc_v, beta_voc_pct_per_k, hot),
        vmp_cold_v=at_temperature(vmp_v, beta_vmp_pct_per_k, record_low_c),
        vmp_hot_v=at_temperature(vmp_v, beta_vmp_pct_per_k, hot),
        cold_c=record_low_c,
        hot_c=hot,
    )


@dataclass(frozen=True)
class Lengths:
    """Least and most modules in a string; `most_hard` obeys the maximum voltage alone."""

    least: int
    most: int
    most_hard: int


def string_lengths(
    volts: ModuleVolts, v_min: float, v_max: float, v_start: float, max_dc_v: float
) -> Lengths:
    """String lengths that start, stay in the tracker's window and never pass the maximum voltage.

    The maximum voltage is a hard limit; leaving the window only loses yield. Source: IEC 62548 string design.
    """
    least = max(math.ceil(v_min / volts.vmp_hot_v - 1e-9), math.ceil(v_start / volts.voc_hot_v - 1e-9), 1)
    hard = math.floor(max_dc_v / volts.voc_cold_v + 1e-9)
    return Lengths(least, min(hard, math.floor(v_max / volts.vmp_cold_v + 1e-9)), hard)


@dataclass(frozen=True)
class Currents:
    """Design currents of strings on one tracker, A."""

    isc_sum_a: float
    design_a: float
    imp_sum_a: float
    clipped_a: float


def tracker_currents(isc_a: list[float], imp_a: list[float], factor: float, imp_max_a: float) -> Currents:
    """Plain sum of short-circuit currents x factor (the rating), and operating current against its limit.

    Operating current above the tracker's limit is clipped: yield, not damage. Source: IEC 62548 (from
    memory).
    """
    imp = sum(imp_a)
    return Currents(sum(isc_a), factor * sum(isc_a), imp, max(0.0, imp - imp_max_a))


@dataclass(frozen=True)
class StringFuse:
    """Whether parallel strings need fuses, between which ratings, and which standard sizes fit."""

    reverse_a: float
    needed: bool
    least_a: float
    most_a: float
    choices_a: tuple[float, ...]
    top_a: float

    def bears(self, fitted_a: float) -> bool:
        """Whether a fuse lies between the ratings."""
        return self.least_a - 1e-9 <= fitted_a <= self.top_a + 1e-9


def string_fuse(
    parallel: int,
    isc_a: float,
    max_series_fuse_a: float,
    sizes_a: tuple[float, ...],
    least_factor: float | None = None,
) -> StringFuse:
    """Fuses when (Np - 1) Isc exceeds the module's maximum series fuse; 1.5 Isc < In <= 2.4 Isc.

    With `least_factor` In >= that factor x Isc (NEC 690.9 with 690.8: 1.56, from memory).

    Source: IEC 62548 string overcurrent protection (from memory); sizes: common practice.
    """
    reverse = (parallel - 1) * isc_a
    least, most = (least_factor or 1.5) * isc_a, 2.4 * isc_a
    top = max_series_fuse_a if least_factor is not None else min(most, max_series_fuse_a)
    fit = tuple(
        size
        for size in sizes_a
        if (size >= least - 1e-9 if least_factor is not None else size > least) and size <= top
    )
    return StringFuse(
        reverse, reverse > max_series_fuse_a, least_a=least, most_a=most, choices_a=fit, top_a=top
    )
