"""Figures: cached by what they rest on, balanced, and the same however they were reached."""

import numpy as np
import pytest

from lodestaff.energy.calendar import month_of_step
from lodestaff.job import Change, edit
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Moment, Reckoner, Sky
from lodestaff.reckoning.figures import imbalance_kwh
from lodestaff.reckoning.memo import Memo, size_of
from lodestaff.reckoning.moment import day_of, step_of_moment
from lodestaff.reckoning.readings import limits_readings, loads_readings
from lodestaff.reckoning.results import compute
from lodestaff.reckoning.wire_readings import wire_readings


def test_the_demo_year_balances_in_every_step(reckoner, larkmoor):
    """Within 1e-9 kWh at the AC bus, the DC bus, the cells and the array."""
    for value in imbalance_kwh(reckoner.year(larkmoor), reckoner.converters(larkmoor)).values():
        assert value < 1e-9


def test_the_year_as_a_whole_balances(reckoner, larkmoor):
    """Sun and import = load, own use, export, losses and what is left in the battery, within rounding."""
    f = reckoner.figures(larkmoor)
    into = f.pv_kwh + f.import_kwh
    out = f.load_kwh + f.own_use_kwh + f.export_kwh + f.battery_loss_kwh + f.energy_change_kwh
    year = reckoner.year(larkmoor)
    units = reckoner.converters(larkmoor)[0]
    discharge = np.clip(year.series.battery_ac_kw, 0, None)
    inverting = (
        units.k1 * discharge + units.k2 * (discharge**2 + 2 * discharge * year.series.pv_ac_kw)
    ).sum() / 4
    taken = np.clip(-year.series.battery_ac_kw, 0, None)
    rectifying = (taken - np.clip(-year.series.battery_dc_kw, 0, None) * (taken > 0)).sum() / 4
    assert into == pytest.approx(out + inverting + rectifying, rel=2e-3)


def test_shares_are_by_their_definitions(reckoner, larkmoor):
    f = reckoner.figures(larkmoor)
    assert f.self_consumption == pytest.approx(1 - f.export_kwh / f.pv_kwh)
    assert f.self_sufficiency == pytest.approx(1 - f.import_kwh / f.load_kwh)
    assert f.bill == pytest.approx(f.money.import_cost - f.money.export_income + f.money.standing)


def test_a_fresh_reckoner_gives_the_same_bits(reckoner, larkmoor):
    again = Reckoner().figures(larkmoor)
    assert again == reckoner.figures(larkmoor)


def test_an_edit_recomputes_what_it_touches_and_nothing_else(larkmoor):
    reckoner = Reckoner()  # of a memory of its own: that of all tests lets go of the oldest
    reckoner.figures(larkmoor)
    other = edit(larkmoor, Change("limits/export_kw", 1.0))
    assert reckoner.weather(other) is reckoner.weather(larkmoor)
    assert reckoner.year(other) is not reckoner.year(larkmoor)
    moved = edit(larkmoor, Change("circuits/server/role", "grid only"))
    assert reckoner.year(moved) is reckoner.year(larkmoor)
    assert reckoner.island(moved, moved.units[0]) is not reckoner.island(larkmoor, larkmoor.units[0])


def test_renaming_touches_no_figure(larkmoor):
    reckoner = Reckoner()
    renamed = edit(larkmoor, Change("title", "Another name"), Change("circuits/server/name", "Rack"))
    assert reckoner.year(renamed) is reckoner.year(larkmoor)


def test_a_tighter_export_limit_exports_less_and_loses_more(reckoner, larkmoor):
    tight = reckoner.figures(edit(larkmoor, Change("limits/export_kw", 0.5)))
    loose = reckoner.figures(larkmoor)
    assert tight.export_kwh < loose.export_kwh
    assert tight.curtailed_kwh > loose.curtailed_kwh


def test_low_band_by_the_clock_it_follows(reckoner, larkmoor):
    """The tariff's low band by the standard clock; by the household clock it is an hour earlier in summer."""
    july = month_of_step() == 6
    standard = reckoner.low_band(larkmoor)[july]
    household = reckoner.low_band(edit(larkmoor, Change("tariff/clock", "household")))[july]
    assert np.array_equal(standard, np.roll(household, 4))


def test_weather_from_an_attachment(larkmoor):
    from pathlib import Path

    import pvlib

    raw = (Path(pvlib.__file__).parent / "data" / "723170TYA.CSV").read_bytes()
    job = edit(
        larkmoor,
        Change("site/weather", {"kind": "file", "format": "tmy3", "sha256": "a" * 64, "name": "typical.csv"}),
        Change("site/latitude_deg", 36.1),
        Change("site/longitude_deg", -79.95),
        Change("site/utc_offset_h", -5),
    )
    reckoner = Reckoner(lambda digest: raw)
    assert reckoner.weather(job).source == "typical.csv"
    assert reckoner.figures(job).pv_kwh > 9000
    with pytest.raises(JobError, match="attachments are not at hand"):
        Reckoner().weather(job)


def test_a_unit_without_a_battery_holds_no_outage(reckoner, larkmoor):
    data = larkmoor.model_dump(mode="json")
    data["banks"] = []
    from lodestaff.job.edit import validated

    job = validated(data)
    assert reckoner.figures(job).battery_out_kwh == 0
    with pytest.raises(JobError, match="has no battery"):
        reckoner.outage(job, job.units[0], Moment())
    results = compute(reckoner, job, Moment(), with_promise=True)
    assert results.outages == ()
    assert loads_readings(results)


