"""The meter's log against the circuits: what is explained, what is not, and the two cures."""

from datetime import datetime, timedelta

import numpy as np
import pytest

from lodestaff.energy.calendar import is_weekend, month_of_step, standard_hour
from lodestaff.energy.metering import Logged
from lodestaff.energy.metering.clocks import minutes_of
from lodestaff.job import Change, edit
from lodestaff.reckoning.metered import UNLISTED, reconcile, scaled_changes, unlisted_change, usable_log


def log_of(kw_by_step, job):
    """The nominal year's quarter hours as a meter would have logged them in 2025, by the hour."""
    kwh = kw_by_step.reshape(-1, 4).mean(axis=1)
    starts = minutes_of(datetime(2025, 1, 1)) + np.arange(8760) * 60
    return Logged(starts, kwh, 60, job.time_zone, 0.0, (), ())


def total(reckoner, job):
    return np.sum([reckoner.circuit_kw(job, c) for c in job.circuits if not c.added], axis=0)


def test_its_own_circuits_are_explained_wholly(reckoner, larkmoor):
    found = reconcile(reckoner, larkmoor, log_of(total(reckoner, larkmoor), larkmoor))
    assert found.measured_kwh == pytest.approx(found.circuits_kwh, rel=1e-6)
    assert found.unexplained_kwh == pytest.approx(0, abs=1)
    assert found.over_kwh == pytest.approx(0, abs=1)


def test_a_load_that_nobody_listed_is_what_is_left(reckoner, larkmoor):
    """600 W from 9 to 16 on weekdays: 261 days x 7 h x 0.6 kW = 1,096 kWh (arithmetic; 2025 has 261
    weekdays)."""
    hour = standard_hour()
    extra = np.where((hour >= 9) & (hour < 16) & ~is_weekend(), 0.6, 0.0)
    found = reconcile(reckoner, larkmoor, log_of(total(reckoner, larkmoor) + extra, larkmoor))
    assert found.unexplained_kwh == pytest.approx(261 * 7 * 0.6, rel=0.002)
    change = unlisted_change(larkmoor, found)
    made = edit(larkmoor, change)
    listed = made.circuit(UNLISTED)
    assert listed.kwh_year == pytest.approx(found.unexplained_kwh, rel=0.01)
    assert sum(listed.weekend) < 0.02 * sum(listed.weekday)
    again = reconcile(reckoner, made, log_of(total(reckoner, larkmoor) + extra, larkmoor))
    assert again.unexplained_kwh < 0.2 * found.unexplained_kwh
    twice = edit(made, unlisted_change(made, found))  # it replaces itself, it doesn't pile up
    assert [c.id for c in twice.circuits].count(UNLISTED) == 1


def test_too_much_energy_is_brought_down_but_not_what_was_measured(reckoner, larkmoor):
    """The compressor was measured: its energy stays."""
    found = reconcile(reckoner, larkmoor, log_of(0.7 * total(reckoner, larkmoor), larkmoor))
    assert found.over_kwh == pytest.approx(0.3 * found.circuits_kwh, rel=0.01)
    made = edit(larkmoor, *scaled_changes(larkmoor, found))
    assert made.circuit("dental-compressor").kwh_year == larkmoor.circuit("dental-compressor").kwh_year
    assert made.circuit("car-charger").kwh_year == larkmoor.circuit("car-charger").kwh_year  # came later
    again = reconcile(reckoner, made, log_of(0.7 * total(reckoner, larkmoor), larkmoor))
    assert again.circuits_kwh == pytest.approx(found.measured_kwh, rel=0.001)


def test_what_came_later_is_not_in_the_log(reckoner, larkmoor):
    everything = np.sum([reckoner.circuit_kw(larkmoor, c) for c in larkmoor.circuits], axis=0)
    found = reconcile(reckoner, larkmoor, log_of(everything, larkmoor))
    assert found.unexplained_kwh == pytest.approx(larkmoor.circuit("car-charger").kwh_year, rel=0.01)


def test_months_that_were_not_logged_are_brought_to_a_year(reckoner, larkmoor):
    """Half a year of constant 1 kW is 8,760 kWh in a whole one."""
    starts = minutes_of(datetime(2025, 1, 1)) + np.arange(181 * 24) * 60
    half = Logged(starts, np.ones(starts.size), 60, "", 0.0, (), ())
    found = reconcile(reckoner, larkmoor, half)
    assert found.measured_kwh == pytest.approx(8760)
    assert np.isnan(found.logged_kw[8]).all()


def test_the_samples_log_is_mostly_explained(reckoner, larkmoor):
    log, why = usable_log(reckoner, larkmoor)
    assert why == ""
    found = reconcile(reckoner, larkmoor, log)
    assert 1 - found.unexplained_kwh / found.measured_kwh > 0.75
    assert len(log.gaps) == 1  # seven half hours of one day
    assert log.covered == pytest.approx(1 - 7 / (365 * 48))


def test_a_log_that_is_missing_says_so(larkmoor):
    from lodestaff.reckoning import Reckoner

    log, why = usable_log(Reckoner(), larkmoor)
    assert log is None
    assert "attachments are not at hand" in why
    assert (
        usable_log(Reckoner(), edit(larkmoor, Change("site/metered", None)))[1]
        == "no interval data of the meter is there"
    )


def test_weekends_of_the_log_are_saturday_and_sunday():
    """7 June 2025 was a Saturday (fact of the calendar)."""
    starts = minutes_of(datetime(2025, 6, 6)) + np.arange(72) * 60
    kwh = np.repeat([1.0, 2.0, 3.0], 24)
    mean, _ = Logged(starts, kwh, 60, "", 0.0, (), ()).by_month_and_hour()
    assert mean[5, 0, 0] == 1.0
    assert mean[5, 1, 0] == 2.5
    assert (datetime(2025, 6, 6) + timedelta(days=1)).weekday() == 5
    assert month_of_step()[0] == 0
