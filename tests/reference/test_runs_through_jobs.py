"""Worked examples of runs, faults, rods and rises, reached by a job's findings and proposals."""

import pytest

from lodestaff.checks import checks_named
from lodestaff.job import Change, edit
from lodestaff.reckoning.cabling import proposed
from lodestaff.reckoning.records import RECORDS

READ, MEASURED = {"known": "read on site"}, {"known": "measured"}
KNOWN = {"value": "yes", **READ}


def found(reckoner, job, code, subject=""):
    return [
        one
        for check in checks_named(code)
        for record in RECORDS[check.record](reckoner, job, False)
        for one in check.function(record)
        if not subject or subject in one.subjects
    ]


def inputs(finding):
    return {one.name: one.value for one in finding.figure.inputs}


def cable(job, run, **fields):
    return edit(job, *(Change(f"cables/{run}/{name}", value) for name, value in fields.items()))


def strung(job, imp_a, vmp_v):
    """The first string, of ten modules, at a current and volts of its own."""
    one, sheet = vmp_v / 10, "sheets/modules/module-440"
    return edit(
        job,
        Change(f"{sheet}/imp_a", imp_a),
        Change(f"{sheet}/isc_a", imp_a * 1.06),
        Change(f"{sheet}/vmp_v", one),
        Change(f"{sheet}/voc_v", one * 1.2),
        Change(f"{sheet}/pmp_w", round(imp_a * one)),
    )


def test_a_dc_run_of_25_m(reckoner, larkmoor):
    """Source: IEC 60228 class 5 tinned, R20 = 3.39 ohm/km (from memory); IEC 60028 for alpha20.

    12 A over 25 m of 6 mm² at 70 °C, 368 V: 0.2028 ohm, 2.434 V, 0.6613 %, 29.20 W.
    """
    job = cable(strung(larkmoor, 12.0, 368.0), "hybrid-array-a", size_mm2=6, length_m=25)
    (one,) = found(reckoner, job, "WIRE-DROP", "hybrid-array-a")
    assert one.figure.value == pytest.approx(0.6613, rel=1e-3)
    values = inputs(one)
    assert values["drop"] == pytest.approx(2.434, rel=1e-3)
    assert values["loss"] == pytest.approx(29.20, rel=1e-3)
    assert values["loop resistance"] == pytest.approx(202.8, rel=1e-3)  # mohm


def test_the_smallest_dc_cable_that_keeps_one_per_cent(reckoner, larkmoor):
    """Source: IEC 60228 class 5 tinned (from memory); 1 % limit: common practice.

    11.8 A over 38 m, 402 V: 4 mm² 1.359 %, 6 mm² 0.9049 %; 6 mm² keeps 1 % up to 42.00 m.
    """
    job = cable(strung(larkmoor, 11.8, 402.0), "hybrid-array-a", size_mm2=4, length_m=38)
    (thin,) = found(reckoner, job, "WIRE-DROP", "hybrid-array-a")
    assert thin.figure.value == pytest.approx(1.359, rel=1e-3)
    (one,) = proposed(reckoner, job, only="hybrid-array-a")
    assert one.cable.size_mm2 == 6
    drop = next(finding for finding in one.findings if finding.code == "WIRE-DROP")
    assert drop.figure.value == pytest.approx(0.9049, rel=1e-3)
    assert inputs(drop)["longest way at the limit"] == pytest.approx(42.00, rel=1e-3)


@pytest.fixture(scope="module")
def exporting(larkmoor):
    """The demo's unit giving 5 kW by a feed that passes nothing on and charges nothing."""
    sheet = "sheets/hybrids/hybrid-6"
    dead = [Change(f"circuits/{c.id}/role", "grid only") for c in larkmoor.circuits if c.role != "grid only"]
    small = [Change(f"{sheet}/{name}", 5.0) for name in ("rated_kva", "rated_kw")]
    return edit(larkmoor, *dead, *small, Change("limits/charge_kw", 0.5))


