"""The sky over a simulated site: sun by place and time, a seeded slow drift of clearness, air temperature."""

import math
from collections.abc import Iterable
from datetime import datetime, timedelta

import numpy as np

from lodestaff.energy.sun import Place, sun_at
from lodestaff.job import Face, Job

STEP_S, AHEAD = 20.0, 16  # the sky is taken anew every so many seconds; so many times are reckoned at once
DRIFT, PERSISTENCE = 0.012, 0.9  # seeded drift of clearness from one step to the next


class Sky:
    """Irradiance on each face. `clearness` scales a clear sky: 1 clear, 0.3 heavy cloud."""

    def __init__(self, job: Job, clearness: float, seed: int) -> None:
        site = job.site
        self.place = Place(site.latitude_deg, site.longitude_deg, site.altitude_m, site.utc_offset_h)
        self.offset = timedelta(hours=site.utc_offset_h)
        self.clearness = clearness
        self._random = np.random.default_rng([seed, 1])
        self._drift = 0.0
        self._ahead: dict[int, dict[str, float]] = {}

    def poa_w_m2(self, faces: Iterable[Face], at: datetime) -> dict[str, float]:
        """Irradiance on the plane of each face at a local standard time, W/m²."""
        step = int(at.timestamp() // STEP_S)
        if step not in self._ahead:
            self._ahead = dict(enumerate(self._planes(faces, at), start=step))
        return self._ahead[step]

    def _planes(self, faces: Iterable[Face], at: datetime) -> list[dict[str, float]]:
        """The next steps, reckoned together."""
        import pandas as pd
        import pvlib

        starts = [at - self.offset + timedelta(seconds=STEP_S * number) for number in range(AHEAD)]
        times = pd.DatetimeIndex(starts, tz="UTC")
        sun = sun_at(times, self.place)
        zenith = sun.apparent_zenith_deg
        clear = pvlib.clearsky.haurwitz(pd.Series(zenith, index=times))["ghi"].to_numpy()
        drifts = []
        for _ in starts:
            self._drift = PERSISTENCE * self._drift + DRIFT * float(self._random.standard_normal())
            drifts.append(self._drift)
        ghi = np.clip(clear * self.clearness * (1 + np.array(drifts)), 0, None)
        split = pvlib.irradiance.erbs(ghi, zenith, times)
        dni, dhi = np.asarray(split["dni"]), np.asarray(split["dhi"])
        planes: list[dict[str, float]] = [{} for _ in starts]
        for face in faces:
            total = pvlib.irradiance.get_total_irradiance(
                face.tilt_deg, face.azimuth_deg, zenith, sun.azimuth_deg, dni, ghi, dhi, model="isotropic"
            )
            for plane, poa in zip(planes, np.nan_to_num(np.asarray(total["poa_global"])), strict=True):
                plane[face.id] = float(poa)
        return planes

    def air_c(self, job: Job, at: datetime) -> float:
        """Air temperature: the month's range over the day, warmest at 15:00."""
        weather = job.site.weather
        if weather.kind == "file":
            return 15.0
        low, high = weather.temperature_low_c[at.month - 1], weather.temperature_high_c[at.month - 1]
        hour = at.hour + at.minute / 60
        return (low + high) / 2 + (high - low) / 2 * math.cos((hour - 15) / 12 * math.pi)
