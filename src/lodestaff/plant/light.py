"""Sun on a simulated site: sky, warm modules, the curves of its strings, the power of single modules."""

import math
from datetime import datetime

from lodestaff.energy.mismatch import ModulePoints
from lodestaff.job import Job
from lodestaff.plant.array import CELL_ABOVE_BACK_K, LAG_S, RISE_K, BuiltString, Curve, best_w, string_curve
from lodestaff.plant.sky import Sky

CURVES_S = 5.0  # curves are drawn anew every so many seconds


class Light:
    """What the sun does, second by second."""

    def __init__(self, job: Job, strings: dict[str, BuiltString], at: datetime, sky: Sky) -> None:
        self.job, self.strings, self.sky = job, strings, sky
        self.poa_w_m2 = sky.poa_w_m2(job.faces, at)
        air = sky.air_c(job, at)
        self.back_c = {
            face.id: air + RISE_K[face.mounting] * self.poa_w_m2[face.id] / 1000 for face in job.faces
        }  # the site has stood in this sky
        self.curves: dict[str, Curve] = {}
        self._drawn_at = -math.inf
        self._drawn_for: tuple[tuple[float, float], ...] = ()  # light and warmth of the faces
        self.follow(0.0, at)

    def anew(self) -> None:
        """The clock jumped, or strings are others than they were."""
        self._drawn_at, self._drawn_for = -math.inf, ()

    def follow(self, seconds: float, at: datetime) -> None:
        """Let the light and the warmth of the modules follow the clock."""
        job, air = self.job, self.sky.air_c(self.job, at)
        self.poa_w_m2 = self.sky.poa_w_m2(job.faces, at)
        for face in job.faces:
            settled = air + RISE_K[face.mounting] * self.poa_w_m2[face.id] / 1000
            self.back_c[face.id] += (settled - self.back_c[face.id]) * (1 - math.exp(-seconds / LAG_S))
        if abs(at.timestamp() - self._drawn_at) >= CURVES_S:
            self._drawn_at = at.timestamp()
            cell = self.cell_c()
            seen = tuple((round(self.poa_w_m2[face]), round(warm, 1)) for face, warm in cell.items())
            if seen != self._drawn_for:
                self._drawn_for = seen
                self.curves = {
                    name: string_curve(string, self.poa_w_m2, cell) for name, string in self.strings.items()
                }

    def cell_c(self) -> dict[str, float]:
        return {
            face: back + CELL_ABOVE_BACK_K * self.poa_w_m2[face] / 1000 for face, back in self.back_c.items()
        }

    def module_w(self, face: str, points: ModulePoints) -> float:
        """A module's own best power on a face, W; rounded light, so that a second's drift costs nothing."""
        return best_w(points, round(self.poa_w_m2[face]), round(self.cell_c()[face], 1))

    @property
    def any(self) -> bool:
        return max(self.poa_w_m2.values(), default=0.0) > 5
