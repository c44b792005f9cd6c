"""A tracker that takes no more current than it is rated for: what strings in parallel can still give
through it."""

from dataclasses import dataclass, replace

from lodestaff.commissioning.expect import DC_DERATE, Conditions, Expected


@dataclass(frozen=True)
class Clip:
    """Strings that may work at more than their tracker takes.

    At its limit of current the tracker goes above their operating voltage, never to the open circuit: what it
    gives lies between (derived). `imp_a` and `imp_2_a` are of the strings on each of two faces.
    """

    most_a: float
    vmp_v: float  # of the shortest string, standard conditions
    voc_v: float
    gamma_pct_per_k: float
    imp_a: float
    imp_2_a: float = 0.0

    def held(self, free: Expected, light: Conditions) -> Expected:
        """What is expected of strings whose current is cut, where it is; else what was expected."""
        poa_w_m2, module_c = light.sun()
        poa_2 = light.poa_2_w_m2 or 0.0
        if self.imp_a * poa_w_m2 / 1000 + self.imp_2_a * poa_2 / 1000 <= self.most_a:
            return free
        warm = 1 + self.gamma_pct_per_k / 100 * (module_c - 25)
        low, high = (self.most_a * volts * warm / 1000 for volts in (DC_DERATE * self.vmp_v, self.voc_v))
        value = min(free.value, (low + high) / 2)
        least = min(low, value)
        share = 1.0 if free.low is None or not free.value else free.low / free.value
        most = high if free.high is None else min(high, free.high)
        source = f"{free.source}; cut at the tracker's {self.most_a:g} A"
        return replace(free, value=value, low=share * least, high=most, source=source, tolerance_pct=None)