def test_an_inverters_circuit_clipped_direct(reckoner, exporting):
    """Source: BS 7671 Appendix 4 tables 4D5, 4B1, 4C1 (from memory); 1 % for generation: common practice.

    21.74 A behind 25 A, 40 °C, 2 circuits: 35.92 A asked; 4 mm² carries 25.75 A and rises 1.871 %; 10 mm²
    0.7486 %.
    """
    way = {"length_m": 18, "ambient_c": 40, "grouping": 2, "device_a": 25, "table": "4D5 C", "known": KNOWN}
    for size, pct in ((4, 1.871), (10, 0.7486)):
        job = cable(exporting, "hybrid-feed", size_mm2=size, **way)
        amp = found(reckoner, job, "WIRE-AMP", "hybrid-feed")[0]
        assert inputs(amp)["Ib"] == pytest.approx(21.74, rel=1e-3)
        rise = next(one for one in found(reckoner, job, "WIRE-DROP", "hybrid-feed") if one.quantity == "rise")
        assert rise.figure.value == pytest.approx(pct, rel=1e-3)
        if size == 4:
            assert amp.figure.value == pytest.approx(25.75, rel=1e-3)
            assert amp.status == "passed"
            assert rise.status == "warns"
    (one,) = proposed(reckoner, cable(exporting, "hybrid-feed", size_mm2=4, **way), only="hybrid-feed")
    assert one.cable.size_mm2 == 10


def test_a_backup_boards_feed_with_three_factors(reckoner, larkmoor):
    """Source: BS 7671 tables 4D5, 4B1, 4C1, 52.2 (from memory).

    29.6 A behind 32 A, 35 °C, 3 circuits, 100 mm of insulation: 10 mm² carries 32.85 A; 22 m drop 1.246 %.
    """
    board = [c for c in larkmoor.circuits if c.role in ("held", "shed first")]
    one, rest = board[0], sum(c.running_kva for c in board[1:])
    watts = (29.6 * 0.23 - rest) * 1000 * one.power_factor
    job = edit(larkmoor, Change(f"circuits/{one.id}/running_w", watts))
    way = {"length_m": 22, "ambient_c": 35, "grouping": 3, "insulation_mm": 100, "device_a": 32}
    job = cable(job, "hybrid-backup", size_mm2=10, **way)
    amp = found(reckoner, job, "WIRE-AMP", "hybrid-backup")[0]
    assert inputs(amp)["Ib"] == pytest.approx(29.6, rel=1e-3)
    assert amp.figure.value == pytest.approx(32.85, rel=1e-3)
    drop = next(one for one in found(reckoner, job, "WIRE-DROP", "hybrid-backup") if one.quantity == "drop")
    assert drop.figure.value == pytest.approx(1.246, rel=1e-3)


def test_the_rise_of_six_kilowatts(reckoner, larkmoor):
    """Source: derived; 253 V = 230 V + 10 %.

    247.5 V at the supply, 0.084 ohm of the service, 12 m at 4.4 mV/A/m: 250.8 V at the unit, 26.09 A.
    """
    supply = "site/supply"
    job = edit(
        larkmoor,
        Change(f"{supply}/voltage_v", {"value": 247.5, **MEASURED}),
        Change(f"{supply}/ze_ohm", {"value": 0.084, **MEASURED}),
        Change("limits/export_kw", 6.0),
        Change("sheets/hybrids/hybrid-6/rated_kw", 6.0),
    )
    job = cable(cable(job, "tails", length_m=1e-6), "hybrid-feed", size_mm2=10, table="4D5 C", length_m=12)
    top = next(one for one in found(reckoner, job, "SITE-VOLTAGE") if one.quantity == "the top of the range")
    assert top.figure.value == pytest.approx(250.8, rel=2e-4)
    assert top.figure.value - 247.5 == pytest.approx(3.273, rel=1e-3)
    assert inputs(top)["unit's feed"] == pytest.approx(0.0528, rel=1e-3)


