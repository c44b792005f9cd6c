"""Conductors: resistance at temperature, voltage drop and rise, size by current and by drop."""

import cmath
import math
from dataclasses import dataclass

ALPHA20_PER_K = 0.00393  # copper, IEC 60028


@dataclass(frozen=True)
class Drop:
    """Drop along a two-core run: loop resistance in ohm, volts, percent of the given voltage, loss in W."""

    r_loop_ohm: float
    drop_v: float
    drop_pct: float
    loss_w: float


def dc_drop(
    length_m: float, r20_ohm_per_km: float, temp_c: float, current_a: float, voltage_v: float
) -> Drop:
    """R = 2 L R20 (1 + alpha (T - 20)); dV = I R; percent of the voltage given.

    Source: IEC 60228 resistances, IEC 60028 for alpha (from memory).
    """
    r = 2 * length_m * r20_ohm_per_km / 1000 * (1 + ALPHA20_PER_K * (temp_c - 20))
    return Drop(r, current_a * r, 100 * current_a * r / voltage_v, current_a**2 * r)


def longest_m(
    limit_pct: float, r20_ohm_per_km: float, temp_c: float, current_a: float, voltage_v: float
) -> float:
    """The one-way length at which the drop reaches a limit."""
    return limit_pct / dc_drop(1.0, r20_ohm_per_km, temp_c, current_a, voltage_v).drop_pct


def table_drop(mv_per_a_m: float, current_a: float, length_m: float, voltage_v: float) -> Drop:
    """Drop by a table of mV per ampere and metre. Source: BS 7671 Appendix 4 (from memory)."""
    r = mv_per_a_m * length_m / 1000
    return Drop(r, current_a * r, 100 * current_a * r / voltage_v, current_a**2 * r)


def legs_drop(
    mv_per_a_m: float,
    amps: list[float],
    length_m: float,
    line_to_neutral_v: float,
    angles_deg: tuple[float, ...],
) -> Drop:
    """Drop of the worst leg of a run with several, by the two-core table of mV per ampere and metre.

    Half of the loop is the line, half the neutral, which carries the vector sum of the legs: nothing where
    all carry alike (three phases: sqrt(3)/2 of the two-core value against the line voltage; 120/240 V: the
    loop against 240 V). Of two phases out of three the neutral carries as much as a line. Derived, at
    unity power factor.
    """
    half = mv_per_a_m * length_m / 2000
    vectors = [
        current * cmath.exp(1j * math.radians(angle)) for current, angle in zip(amps, angles_deg, strict=True)
    ]
    neutral = sum(vectors)
    volts = max(
        half * (current + (neutral * cmath.exp(-1j * math.radians(angle))).real)
        for current, angle in zip(amps, angles_deg, strict=True)
    )
    loss = half * (sum(a**2 for a in amps) + abs(neutral) ** 2)
    return Drop(2 * half, volts, 100 * volts / line_to_neutral_v, loss)


def neutral_a(amps: list[float], angles_deg: tuple[float, ...]) -> float:
    """What the neutral carries: the vector sum of the legs at unity power factor, A. Derived."""
    return abs(
        sum(
            current * cmath.exp(1j * math.radians(angle))
            for current, angle in zip(amps, angles_deg, strict=True)
        )
    )


@dataclass(frozen=True)
class Ampacity:
    """A cable's rating after factors, and what the device asks of the table."""

    factor: float
    required_a: float
    iz_a: float


def ampacity(table_a: float, ambient: float, grouping: float, insulation: float, device_a: float) -> Ampacity:
    """It >= In / (Ca Cg Ci); Iz = table x factors. Source: BS 7671 Appendix 4 (from memory)."""
    factor = ambient * grouping * insulation
    return Ampacity(factor, device_a / factor, table_a * factor)


@dataclass(frozen=True)
class NecAmpacity:
    """A conductor by the North American rule: its rating after adjustment, what its terminals carry, its
    largest device."""

    adjusted_a: float
    terminal_a: float
    continuous_a: float
    device_a: float


def nec_ampacity(
    column_75_a: float,
    column_90_a: float,
    ambient: float,
    bundling: float,
    current_a: float,
    continuous_factor: float,
    device_sizes_a: tuple[float, ...],
    small_conductor_a: float | None,
) -> NecAmpacity:
    """The 75 °C column against 1.25 x I at the terminals; the 90 °C column after adjustment against I.

    `column_75_a` is that of the terminals, whatever they are marked. The device may be the next standard size
    above the smaller of adjusted rating and terminal column, but for small conductors never above theirs.
    Source: NEC 310.16, 310.15(B) and (C), 110.14(C), 240.4(B) and (D) (from memory).
    """
    adjusted = column_90_a * ambient * bundling
    least = min(adjusted, column_75_a)
    allowed = next((size for size in sorted(device_sizes_a) if size >= least - 1e-9), max(device_sizes_a))
    if small_conductor_a is not None:
        allowed = min(allowed, small_conductor_a)
    return NecAmpacity(adjusted, column_75_a, continuous_factor * current_a, allowed)


@dataclass(frozen=True)
class Rise:
    """Voltage rise at full export: loop resistance, simple and exact rise, terminal voltage, most power at
    a limit."""

    r_loop_ohm: float
    current_a: float
    rise_simple_v: float
    rise_simple_pct: float
    terminal_v: float
    rise_v: float
    p_max_w: float


def voltage_rise(p_w: float, r_loop_ohm: float, v_nominal: float, v_supply: float, v_limit: float) -> Rise:
    """Rise of a single-phase export at unity power factor; the exact one solves V = Vg + (P/V) R.

    Derived. Reactance of such cables changes it by under 0.01 V.
    """
    current = p_w / v_nominal
    simple = current * r_loop_ohm
    terminal = (v_supply + math.sqrt(v_supply**2 + 4 * p_w * r_loop_ohm)) / 2
    most = v_limit * (v_limit - v_supply) / r_loop_ohm if r_loop_ohm > 0 else math.inf
    return Rise(
        r_loop_ohm,
        current,
        rise_simple_v=simple,
        rise_simple_pct=100 * simple / v_nominal,
        terminal_v=terminal,
        rise_v=terminal - v_supply,
        p_max_w=most,
    )
