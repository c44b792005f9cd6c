"""Worked examples of conductors, fuses and demand, reached by a job's findings and not by a function
alone."""

import pytest

from lodestaff.checks import checks_named
from lodestaff.job import Change, edit
from lodestaff.reckoning.records import RECORDS
from lodestaff.templates import compose
from lodestaff.templates.wanted import Roof, Wanted

FT = 0.3048


def found(reckoner, job, code, subject):
    rows = [
        one
        for check in checks_named(code)
        if check.applies(job.pack)
        for record in RECORDS[check.record](reckoner, job, False)
        for one in check.function(record)
    ]
    return next(one for one in rows if subject in one.subjects)


def cable(id, **fields):
    return {"id": id, "known": {"value": "yes", "known": "read on site"}, **fields}


def inputs(finding):
    return {one.name: one.value for one in finding.figure.inputs}


@pytest.fixture(scope="module")
def ranch():
    """A string inverter on 120/240 V in the North American pack, beside a battery unit."""
    wanted = Wanted(
        pack="na",
        system="120/240 V",
        family="string inverter and battery unit",
        backup="none",
        rating_a=200,
        roofs=(Roof(name="South", azimuth_deg=180, strings=((0, "A", 8),)),),
    )
    return compose(wanted)


def with_cable(job, one):
    return edit(job, Change("cables", [one]))


def test_inverter_output_circuit_of_eleven_kilowatts(reckoner, ranch):
    """Source: NEC 705.28, 310.16, 310.15(B)(1), 240.4(B), chapter 9 table 8 (from memory).

    11.4 kW at 240 V: 47.50 A; 1.25 x 59.38 A; 6 AWG at 43 °C 65.25 A; 60 A; 85 ft drop 3.965 V, 1.652 %.
    """
    sheet = "sheets/inverters/inverter-6"
    job = edit(ranch, Change(f"{sheet}/rated_kva", 11.4), Change(f"{sheet}/rated_kw", 11.4))
    six_awg = cable(
        "inverter-feed",
        size_mm2=13.3,
        length_m=85 * FT,
        table="Cu",
        ambient_c=43,
        device_a=60,
        terminals_c="75",
    )
    amp = found(reckoner, with_cable(job, six_awg), "WIRE-AMP", "inverter-feed")
    assert amp.status == "passed", amp.text
    assert amp.figure.value == pytest.approx(65.25, rel=1e-3)
    values = inputs(amp)
    assert values["I"] == pytest.approx(47.50, rel=1e-3)
    assert values["for terminals and device"] == pytest.approx(59.38, rel=1e-3)
    drop = found(reckoner, with_cable(job, six_awg), "WIRE-DROP", "inverter-feed")
    assert drop.figure.value == pytest.approx(1.652, rel=1e-3)
    assert inputs(drop)["rise"] == pytest.approx(3.965 / 2, rel=1e-3)  # each leg to neutral
    eight_awg = {**six_awg, "size_mm2": 8.37}
    assert found(reckoner, with_cable(job, eight_awg), "WIRE-AMP", "inverter-feed").blocks
    # the device: next standard size above the smaller of adjusted rating and terminal column, 70 A; 80 A is
    # too large
    assert not found(
        reckoner, with_cable(job, {**six_awg, "device_a": 70}), "WIRE-AMP", "inverter-feed"
    ).blocks
    assert found(reckoner, with_cable(job, {**six_awg, "device_a": 80}), "WIRE-AMP", "inverter-feed").blocks


def test_terminals_go_by_what_they_are_marked(reckoner, ranch):
    """Source: NEC 110.14(C), from memory: 60 °C column up to 100 A unless marked 75 °C; unknown is open."""
    sheet = "sheets/inverters/inverter-6"
    job = edit(ranch, Change(f"{sheet}/rated_kva", 11.4), Change(f"{sheet}/rated_kw", 11.4))
    six_awg = cable("inverter-feed", size_mm2=13.3, length_m=5, table="Cu", ambient_c=30, device_a=60)
    unknown = found(reckoner, with_cable(job, six_awg), "WIRE-AMP", "inverter-feed")
    assert unknown.blocks  # 55 A of the 60 °C column are below 59.4 A
    assert any("terminals" in why for why in unknown.open_because)
    wide = found(reckoner, with_cable(job, {**six_awg, "size_mm2": 21.15}), "WIRE-AMP", "inverter-feed")
    assert wide.status == "open"
    assert (
        found(reckoner, with_cable(job, {**six_awg, "terminals_c": "75"}), "WIRE-AMP", "inverter-feed").status
        == "passed"
    )


def test_four_source_circuits_in_one_raceway_on_a_hot_roof(reckoner, ranch):
    """Source: NEC 690.8, 310.15(B)(1), 310.15(C)(1), 240.4(D), chapter 9 table 8 (from memory).

    Isc 13.88 A: 17.35 A against the adjusted rating, 21.69 A at terminals and fuse; 10 AWG 21.28 A, 25 A;
    12 AWG fails.
    """
    module = "sheets/modules/module-440"
    job = edit(
        ranch,
        Change(f"{module}/isc_a", 13.88),
        Change(f"{module}/imp_a", 13.07),
        Change(f"{module}/pmp_w", 540),
        Change(f"{module}/vmp_v", 330.7 / 8),
        Change(f"{module}/voc_v", 49.62),
    )
    ten_awg = cable(
        "inverter-array-a",
        size_mm2=5.26,
        length_m=110 * FT,
        table="Cu",
        ambient_c=52,
        grouping=4,
        device_a=25,
    )
    amp = found(reckoner, with_cable(job, ten_awg), "WIRE-AMP", "inverter-array-a")
    assert amp.status == "passed", amp.text
    assert amp.figure.value == pytest.approx(21.28, rel=1e-3)
    values = inputs(amp)
    assert values["1.25 x Isc"] == pytest.approx(17.35, rel=1e-3)
    assert values["for terminals and device"] == pytest.approx(21.69, rel=1e-3)
    drop = found(reckoner, with_cable(job, ten_awg), "WIRE-DROP", "inverter-array-a")
    assert drop.figure.value == pytest.approx(1.078, rel=1e-3)
    twelve = found(
        reckoner,
        with_cable(job, {**ten_awg, "size_mm2": 3.31, "device_a": 20}),
        "WIRE-AMP",
        "inverter-array-a",
    )
    assert twelve.blocks
    assert twelve.figure.value == pytest.approx(15.96, rel=1e-3)


