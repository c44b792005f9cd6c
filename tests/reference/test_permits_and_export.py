"""Per-phase limits, permission by phase, and export on two phases under a limit on the sum."""

import pytest

from lodestaff.catalogue import load_pack
from lodestaff.checks.permits import PermitOnPhase, may_run, site_permit
from lodestaff.checks.voltage import Volts, site_voltage
from lodestaff.electrical.export_limits import limited_exports
from lodestaff.job import Change, edit


def on_phase(job, kva, **changes):
    pack = load_pack("uk")
    made = {"site": job.site, "phase": "L1", "registered_kva": kva, "units": (("Hybrid", kva),),
            "notify_a": pack.value("notify_a_per_phase"), "nominal": pack.value("nominal_v"),
            "permission_word": "approval"}  # fmt: skip
    return PermitOnPhase(**{**made, **changes})


def test_sixteen_amperes_a_phase(larkmoor):
    """Source: common practice (16 A per phase connect-and-notify limits). 3,680 W; 5,000 W is 5.739 A
    over."""
    pack = load_pack("uk")
    limit_w = pack.value("notify_a_per_phase").value * pack.value("nominal_v").value
    assert limit_w == pytest.approx(3680)
    assert 3 * limit_w == pytest.approx(11040)
    bare = edit(larkmoor, Change("site/permission/parallel_state", "not asked"))
    found = site_permit(on_phase(bare, 5.0))[0]
    assert found.blocks
    assert found.limit == pytest.approx(3.68)
    assert -found.margin * 1000 / 230 == pytest.approx(5.739, abs=0.001)
    assert (
        pytest.approx(14.55, abs=0.005) == 3680 / 253
    )  # a power at nominal voltage: fewer amperes at a high one
    assert site_permit(on_phase(bare, 3.68))[0].verdict == "passed"


def test_two_inverters_on_two_phases():
    """Source: derived; proportional reduction: design choice."""
    alone = limited_exports((5.0, 3.6, 0.0), (0.8, 2.1, 1.5), 3.68)
    assert alone.net_kw == pytest.approx((3.68, 1.5, -1.5))
    assert alone.output_kw == pytest.approx((4.48, 3.6, 0.0))
    assert alone.curtailed_kw[0] == pytest.approx(0.52)
    assert alone.total_kw == pytest.approx(3.68)
    both = limited_exports((5.0, 3.6, 0.0), (0.8, 2.1, 1.5), 3.68, 3.0)
    assert both.net_kw[:2] == pytest.approx((3.197, 1.303), abs=0.001)
    assert both.total_kw == pytest.approx(3.0)


def test_a_sum_of_nothing_takes_all_export():
    """By hand: at zero on the sum the exporting phase may only cover what another imports."""
    found = limited_exports((5.0, 0.0), (1.0, 1.5), 10.0, 0.0)
    assert found.net_kw == pytest.approx((1.5, -1.5))


@pytest.mark.parametrize(
    ("state", "kva", "export", "runs", "words"),
    [
        ("granted", 6.0, "granted", True, "and export"),
        ("granted", 6.0, "applied for", True, "nothing may be exported"),
        ("granted without export", 6.0, "applied for", True, "without export, until the final approval"),
        ("granted without export", 5.0, "applied for", False, "also not with zero export"),
        ("applied for", 6.0, "granted", False, "also not with zero export"),
        ("refused", 6.0, "granted", False, "on its island only"),
        ("expired", 6.0, "granted", False, "on its island only"),
    ],
)
def test_what_may_run_today(larkmoor, state, kva, export, runs, words):
    """Common practice: a zero-export setting doesn't replace permission to run in parallel; between
    energising and final approval the operator may allow running without export."""
    fact = {"value": kva, "known": "read on site", "note": "", "date": ""}
    job = edit(
        larkmoor,
        Change("site/permission/parallel_state", state),
        Change("site/permission/parallel_kva", fact),
        Change("site/permission/state", export),
        Change("limits/export_kw", 0.0),
    )
    answer, text = may_run(on_phase(job, 6.0))
    assert answer is runs
    assert words in text
    assert site_permit(on_phase(job, 6.0))[0].blocks is not runs


def test_rise_on_both_legs_of_a_split_service(larkmoor):
    """Source: derived; resistances NEC chapter 9 table 8 at 75 °C: 2 AWG Al 0.319, 6 AWG Cu 0.491 ohm/1000
    ft (from memory).

    11.4 kW between legs at 246 V: each leg rises over its own conductor, to 252.1 V between legs by
    constant power.
    """
    pack = load_pack("na")
    r_leg = (120 * 0.319 + 60 * 0.491) / 1000
    assert r_leg == pytest.approx(0.06774)
    job = edit(
        larkmoor,
        *(
            Change(f"site/supply/{name}", {"value": value, "known": "measured", "note": "", "date": ""})
            for name, value in (("voltage_v", 123.0), ("ze_ohm", 2 * 0.03828))
        ),
    )
    record = Volts(
        job.site,
        pack.value("voltage_low_v"),
        pack.value("voltage_high_v"),
        pack.value("nominal_v"),
        (("the top of the range", pack.value("voltage_high_v")),),
        11.4,
        "Unit",
        2 * 0.02946,
        2,
    )
    one = site_voltage(record)[1]
    assert 2 * one.figure.value == pytest.approx(252.1, abs=0.05)
    assert 47.5 * r_leg == pytest.approx(3.218, abs=0.001)
    assert one.verdict == "warns"  # 126.05 V on a leg; the range ends at 126
