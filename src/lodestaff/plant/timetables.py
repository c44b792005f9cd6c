"""Circuits of a simulated site that run by their own timetables, seeded."""

from datetime import datetime, timedelta

import numpy as np

from lodestaff.job import Circuit, Job

WEEKEND = 5


class Timetables:
    """Begins runs at random, as often as a circuit's yearly energy and weights ask for; each lasts its
    minutes."""

    def __init__(self, job: Job, seed: int) -> None:
        self.job = job
        self._random = np.random.default_rng([seed, 4])
        self._until: dict[str, datetime] = {}
        self._minute: datetime | None = None

    def follow(self, now: datetime, running: dict[str, bool]) -> None:
        """Set which circuits run, once a minute of the site's clock."""
        minute = now.replace(second=0, microsecond=0)
        if minute == self._minute:
            return
        self._minute = minute
        for circuit in self.job.circuits:
            if circuit.kwh_year <= 0:
                continue
            if circuit.event_minutes is None:
                running[circuit.id] = True
                continue
            if self._until.get(circuit.id, minute) > minute:
                continue
            begins = self._random.uniform() < self.chance(circuit, minute)
            running[circuit.id] = bool(begins)
            if begins:
                self._until[circuit.id] = minute + timedelta(minutes=circuit.event_minutes)

    @staticmethod
    def chance(circuit: Circuit, at: datetime) -> float:
        """The chance that a run begins in this minute."""
        if circuit.event_minutes is None:
            return 1.0
        hours = circuit.weekend if at.weekday() >= WEEKEND else circuit.weekday
        if sum(hours) <= 0 or sum(circuit.months) <= 0:
            return 0.0
        runs_a_day = circuit.kwh_year / 365 / (circuit.running_w / 1000 * circuit.event_minutes / 60)
        share = hours[at.hour] / sum(hours) * circuit.months[at.month - 1] / (sum(circuit.months) / 12)
        return min(1.0, runs_a_day * share / 60)