class TestMemo:
    def test_it_is_bounded_in_bytes(self):
        memo = Memo(most_bytes=10_000)
        for number in range(50):
            memo.get(number, lambda: np.zeros(500))
        assert memo.held_bytes <= 10_000

    def test_what_was_used_last_is_kept(self):
        memo = Memo(most_bytes=9_000)
        made = []

        def make(name):
            return lambda: made.append(name) or np.zeros(500)

        for name in ("a", "b", "a", "c", "a"):
            memo.get(name, make(name))
        assert made == ["a", "b", "c"]

    def test_a_failure_is_not_remembered(self):
        memo = Memo()
        with pytest.raises(ZeroDivisionError):
            memo.get("x", lambda: 1 / 0)
        assert memo.get("x", lambda: 7) == 7

    def test_sizes_count_arrays_inside(self):
        assert size_of((np.zeros(10), [np.zeros(5)])) == 120


class TestMoment:
    def test_skies_are_days_of_the_month_by_their_sun(self, reckoner, larkmoor):
        ghi = reckoner.weather(larkmoor).ghi_w_m2
        sums = ghi.reshape(365, -1).sum(axis=1)
        for month in (1, 6, 12):
            dull, mixed, clear = (
                day_of(Moment(month=month, sky=sky), ghi) for sky in (Sky.DULL, Sky.MIXED, Sky.CLEAR)
            )
            assert sums[dull] < sums[mixed] < sums[clear]
            assert {month_of_step()[day * 96] for day in (dull, mixed, clear)} == {month - 1}

    def test_the_hour_is_a_step_of_that_day(self, reckoner, larkmoor):
        ghi = reckoner.weather(larkmoor).ghi_w_m2
        moment = Moment(month=3, hour=18.75)
        assert step_of_moment(moment, ghi) == day_of(moment, ghi) * 96 + 75

    def test_a_set_charge_is_taken_over_the_simulated_one(self, reckoner, larkmoor):
        unit = larkmoor.units[0]
        assert reckoner.energy_at(larkmoor, unit, Moment(soc=0.5)) == pytest.approx(0.5 * 19.2)
        simulated = reckoner.energy_at(larkmoor, unit, Moment())
        assert 0.3 * 19.2 - 1e-9 <= simulated <= 19.2


class TestResults:
    def test_a_day_flows_balance(self, reckoner, larkmoor):
        flows = compute(reckoner, larkmoor, Moment(month=6, hour=13)).flows
        into = flows.sun + flows.battery_out + flows.imported
        out = flows.circuits + flows.into_battery + flows.exported
        assert into == pytest.approx(out, abs=1e-9)
        assert flows.summer_time
        assert flows.at(13) == 4

    def test_the_night_ahead_begins_with_what_is_in_the_battery(self, reckoner, larkmoor):
        (view,) = compute(reckoner, larkmoor, Moment(soc=0.9)).outages
        assert view.soc[0] == pytest.approx(0.9)
        assert (np.diff(view.soc) <= 1e-12).any()

    def test_nights_sum_to_what_the_island_draws(self, reckoner, larkmoor):
        """The blocks' heights are the held circuits' energy in the month's nights."""
        results = compute(reckoner, larkmoor, Moment(month=1))
        held = sum(
            kwh for circuit, kwh in results.night_kwh.items() if larkmoor.circuit(circuit).role == "held"
        )
        nights = []
        series = sum(reckoner.circuit_kw(larkmoor, c) for c in larkmoor.circuits if c.role == "held")
        for day in range(31):
            start = day * 96 + 68
            nights.append(series[start : start + 40].sum() / 4)
        assert held == pytest.approx(np.mean(nights))

    def test_readings_carry_their_working(self, reckoner, larkmoor):
        results = compute(reckoner, larkmoor, Moment(), with_promise=True)
        readings = (
            loads_readings(results)
            + limits_readings(results)
            + wire_readings(reckoner.wiring(larkmoor).answers[1], "island")
        )
        for reading in readings:
            assert reading.figure.formula
            assert reading.figure.source.text
            assert 0 <= reading.share <= 1
            assert reading.status in ("blocks", "warns", "notes", "open", "passed")
        names = [reading.name for reading in readings]
        assert len(set(names)) == len(names) - 1  # the bill stands at both stations

    def test_the_promise_is_the_bill_with_the_reserve_it_needs(self, reckoner, larkmoor):
        results = compute(reckoner, larkmoor, Moment(), with_promise=True)
        kept = edit(
            larkmoor,
            Change("limits/reserve_soc", results.promise_soc),
            Change("limits/shed_soc", results.promise_soc),
        )
        expected = reckoner.figures(kept).bill - reckoner.figures(larkmoor).bill
        assert results.promise_cost == pytest.approx(expected)


def test_a_try_out_asks_for_the_findings_of_its_station_only(reckoner, larkmoor):
    """The same findings as the whole, no others."""
    from lodestaff.reckoning.findings import findings, station_of

    whole = findings(reckoner, larkmoor, False)
    for station in ("loads", "array", "limits"):
        part = findings(reckoner, larkmoor, False, stations=frozenset([station]))
        assert part == tuple(one for one in whole if station_of(one.code) == station)
        assert part
