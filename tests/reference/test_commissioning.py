"""Expected readings and registers, against values computed twice elsewhere."""

import pytest

from lodestaff.catalogue import ModuleSheet
from lodestaff.commissioning.expect import (
    Conditions,
    ac_power_w,
    array_w,
    hybrid_meter_day,
    insulation_test,
    net_generation_kwh,
    string_isc,
    string_voc,
)
from lodestaff.commissioning.reading import Reading, Status, judge
from lodestaff.commissioning.rules import StringAmps, StringVolts
from lodestaff.commissioning.step import Step

MODULE = ModuleSheet(
    name="module",
    pmp_w=540.3,
    voc_v=49.62,
    isc_a=13.88,
    vmp_v=41.34,
    imp_a=13.07,
    alpha_isc_pct_per_k=0.046,
    beta_voc_pct_per_k=-0.272,
    gamma_pmp_pct_per_k=-0.34,
    length_m=2.2,
    width_m=1.1,
)


def judged(rule, number, conditions):
    """A reading by an instrument in its calibration, judged by itself."""
    reading = Reading(
        "step",
        (number,),
        conditions=conditions,
        by="tester",
        instrument="meter",
        calibrated_until="2027-01-01",
        at="2026-11-25T10:00:00+00:00",
    )
    return judge(Step("step", "strings", "", rule), reading, {})


@pytest.mark.parametrize(
    ("modules", "voc", "system", "test_v", "least"),
    # Source: IEC 62446-1 table 1, arrays up to 10 kWp (from memory).
    [
        (2, 41.2, 103.0, 250, 0.5),
        (8, 49.62, 496.2, 500, 1.0),
        (9, 49.62, 558.2, 1000, 1.0),
        (12, 49.62, 744.3, 1000, 1.0),
    ],
)
def test_insulation_test_voltage_and_minimum(modules, voc, system, test_v, least):
    found = insulation_test(modules, voc)
    assert found.system_v == pytest.approx(system, rel=1e-3)
    assert (found.test_v, found.least_mohm) == (test_v, least)


def test_string_voltage_and_current_at_the_measured_conditions():
    """Source: IEC 62446-1 string tests; tolerance 5 %: common practice (from memory)."""
    conditions = Conditions(742, 47)
    volts = judged(StringVolts(((MODULE, 9),)), 414.8, conditions)
    amps = judged(StringAmps(MODULE), 9.72, conditions)
    assert volts.expected.value == pytest.approx(419.9, rel=1e-3)
    assert volts.deviation_pct == pytest.approx(-1.204, rel=1e-3)
    assert volts.status is Status.PASSED
    assert amps.expected.value == pytest.approx(10.40, rel=1e-3)
    assert amps.deviation_pct == pytest.approx(-6.567, rel=1e-3)
    assert amps.status is Status.FAILED


def test_ac_power_at_the_measured_conditions():
    """Source: derived; IEC 62446-1 performance check."""
    warm = ac_power_w(4860, -0.34, Conditions(812, 51.5), 0.965, 0.972, 3680)
    assert warm == pytest.approx(3368, rel=1e-3)
    assert 3310 / warm == pytest.approx(0.9828, rel=1e-3)
    assert ac_power_w(4860, -0.34, Conditions(1000, 15), 0.965, 0.972, 1e9) == pytest.approx(4714, rel=1e-3)
    assert ac_power_w(4860, -0.34, Conditions(1000, 15), 0.965, 0.972, 3680) == 3680
    assert array_w(4860, -0.34, Conditions(812, 51.5), 1.0) == pytest.approx(3591, rel=1e-3)
    assert string_voc(MODULE, 9, Conditions(742, 47)) == pytest.approx(419.9, rel=1e-3)
    assert string_isc(MODULE, Conditions(742, 47)) == pytest.approx(10.40, rel=1e-3)


def test_net_generation_over_a_rollover():
    """Source: common practice."""
    out, into, net = net_generation_kwh(99812.4, 254.9, 1234.5, 1301.9, 100_000)
    assert (out, into, net) == pytest.approx((442.5, 67.40, 375.1), rel=1e-3)
    assert net * 0.152 == pytest.approx(57.02, rel=1e-3)


def test_a_two_way_meter_on_a_hybrid_that_charges_from_the_grid_at_night():
    """Source: derived."""
    found = hybrid_meter_day(15, 6, 0.98, 4, 0.955, 0.95, 0.96)
    assert found.out_kwh == pytest.approx(17.49, rel=1e-3)
    assert found.in_kwh == 4
    assert found.net_kwh == pytest.approx(13.49, rel=1e-3)
    assert found.net_without_grid_charge_kwh == pytest.approx(14.00, rel=1e-3)
    assert found.grid_cycle_loss_kwh == pytest.approx(0.5162, rel=1e-3)
