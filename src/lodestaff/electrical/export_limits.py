"""Export by phase under a limit for each phase and one on the sum."""

from dataclasses import dataclass


@dataclass(frozen=True)
class PhaseExports:
    """By phase: net power (negative is import), converter output, curtailed power, kW; and what is
    clipped."""

    net_kw: tuple[float, ...]
    output_kw: tuple[float, ...]
    curtailed_kw: tuple[float, ...]

    @property
    def total_kw(self) -> float:
        return sum(self.net_kw)


def limited_exports(
    available_kw: tuple[float, ...],
    load_kw: tuple[float, ...],
    per_phase_kw: float,
    total_kw: float = float("inf"),
) -> PhaseExports:
    """Net of each phase: min(generation - load, limit); where the sum exceeds its limit the excess is taken
    off the
    exporting phases in proportion to their export (derived; the proportion is a choice of the design).
    """
    net = [min(made - used, per_phase_kw) for made, used in zip(available_kw, load_kw, strict=True)]
    exported = sum(phase_kw for phase_kw in net if phase_kw > 0)
    over = sum(net) - total_kw
    if over > 0 and exported > 0:
        share = min(1.0, over / exported)
        net = [phase_kw - phase_kw * share if phase_kw > 0 else phase_kw for phase_kw in net]
    output = [
        net_step + used if made > 0 else 0.0
        for net_step, used, made in zip(net, load_kw, available_kw, strict=True)
    ]
    lost = [max(0.0, made - out) for made, out in zip(available_kw, output, strict=True)]
    return PhaseExports(tuple(net), tuple(output), tuple(lost))
