"""The simulated site keeps to physics: energy adds up, units follow their settings, faults show as they
would."""

from datetime import datetime

import pytest

from lodestaff.commissioning.expect import Conditions, string_isc, string_voc
from lodestaff.energy.mismatch import module_points
from lodestaff.job import Change, edit
from lodestaff.plant import FAULTS, Plant, PlantStart
from lodestaff.plant.array import BuiltString, gap_ev, string_curve, tracker_point
from lodestaff.plant.faults import fault_named
from lodestaff.plant.instruments import Instruments
from lodestaff.plant.settings import WindowSlot
from lodestaff.quantities.errors import JobError


@pytest.fixture
def plant(larkmoor):
    return Plant(larkmoor)


def hybrid(plant):
    return plant.units["hybrid"]


# --- array ----------------------------------------------------------------------------------------------
@pytest.fixture(scope="module")
def points(larkmoor):
    return module_points(larkmoor.sheets.modules["module-440"])


def one_string(points, count=10):
    return BuiltString("s", "u/A", (("f", points, count),))


def test_the_diode_gives_back_the_sheet(points):
    """The sheet's own points at standard conditions, and its fall of voltage with temperature."""
    curve = string_curve(one_string(points, 1), {"f": 1000.0}, {"f": 25.0})
    assert curve.voc_v == pytest.approx(39.6, rel=2e-3)
    assert curve.isc_a == pytest.approx(13.9, rel=5e-3)
    power = max(curve.amps * curve.volts)
    assert power == pytest.approx(440.0, rel=0.01)
    hot = string_curve(one_string(points, 1), {"f": 1000.0}, {"f": 50.0})
    assert hot.voc_v / curve.voc_v - 1 == pytest.approx(-0.26 / 100 * 25, rel=0.01)
    assert 0.3 < gap_ev(points) < 3.5


def test_the_plant_and_the_expectation_agree_by_two_formulas(larkmoor, points):
    """Single diode against straight lines from the sheet, within the tolerance of a string test."""
    module = larkmoor.sheets.modules["module-440"]
    for poa, cell in ((1000.0, 25.0), (742.0, 47.0), (500.0, 20.0)):
        curve = string_curve(one_string(points), {"f": poa}, {"f": cell})
        conditions = Conditions(poa, cell)
        assert curve.voc_v == pytest.approx(string_voc(module, 10, conditions), rel=0.035)
        assert curve.isc_a == pytest.approx(string_isc(module, conditions), rel=0.02)


def test_a_tracker_keeps_to_its_window_and_current(larkmoor, points):
    tracker = larkmoor.sheets.hybrids["hybrid-6"].trackers[0]
    curve = string_curve(one_string(points), {"f": 900.0}, {"f": 40.0})
    volts, amps = tracker_point((curve,), tracker)
    assert tracker.v_min <= volts <= tracker.v_max
    assert amps <= tracker.imp_max_a
    assert tracker_point((), tracker) == (0.0, 0.0)
    short = string_curve(one_string(points, 3), {"f": 900.0}, {"f": 40.0})
    assert tracker_point((short,), tracker) == (0.0, 0.0)
    both, alone = tracker_point((curve, curve), tracker), volts * amps
    assert both[1] <= tracker.imp_max_a
    assert both[0] * both[1] < 2 * alone


def test_a_string_on_two_faces_bypasses_the_darker(points):
    string = BuiltString("s", "u/A", (("sun", points, 6), ("shade", points, 4)))
    curve = string_curve(string, {"sun": 900.0, "shade": 200.0}, {"sun": 40.0, "shade": 20.0})
    bright = string_curve(one_string(points, 6), {"f": 900.0}, {"f": 40.0})
    assert max(curve.amps * curve.volts) < max(bright.amps * bright.volts)
    assert curve.isc_a == pytest.approx(bright.isc_a, rel=0.02)


# --- units ----------------------------------------------------------------------------------------------
def test_energy_adds_up(plant):
    unit = hybrid(plant)
    plant.run_circuit("autoclave", True)
    before = unit.battery.energy_kwh
    plant.advance(600)
    eta = unit.battery.sheet.eta_round_trip**0.5
    assert unit.ac_kw + plant.site_kw == pytest.approx(2.3, abs=0.02)  # and what the wires take
    assert unit.ac_kw == pytest.approx(unit.ac_of(unit.pv_used_kw + unit.battery.power_kw), abs=1e-6)
    charged = unit.battery.energy_kwh - before
    assert charged == pytest.approx(-unit.battery.power_kw * eta / 6, rel=0.1)


