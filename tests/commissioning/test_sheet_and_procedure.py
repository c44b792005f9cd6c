"""The settings sheet speaks the device's scale; the procedure waits where it must."""

import pytest

from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.procedure import procedure
from lodestaff.commissioning.settings_sheet import device_soc_pct, settings_sheet
from lodestaff.job import Change, edit
from lodestaff.quantities.errors import JobError
from lodestaff.topology import build

CONDITIONS = Conditions(742, 47)


@pytest.fixture
def steps(larkmoor):
    return procedure(larkmoor, build(larkmoor))


def test_every_setting_has_a_reason_and_a_way(larkmoor):
    sheet = settings_sheet(larkmoor, build(larkmoor))
    keys = [setting.key for setting in sheet]
    assert len(set(keys)) == len(keys)
    assert {
        "clock",
        "grid_profile",
        "mode",
        "serves",
        "export_of",
        "export_kw",
        "import_kw",
        "reserve_soc",
        "charge_kw",
        "window:night",
    } <= set(keys)
    assert all(setting.because and setting.shown for setting in sheet)
    ways = {setting.key: setting.way for setting in sheet}
    assert ways["export_kw"] == "over the link"
    assert ways["grid_profile"] == "by hand, read off"


def test_the_devices_own_scale(larkmoor):
    """Floor 10 %, top 100 %: a reserve of 30 % is 22 % where the device counts its usable part as 0 to
    100."""
    battery = larkmoor.sheets.batteries["battery-48"]
    assert device_soc_pct(0.3, battery) == pytest.approx(30)
    usable = battery.model_copy(update={"device_counts_usable": True})
    assert device_soc_pct(0.3, usable) == pytest.approx(100 * 0.2 / 0.9)
    assert (device_soc_pct(0.1, usable), device_soc_pct(1.0, usable)) == pytest.approx((0, 100))
    job = edit(larkmoor, Change("sheets/batteries/battery-48/device_counts_usable", True))
    reserve = next(setting for setting in settings_sheet(job, build(job)) if setting.key == "reserve_soc")
    assert reserve.shown == "22 % of usable, the device's scale"


def test_without_windows_the_mode_is_self_consumption(larkmoor):
    job = edit(larkmoor, Change("limits/windows/night", None))
    modes = {setting.key: setting.value for setting in settings_sheet(job, build(job))}
    assert modes["mode"] == "self-consumption"
    assert not any(key.startswith("window") for key in modes)


def test_a_step_waits_only_for_steps_before_it(steps):
    seen = set()
    for step in steps:
        assert set(step.waits_for) <= seen, step.id
        assert step.id not in seen
        seen.add(step.id)


def test_the_stages_stand_in_the_order_of_the_trade(steps):
    stages = list(dict.fromkeys(step.stage for step in steps))
    assert stages == ["dead tests", "strings", "start", "settings", "function"]
    assert steps[0].id == "prove-dead"
    ids = [step.id for step in steps]
    assert ids.index("software") < ids.index("set-hybrid-clock") < ids.index("ct") < ids.index("outage")


@pytest.mark.parametrize(
    "order", [("battery", "grid", "array"), ("grid", "battery", "array"), ("array", "battery", "grid")]
)
def test_the_start_is_in_the_equipments_order(larkmoor, order):
    job = edit(larkmoor, Change("sheets/hybrids/hybrid-6/start_order", list(order)))
    starts = [step.id for step in procedure(job, build(job)) if step.id.startswith("start-")]
    assert starts == [f"start-hybrid-{source}" for source in order]


def test_a_start_order_names_each_source_once(larkmoor):
    with pytest.raises(JobError, match="start_order"):
        edit(larkmoor, Change("sheets/hybrids/hybrid-6/start_order", ["grid", "grid", "array"]))


def test_every_string_is_tested_for_its_conditions(larkmoor, steps):
    found = {step.id: step.rule.expected(CONDITIONS) for step in steps}
    assert found["voc-string-1"].value == pytest.approx(10 * 39.6 * (1 - 0.26 / 100 * 22))
    assert found["isc-string-2"].value == pytest.approx(13.9 * 0.742 * (1 + 0.046 / 100 * 22))
    assert found["insulation-string-1"].low == 1.0


def test_power_is_expected_of_the_strings_that_are_in(larkmoor):
    """440 W x 10 in string 1 on tracker A; with string 2 away, tracker B's step needs it."""
    steps = {step.id: step for step in procedure(larkmoor, build(larkmoor), ["string-2"])}
    assert steps["power-hybrid-a"].rule.expected(CONDITIONS).value == pytest.approx(
        4.4 * 0.742 * (1 - 0.33 / 100 * 22) * 0.965
    )
    assert "in yet" in steps["power-hybrid-b"].needs
    assert "not in yet" in steps["voc-string-2"].needs
    assert "voc-string-2" not in steps["supply-v"].waits_for


def test_only_known_parts_are_proven(larkmoor, steps):
    topology = build(larkmoor)
    known = set(topology.parts) | {conductor.id for conductor in topology.conductors}
    for step in steps:
        assert set(step.proves) <= known, step.id


def test_cautions_stand_at_their_steps(larkmoor, steps):
    by_id = {step.id: step for step in steps}
    assert by_id["prove-dead"].caution == larkmoor.pack.cautions["prove_dead"]
    assert "daylight" in by_id["voc-string-1"].caution
    assert "not isolation" in by_id["bypass"].caution
    assert "cut-out" in by_id["outage"].caution


def test_without_a_bypass_it_is_not_tested(larkmoor):
    job = edit(larkmoor, Change("wiring/bypass", False))
    assert "bypass" not in {step.id for step in procedure(job, build(job))}


def test_each_setting_is_a_step_that_is_read_back(larkmoor, steps):
    setting_steps = [step for step in steps if step.id.startswith("set-")]
    assert len(setting_steps) == len(settings_sheet(larkmoor, build(larkmoor)))
    assert all("read it back" in step.text for step in setting_steps)