@pytest.mark.parametrize(("pack", "sizes"), [("na", "25"), ("uk", "25")])
def test_a_string_fuse_by_each_packs_rule(reckoner, larkmoor, pack, sizes):
    """Source: IEC 62548 string overcurrent protection; NEC 690.9: at least 1.5625 x 13.88 A = 21.69 A (from
    memory).

    Three strings in parallel, 27.76 A back into one of 25 A: 25 A in both.
    """
    wanted = Wanted(
        pack=pack,
        system="120/240 V" if pack == "na" else "single phase",
        roofs=(Roof(name="South", azimuth_deg=180, strings=((0, "A", 6),) * 3),),
    )
    job = edit(compose(wanted), Change("sheets/modules/module-440/isc_a", 13.88))
    rows = [
        one
        for check in checks_named("ARR-FUSE")
        for record in RECORDS[check.record](reckoner, job, False)
        for one in check.function(record)
    ]
    (fuse,) = [one for one in rows if "needs a fuse" in one.text]
    assert f"({sizes} A)" in fuse.text
    least = inputs(fuse)["fuse from"]
    assert least == pytest.approx(1.56 * 13.88 if pack == "na" else 1.5 * 13.88)


def test_a_battery_run_asks_for_the_fuse_of_its_current(reckoner, larkmoor):
    """Derived: 6.0 kW at 4 x 46 V and 98 %: 33.3 A; x 1.25 = 41.6 A; 5 kW at 46 V would be the 150 A of one
    module alone."""
    one = found(reckoner, larkmoor, "STO-DC", "battery-run")
    assert inputs(one)["current"] == pytest.approx(6000 / (4 * 46 * 0.98), rel=1e-3)
    assert one.figure.value == pytest.approx(1.25 * 6000 / (4 * 46 * 0.98), rel=1e-3)
    small = edit(larkmoor, Change("cables/battery-run/device_a", 40))
    assert found(reckoner, small, "STO-DC", "battery-run").blocks
    unknown = edit(larkmoor, Change("cables/battery-run/device_a", None))
    assert found(reckoner, unknown, "STO-DC", "battery-run").status == "open"
    assert found(reckoner, unknown, "WIRE-AMP", "battery-run").status == "open"


def test_the_banks_volts_are_one_number_and_open_until_it_is_known_how_it_is_wired(reckoner, larkmoor):
    from lodestaff.commissioning.procedure import procedure
    from lodestaff.topology import build

    for wired, volts in (("series", 4 * 51.2), ("parallel", 51.2)):
        job = edit(larkmoor, Change("sheets/batteries/battery-48/wired", wired))
        step = next(one for one in procedure(job, build(job)) if one.id == "battery-battery")
        assert step.rule.value == pytest.approx(volts)
        assert inputs(found(reckoner, job, "STO-DC", "battery-run"))[
            "at the bank's lowest voltage"
        ] == pytest.approx(volts * 46 / 51.2)
    job = edit(larkmoor, Change("sheets/batteries/battery-48/wired", None))
    assert found(reckoner, job, "STO-DC", "battery-run").status == "open"
    assert found(reckoner, job, "WIRE-AMP", "battery-run").status == "open"
    assert "wired" in next(one for one in procedure(job, build(job)) if one.id == "battery-battery").needs


def test_a_heat_pump_is_no_space_heater(reckoner):
    """Source: NEC 220.82(C), from memory: compressor 100 % + 65 % of the supplement; never 65 or 40 % of
    it."""
    from lodestaff.catalogue import load_pack
    from lodestaff.electrical.demand import DemandRow, demand

    method = load_pack("na").demand
    pump, heater, cooling = (
        DemandRow(use, use, va, va / 240)
        for use, va in (("heat pump", 6000.0), ("space heating", 9600.0), ("cooling", 5200.0))
    )
    assert demand((pump, heater, cooling), method, 240).total_va == pytest.approx(6000 + 0.65 * 9600)
    assert demand((pump, cooling), method, 240).total_va == pytest.approx(6000)
    assert demand((heater, cooling), method, 240).total_va == pytest.approx(0.65 * 9600)


def test_uk_classes_count_together(reckoner):
    """Source: diversity table of an on-site guide (from memory), by hand: sockets of all kinds are one class,
    cookers one, of instantaneous heaters the two largest in full."""
    from lodestaff.catalogue import load_pack
    from lodestaff.electrical.demand import DemandRow, demand

    method = load_pack("uk").demand

    def amps(*rows):
        return demand(tuple(DemandRow(use, use, a * 230, a) for use, a in rows), method, 230).current_a

    assert amps(("sockets", 32), ("small appliances", 20), ("laundry", 16)) == pytest.approx(32 + 0.4 * 36)
    assert amps(("cooker", 30), ("cooker", 20)) == pytest.approx(10 + 0.3 * 40)
    assert amps(("shower", 40), ("shower", 37), ("shower", 20)) == pytest.approx(40 + 37 + 0.25 * 20)