def test_sun_to_circuits_then_battery_then_export(plant):
    unit = hybrid(plant)
    plant.advance(60)
    assert unit.battery.power_kw == pytest.approx(-5.5, abs=0.05)  # the sheet's most
    assert plant.site_kw < 0
    plant.set_time(datetime(2026, 6, 18, 23, 30))
    plant.run_circuit("autoclave", True)
    plant.advance(60)
    assert unit.pv_used_kw == 0
    assert unit.battery.power_kw > 2.3
    assert abs(plant.site_kw) < 0.05


def test_the_reserve_is_kept_with_the_grid(plant):
    unit = hybrid(plant)
    plant.set_time(datetime(2026, 6, 18, 23, 30))
    unit.settings.reserve_pct = 60.0
    plant.run_circuit("autoclave", True)
    plant.advance(60)
    assert unit.battery.power_kw >= 0  # no charging; its own use at most
    assert plant.site_kw > 2.3


def test_the_export_limit_holds_the_array_back(plant):
    unit = hybrid(plant)
    unit.settings.export_kw, unit.settings.export_enabled, unit.hold_battery = 1.5, True, True
    plant.advance(60)
    assert -plant.site_kw == pytest.approx(1.5, rel=0.03)
    assert unit.pv_used_kw < unit.pv_there_kw


def test_a_window_charges_by_the_units_own_clock(plant):
    unit = hybrid(plant)
    unit.settings.mode = "time of use"
    unit.settings.windows[0] = WindowSlot(60, 300, 80.0, 3.0, True)
    plant.set_device_clock("hybrid", datetime(2026, 6, 19, 2, 0))
    plant.set_time(plant.now)
    plant.hands["hybrid-array-a-isolator"] = plant.hands["hybrid-array-b-isolator"] = "open"
    plant.advance(60)
    assert unit.battery.power_kw == pytest.approx(-3.0, rel=0.05)
    unit.settings.clock_error_s += 12 * 3600
    plant.advance(60)
    assert unit.battery.power_kw >= 0  # no charging; its own use at most


@pytest.mark.parametrize(("start", "end", "minute", "inside"), [(60, 300, 60, True), (60, 300, 300, False),
                         (1380, 120, 30, True), (1380, 120, 600, False), (60, 60, 60, False)])  # fmt: skip
def test_windows_over_midnight(start, end, minute, inside):
    assert WindowSlot(start, end, 80.0, 3.0, True).holds(minute) is inside


def test_an_outage_feeds_the_essential_board_alone(plant):
    plant.run_circuit("server", True)
    plant.run_circuit("autoclave", True)
    plant.set_grid(False)
    plant.advance(10)
    unit = hybrid(plant)
    assert unit.mode == "island"
    assert unit.ac_kw == pytest.approx(0.23, rel=5e-3)
    assert plant.site_kw == 0
    dead = Instruments(plant).dead_circuits()
    assert "autoclave" in dead
    assert "server" not in dead


def test_an_overload_trips_the_island(plant):
    for circuit in plant.job.circuits:
        plant.run_circuit(circuit.id, True)
    plant.set_grid(False)
    plant.advance(5)
    assert hybrid(plant).tripped == "overload"
    assert hybrid(plant).ac_kw == 0
    plant.set_grid(True)
    plant.advance(5)
    assert hybrid(plant).tripped == ""


def test_modules_warm_with_a_lag(plant):
    face = plant.job.faces[0].id
    warm = plant.back_c[face]
    plant.set_time(datetime(2026, 6, 18, 23, 30))
    plant.advance(60)
    after_a_minute = plant.back_c[face]
    plant.advance(1800)
    assert warm > after_a_minute > plant.back_c[face]
    assert after_a_minute > warm - 10


def test_same_seed_same_site_other_seed_other_noise(larkmoor):
    def readings(seed):
        plant = Plant(larkmoor, PlantStart(seed=seed))
        plant.advance(30)
        return plant.meter_kw, plant.poa_w_m2["south-east"]

    assert readings(4) == readings(4)
    assert readings(4) != readings(5)


def test_the_meter_errs_within_its_class(larkmoor):
    for seed in range(10):
        assert abs(Plant(larkmoor, PlantStart(seed=seed)).meter_gain - 1) <= 0.02


# --- faults and hands
# -------------------------------------------------------------------------------------------
def faulty(larkmoor, name):
    return Plant(larkmoor, PlantStart(faults=(fault_named(name),)))


