"""Running and starting power of a set of circuits against a source's ratings."""

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Running:
    """A circuit as it runs and starts: kW, power factor, and the apparent power of its start."""

    name: str
    kw: float
    power_factor: float
    start_kva: float
    start_s: float = 0.0

    @property
    def kva(self) -> float:
        return self.kw / self.power_factor


@dataclass(frozen=True)
class Totals:
    """Of a set of circuits: running kW and kVA, the worst single start, and all starts together."""

    kw: float
    kva: float
    running_kva_sum: float
    worst_kva: float
    worst_name: str
    worst_step_kva: float
    worst_s: float
    together_kva: float


def totals(circuits: tuple[Running, ...]) -> Totals:
    """Running power by kW and kvar; starts by plain sums of kVA, which is on the safe side.

    worst start = sum of running kVA + the largest (start - running) among them.
    Source: common practice, largest-motor rule.
    """
    kw = sum(circuit.kw for circuit in circuits)
    kvar = sum(circuit.kw * math.tan(math.acos(circuit.power_factor)) for circuit in circuits)
    running = sum(circuit.kva for circuit in circuits)
    largest = max(circuits, key=lambda circuit: circuit.start_kva - circuit.kva, default=None)
    step = max(0.0, largest.start_kva - largest.kva) if largest else 0.0
    return Totals(
        kw=kw,
        kva=math.hypot(kw, kvar),
        running_kva_sum=running,
        worst_kva=running + step,
        worst_name=largest.name if largest and step > 0 else "",
        worst_step_kva=step,
        worst_s=largest.start_s if largest and step > 0 else 0.0,
        together_kva=sum(max(circuit.kva, circuit.start_kva) for circuit in circuits),
    )


@dataclass(frozen=True)
class MotorStart:
    """A motor's currents and apparent powers, running and starting."""

    input_kw: float
    running_kva: float
    running_a: float
    start_a: float
    start_kva: float


def motor_start(
    shaft_kw: float, efficiency: float, power_factor: float, voltage_v: float, multiple: float
) -> MotorStart:
    """Start of a motor from its plate: P = shaft/efficiency, S = P/pf, start = multiple x S (common
    practice)."""
    input_kw = shaft_kw / efficiency
    running_kva = input_kw / power_factor
    running_a = running_kva * 1000 / voltage_v
    return MotorStart(input_kw, running_kva, running_a, multiple * running_a, multiple * running_kva)


def derating(
    ambient_c: float, altitude_m: float, from_c: float | None, pct_per_k: float | None, from_m: float | None
) -> float:
    """Share of an inverter's rating that is left at an ambient temperature and altitude.

    Above `from_m` one percent is lost for every 100 m (common practice, no source); without sheet
    values nothing is taken off.
    """
    share = 1.0
    if from_c is not None and pct_per_k is not None:
        share -= max(0.0, ambient_c - from_c) * pct_per_k / 100
    if from_m is not None:
        share *= 1 - max(0.0, altitude_m - from_m) / 100 * 0.01
    return max(0.0, share)
