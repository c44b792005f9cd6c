"""What the array gives: DC power by module, string, tracker and unit over the year, shaded or not."""

from collections.abc import Hashable
from functools import partial
from typing import Protocol

import numpy as np

from lodestaff.energy.array import Lights, Plane, plane_conditions, plane_dc_kw, plane_lights, tracker_kw
from lodestaff.energy.calendar import STEP_H, STEPS, Floats, Ints
from lodestaff.energy.in_series import NONE, InRow, modules_in_series_kw
from lodestaff.energy.modules import (
    ModulesAt,
    Shaded,
    Unshaded,
    alone_kw,
    in_parallel_kw,
    shaded_year,
    through_own_kw,
)
from lodestaff.energy.shade import GROUPS, rays_of
from lodestaff.energy.sun import sun_over_year
from lodestaff.energy.weather import Weather
from lodestaff.job import Job, Unit
from lodestaff.quantities.recent import Recent
from lodestaff.reckoning import selectors
from lodestaff.reckoning.memo import Memo
from lodestaff.reckoning.strung import TrackerInput, trackers


class Whole(Protocol):
    """What the array's power needs of the reckoner that it belongs to."""

    memo: Memo

    def weather(self, job: Job) -> Weather: ...


class Sunlit:
    """The array's power of any job, cached."""

    def __init__(self, whole: Whole, of_job: Recent) -> None:
        self._whole, self._of_job = whole, of_job

    @property
    def memo(self) -> Memo:
        """The memory of the whole: it may be shared with another's."""
        return self._whole.memo

    def trackers(self, job: Job, unit: Unit) -> tuple[TrackerInput, ...]:
        """What the unit's trackers see."""
        return self._of_job.get(("trackers", unit.id), job, lambda: trackers(job, unit))

    def key(self, job: Job) -> Hashable:
        """What the DC power of the array rests on."""

        def make() -> Hashable:
            units = tuple((self.trackers(job, unit), job.sheet_of(unit).eta_mppt) for unit in job.units)
            return (*selectors.sky(job), units)

        return self._of_job.get("sun", job, make)

    def dc_kw(self, job: Job) -> Floats:
        """DC power at the trackers, shape (unit, step), in kW, after each tracker's current limit."""
        return self._both(job)[0]

    def clipped_kwh(self, job: Job, unit: Unit, tracker: int) -> float:
        """What a tracker's current limit clips in a year, kWh; trackers are counted among those with
        strings."""
        return float(self._both(job)[1][job.units.index(unit)][tracker].sum() * STEP_H)

    def _both(self, job: Job) -> tuple[Floats, tuple[tuple[Floats, ...], ...]]:
        return self._of_job.get(
            "pv", job, lambda: self.memo.get(("pv", self.key(job)), lambda: self._units(job))
        )

    def _units(self, job: Job) -> tuple[Floats, tuple[tuple[Floats, ...], ...]]:
        rows, clipped = [], []
        for unit in job.units:
            eta = job.sheet_of(unit).eta_mppt
            total = np.zeros(STEPS)
            lost = []
            for tracker in self.trackers(job, unit):
                strings = [
                    (self.string_kw(job, string.modules, tracker.v_min), string.count, string.vmp_v)
                    for string in tracker.strings
                ]
                if not strings:  # none of them ever starts
                    lost.append(np.zeros(total.size))
                    continue
                power, over = tracker_kw(strings, tracker.imp_max_a, _in_parallel(tracker, strings))
                total += eta * power
                lost.append(eta * over)
            rows.append(total)
            clipped.append(tuple(lost))
        return np.array(rows), tuple(clipped)

    def string_kw(self, job: Job, modules: tuple[ModulesAt, ...], least_v: float) -> Floats:
        """DC power of a string over the year in kW, shape (step,)."""
        in_row = [at for at in modules if at.own is None]
        if len(modules) == len(in_row) == 1 and in_row[0].standing is None:
            return self.module_kw(job, in_row[0].plane) * in_row[0].count
        key = ("string", *selectors.sky(job), modules, least_v)
        return self.memo.get(key, lambda: self._string_kw(job, modules, least_v))

    def _string_kw(self, job: Job, modules: tuple[ModulesAt, ...], least_v: float) -> Floats:
        total = np.zeros(STEPS)
        in_row = []
        for at in modules:
            if at.own is None:
                in_row.append(at)
                continue
            total += through_own_kw(self.alone_kw(job, at), at.own) * at.count
            least_v -= at.count * at.vmp_v
        if not in_row:
            return total
        lit = self.lit(job)
        row_kw = modules_in_series_kw([self._in_row(job, at) for at in in_row], least_v, in_row[0].rise)
        total[lit] += row_kw
        return total

    def _in_row(self, job: Job, at: ModulesAt) -> InRow:
        if at.standing is not None:
            return self.shaded(job, at).in_row(at.vmp_v)
        group_kw, groups = self.module_kw(job, at.plane)[self.lit(job)] / GROUPS, float(GROUPS * at.count)
        return InRow(group_kw, groups, at.vmp_v / GROUPS, NONE, np.empty((0, GROUPS), np.float32))

    def alone_kw(self, job: Job, at: ModulesAt) -> Floats:
        """DC power of one module if it works for itself, shape (step,)."""
        if at.standing is None:
            return self.module_kw(job, at.plane)
        total = np.zeros(STEPS)
        total[self.lit(job)] = alone_kw(self.shaded(job, at), at.vmp_v, at.rise)
        return total

    def alone_kwh(self, job: Job, at: ModulesAt) -> tuple[float, float]:
        """Energy of one module in a year if it works for itself, kWh; and its hours in shade."""

        def make() -> tuple[float, float]:
            hours = 0.0 if at.standing is None else self.shaded(job, at).hours
            return float(self.alone_kw(job, at).sum() * STEP_H), hours

        return self.memo.get(("alone", *selectors.sky(job), at), make)

    def module_kw(self, job: Job, plane: Plane) -> Floats:
        """DC power of one unshaded module on a plane over the year in kW, shape (step,)."""
        sun = partial(sun_over_year, selectors.place(job))
        return self.memo.get(
            ("plane", *selectors.sky(job), plane), lambda: plane_dc_kw(plane, sun(), self.seen(job))
        )

    def shaded(self, job: Job, at: ModulesAt) -> Shaded:
        """The year of a module among solids."""
        stands, place = at.standing, selectors.place(job)
        assert stands is not None

        def make() -> Shaded:
            rays = self.memo.get(("rays", place, stands), lambda: rays_of(stands, sun_over_year(place)))
            return shaded_year(at.plane, rays, self._unshaded(job, at.plane), self.lit(job))

        return self.memo.get(("shaded", *selectors.sky(job), at.plane, stands), make)

    def lit(self, job: Job) -> Ints:
        """The steps of the year with light, their indices."""

        def make() -> Ints:
            weather = self.seen(job)
            return np.flatnonzero(weather.ghi_w_m2 + weather.dni_w_m2 + weather.dhi_w_m2 > 0)

        return self.memo.get(("lit", *selectors.sky(job)), make)

    def _unshaded(self, job: Job, plane: Plane) -> Unshaded:
        def make() -> Unshaded:
            sun, weather = sun_over_year(selectors.place(job)), self.seen(job)
            _, cell = plane_conditions(plane, sun, weather)
            return Unshaded(self.lights(job, plane), cell, weather.temp_air_c)

        return self.memo.get(("unshaded", *selectors.sky(job), plane), make)

    def lights(self, job: Job, plane: Plane) -> Lights:
        """The parts of the light on a plane over the year."""
        sun = partial(sun_over_year, selectors.place(job))
        key = ("lights", *selectors.sky(job), plane)
        return self.memo.get(key, lambda: plane_lights(plane, sun(), self.seen(job)))

    def seen(self, job: Job) -> Weather:
        """The year of weather as the place behind its horizon has it."""
        key = ("seen", *selectors.sky(job))
        return self.memo.get(key, lambda: selectors.seen(job, self._whole.weather(job)))


def _in_parallel(tracker: TrackerInput, strings: list[tuple[Floats, int, float]]) -> Floats | None:
    """What a tracker's strings give together where their volts differ; None where each gives its own best."""
    rows = [(kw, count * vmp) for kw, count, vmp in strings]
    if tracker.each_alone or len({round(volts, 6) for _, volts in rows}) < 2:
        return None
    return in_parallel_kw(rows, tracker.strings[0].points)