def test_a_reversed_ct_lets_the_unit_run_away(larkmoor):
    plant = faulty(larkmoor, "ct-reversed")
    hybrid(plant).hold_battery = True
    plant.run_circuit("staff-kitchen", True)
    plant.advance(60)
    assert plant.meter_kw * plant.site_kw < 0


def test_a_missing_module_lowers_the_last_string(larkmoor):
    whole, short = Plant(larkmoor), faulty(larkmoor, "module-missing")
    assert short.curve_of("string-2").voc_v == pytest.approx(
        whole.curve_of("string-2").voc_v * 7 / 8, rel=1e-3
    )
    assert short.curve_of("string-1").voc_v == pytest.approx(whole.curve_of("string-1").voc_v, rel=1e-3)


def test_the_bond_relay_that_stays_open(larkmoor):
    for plant, bonded in ((Plant(larkmoor), True), (faulty(larkmoor, "bond-open"), False)):
        assert Instruments(plant).island_loop_ohm("hybrid") < 5
        plant.set_grid(False)
        plant.advance(2)
        assert (Instruments(plant).island_loop_ohm("hybrid") < 5) is bonded


def test_the_units_clock_follows_household_time(larkmoor):
    plant = Plant(larkmoor)
    assert plant.right_clock().hour == 13  # an hour ahead of standard time in June
    plant.set_device_clock("hybrid", plant.right_clock())
    assert plant.device_clock("hybrid") == plant.right_clock()
    slipped = faulty(larkmoor, "clock-half-day")
    slipped.set_device_clock("hybrid", slipped.right_clock())
    assert (slipped.device_clock("hybrid") - slipped.right_clock()).total_seconds() == 12 * 3600
    standard = Plant(edit(larkmoor, Change("limits/device_clock", "standard")))
    assert standard.right_clock() == standard.now


def test_what_is_not_there_is_refused_with_the_choices(plant):
    with pytest.raises(JobError, match="main-isolator"):
        plant.switch("main-isolator", "ajar")
    with pytest.raises(JobError, match="choose from"):
        plant.run_circuit("sauna", True)
    with pytest.raises(JobError, match="choose from"):
        plant.set_by_hand("hybrid", "colour", 1)
    with pytest.raises(JobError, match="choose from"):
        fault_named("gremlins")
    with pytest.raises(JobError):
        Instruments(plant).insulation_mohm("string-9")
    assert len({fault.name for fault in FAULTS}) == len(FAULTS)


def test_at_night_there_is_no_sun(larkmoor):
    plant = Plant(larkmoor, PlantStart(at=datetime(2026, 12, 21, 23, 0)))
    plant.advance(5)
    assert max(plant.poa_w_m2.values()) == 0
    assert hybrid(plant).pv_there_kw == 0


def test_heaters_draw_by_the_square_of_the_voltage(plant):
    """3 kW at 230 V draw 3 x (V/230) squared at the measured voltage (derived)."""
    plant.set_time(datetime(2026, 6, 18, 23, 30))
    hybrid(plant).standby = True
    plant.run_circuit("immersion", True)
    plant.advance(5)
    volts = plant.supply_v()
    assert 230 < volts < 238
    assert plant.site_kw == pytest.approx(3.0 * (volts / 230) ** 2, rel=4e-3)
    assert Instruments(plant).clamp_kw() == pytest.approx(plant.site_kw, rel=0.02)


def test_circuits_run_by_their_timetables(larkmoor):
    """Over a day each circuit runs about as long as its yearly energy asks for."""
    plant = Plant(larkmoor, PlantStart(at=datetime(2026, 6, 18, 0, 0), seed=2, timetables=True))
    hours = dict.fromkeys(plant.running, 0.0)
    at = plant.now
    from datetime import timedelta

    for _ in range(7 * 1440):
        at += timedelta(minutes=1)
        plant.timetables.follow(at, plant.running)
        for name, on in plant.running.items():
            hours[name] += on / 60
    kwh = sum(hours[c.id] * c.running_w / 1000 for c in larkmoor.circuits)
    wanted = sum(c.kwh_year / 52 * c.months[5] / (sum(c.months) / 12) for c in larkmoor.circuits)
    assert kwh == pytest.approx(wanted, rel=0.35)
    steady = next(c for c in larkmoor.circuits if c.event_minutes is None and c.kwh_year > 0)
    assert hours[steady.id] == pytest.approx(168, abs=1)