def test_a_fault_loop_behind_two_curves(reckoner, larkmoor):
    """Source: BS 7671 411.4, tables 41.3 and I1 (from memory); IEC 60898 trip bands; IEC 60364-5-54 543.1.2.

    Ze 0.35, 6/2.5 mm², 28 m: 0.7025 ohm; B32 1.366 ohm holds, C32 0.6828 ohm doesn't; 0.9003 mm² at least.
    """
    job = edit(larkmoor, Change("site/supply/ze_ohm", {"value": 0.35, **MEASURED}))
    for curve, most, kept in (("B", 1.366, True), ("C", 0.6828, False)):
        bad = cable(job, "hybrid-feed", size_mm2=6, cpc_mm2=2.5, length_m=28, device_a=32, curve=curve)
        (one,) = found(reckoner, bad, "WIRE-FAULT", "hybrid-feed")
        assert one.figure.value == pytest.approx(0.7025, rel=1e-3)
        assert one.limit == pytest.approx(most, rel=1e-3)
        assert (one.status == "passed") == kept
        assert one.blocks != kept
        assert inputs(one)["protective conductor, at least"] == pytest.approx(0.9003, rel=1e-3)
        assert inputs(one)["fault current"] == pytest.approx(327.4, rel=1e-3)


@pytest.mark.parametrize(("ma", "volts", "kept"), [(30, 5.4, True), (100, 18.0, True), (300, 54.0, False)])
def test_touch_voltage_on_a_supply_with_its_own_electrode(reckoner, larkmoor, ma, volts, kept):
    """Source: IEC 60364-4-41 clause 411.5.3. 180 ohm: 5.4, 18 and 54 V."""
    job = edit(
        larkmoor,
        Change("site/supply/earthing", {"value": "TT", **READ}),
        Change("site/supply/electrode_ohm", {"value": 180.0, **MEASURED}),
    )
    job = cable(job, "hybrid-feed", rcd_ma=ma, rcd_bidirectional={"value": "yes", **READ})
    touch = next(one for one in found(reckoner, job, "WIRE-RCD", "hybrid-feed") if one.quantity == "touch")
    assert touch.figure.value == pytest.approx(volts, rel=1e-3)
    assert touch.blocks != kept


def test_a_rod_by_its_formula(reckoner, larkmoor):
    """Source: BS 7430 (formula). 120 ohm m, 2.4 m of 14.2 mm: 49.41 ohm."""
    job = edit(
        larkmoor,
        Change("pack/values/soil_ohm_m/value", 120.0),
        Change("site/supply/electrode_ohm", {"value": None}),
    )
    one = found(reckoner, job, "WIRE-EARTH")[0]
    assert inputs(one)["one usual rod by the formula"] == pytest.approx(49.41, rel=1e-3)
    assert one.status == "open"


def test_a_battery_at_its_lowest_volts(reckoner, larkmoor):
    """Source: derived. 5 kW at 46 V and 94 %: 115.6 A, 144.5 A, a fuse of 150 A. The drop of 0.3483 % is for
    plain copper (0.386 ohm/km); tinned, as taken here, has 0.393 ohm/km (IEC 60228 class 5, from memory)."""
    sheet = "sheets/hybrids/hybrid-6"
    job = edit(
        larkmoor,
        Change("sheets/batteries/battery-48/wired", "parallel"),
        Change(f"{sheet}/discharge_kw", 5.0),
        Change(f"{sheet}/charge_kw", 5.0),
        Change(f"{sheet}/eta_dcdc", 0.94),
    )
    job = cable(job, "battery-run", size_mm2=50, length_m=1.5, device_a=150)
    (fuse,) = found(reckoner, job, "STO-DC", "battery-run")
    assert inputs(fuse)["current"] == pytest.approx(115.6, rel=1e-3)
    assert fuse.figure.value == pytest.approx(144.5, rel=1e-3)
    assert inputs(fuse)["next fuse"] == 150
    assert fuse.status == "passed"
    (drop,) = found(reckoner, job, "WIRE-DROP", "battery-run")
    assert drop.figure.value == pytest.approx(0.3483 * 0.393 / 0.386, rel=1e-3)
