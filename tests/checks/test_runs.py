"""Runs of cable: every conductor that carries power, its worst leg, what passes through, what isn't known
stays open."""

import pytest

from lodestaff.checks import checks_named
from lodestaff.job import Change, edit, load_job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.records import RECORDS
from lodestaff.reckoning.records.runs import run_ids, runs
from lodestaff.samples import sample_names, sample_path
from lodestaff.templates import KINDS, compose
from lodestaff.templates.wanted import Roof, Wanted


def found(reckoner, job, code, subject):
    return [
        one
        for check in checks_named(code)
        if check.applies(job.pack)
        for record in RECORDS[check.record](reckoner, job, False)
        for one in check.function(record)
        if subject in one.subjects
    ]


def the(reckoner, job, code, subject):
    return found(reckoner, job, code, subject)[0]


def of(reckoner, job):
    return {run.id: run for run in runs(reckoner, job, False)}


@pytest.mark.parametrize("name", sample_names())
def test_every_conductor_that_carries_power_is_a_run(reckoner, name):
    """The tails, every feed, units, generators, batteries and arrays; those inside a case or behind a
    module are none."""
    job = load_job(sample_path(name))
    topology = reckoner.wiring(job).topology
    known = of(reckoner, job)
    plugged = tuple(f"{unit.unit}-array-" for unit in topology.units if unit.module_level)
    own_sun = {part.id for part in job.parts if part.kind == "own sun"}
    wanted = {
        run for run in run_ids(topology) if not run.startswith(plugged or ("?",)) and run not in own_sun
    }
    assert wanted <= set(known)
    assert len({run.name for run in known.values()}) == len(known)
    for id, run in known.items():
        if run.unknown or run.design_a > 0:
            assert the(reckoner, job, "WIRE-AMP", id).status in ("open", "passed", "blocks")


def test_a_units_feed_carries_its_charging_and_what_it_passes(reckoner, larkmoor):
    """By hand: the circuits behind the unit at running power, and 5 kW of charging at 230 V."""
    feed = of(reckoner, larkmoor)["hybrid-feed"]
    behind = sum(c.running_kva for c in reckoner.backed(larkmoor, larkmoor.units[0]).circuits)
    assert feed.load == pytest.approx((behind + larkmoor.limits.charge_kw) * 1000 / 230, rel=1e-3)
    assert feed.source == pytest.approx(6000 / 230)
    assert feed.state == "grid"


def test_the_worst_leg_rules_as_the_circuits_hang(reckoner):
    """By hand: two circuits of 1.2 kVA on leg A, one of 0.6 kVA on B: 20 A and 5 A, never 12.5 A each."""
    job = compose(
        Wanted(
            pack="na",
            system="120/240 V",
            backup="panel",
            unit_sheet="hybrid-9-split",
            battery_modules=(4,),
            roofs=(Roof(name="South", azimuth_deg=180, strings=((0, "A", 8),)),),
        )
    )
    keep = [c for c in job.circuits if c.role == "held"][:3]
    rows = [
        c.model_copy(update={"phase": leg, "running_w": watts, "power_factor": 1.0}).model_dump(mode="json")
        for c, leg, watts in zip(keep, "AAB", (1200, 1200, 600), strict=True)
    ]
    job = edit(job, Change("circuits", rows))
    board = next(run for run in of(reckoner, job).values() if run.id.endswith("-backup"))
    assert dict(board.load_a) == pytest.approx({"A": 20.0, "B": 5.0})
    assert board.design_a == pytest.approx(20.0)


def test_three_phases_go_by_three_core_columns_and_the_line_voltage(reckoner):
    """By hand: 10 A on each phase alike over 20 m of 6 mm² 4D1 B: 7.3 mV/A/m x sqrt(3)/2 against 400 V,
    0.317 %."""
    from lodestaff.electrical.conductors import legs_drop

    alike = legs_drop(7.3, [10.0, 10.0, 10.0], 20, 230, (0.0, -120.0, -240.0))
    assert alike.drop_pct == pytest.approx(100 * 7.3e-3 * (3**0.5 / 2) * 10 * 20 / (230 * 3**0.5), rel=1e-9)
    one = legs_drop(7.3, [10.0, 0.0, 0.0], 20, 230, (0.0, -120.0, -240.0))
    assert one.drop_pct == pytest.approx(100 * 7.3e-3 * 10 * 20 / 230)  # one phase alone: line and neutral
    two = legs_drop(7.3, [10.0, 10.0], 20, 230, (0.0, -120.0))  # two of three: 10 A in the neutral, at 60°
    assert two.drop_pct == pytest.approx(100 * 7.3e-3 * 0.75 * 10 * 20 / 230)
    halves = legs_drop(7.3, [10.0, 10.0], 20, 120, (0.0, 180.0))  # 120/240 V: nothing in the neutral
    assert halves.drop_pct == pytest.approx(100 * 7.3e-3 * 10 * 20 / 240)
    job = load_job(sample_path("tern-quay-boatshed"))
    fields = {"id": "tails", "size_mm2": 10, "length_m": 12, "device_a": 50, "ambient_c": 40,
              "known": {"value": "yes", "known": "read on site"}}  # fmt: skip
    three = edit(job, Change("cables", [{**fields, "table": "V75 C"}]))
    rated = the(reckoner, three, "WIRE-AMP", "tails")
    assert rated.figure.value == pytest.approx(53.0)  # 57 A of IEC 60364-5-52 brought to 75 °C in 40 °C air
    uk = edit(
        compose(Wanted(system="three phases", backup="none")),
        Change("cables", [{**fields, "id": "tails", "table": "4D5 C", "size_mm2": 16}]),
    )
    twin = the(reckoner, uk, "WIRE-AMP", "tails")
    assert twin.blocks  # a two-core cable has no column for three phases
    assert twin.open


@pytest.mark.parametrize(("field", "value"), [("size_mm2", 7.0), ("insulation_mm", 800.0), ("cpc_mm2", 3.3)])
def test_a_size_outside_the_table_is_a_finding_of_its_run(reckoner, larkmoor, field, value):
    job = edit(larkmoor, Change(f"cables/hybrid-feed/{field}", value))
    everything = findings(reckoner, job)
    bad = [one for one in everything if "hybrid-feed" in one.subjects and one.blocks]
    assert bad
    assert all(one.open for one in bad)
    assert len({one.code for one in everything}) == len({one.code for one in findings(reckoner, larkmoor)})


def test_an_unknown_device_is_open_never_passed(reckoner, larkmoor):
    job = edit(larkmoor, Change("cables/hybrid-feed/device_a", None))
    assert the(reckoner, job, "WIRE-AMP", "hybrid-feed").status == "open"
    assert the(reckoner, job, "WIRE-FAULT", "hybrid-feed").status == "open"


def test_a_cable_that_no_run_knows_is_a_finding(reckoner, larkmoor):
    rows = [one.model_dump(mode="json") for one in larkmoor.cables]
    job = edit(
        larkmoor,
        Change("cables", [*rows, {"id": "hybrid-fead", "size_mm2": 6, "length_m": 4, "table": "4D5 C"}]),
    )
    (one,) = [one for one in findings(reckoner, job) if one.rule == "WIRE-PLAN"]
    assert one.verdict == "warns"
    assert "hybrid-fead" in one.text


@pytest.mark.parametrize(("ma", "blocks"), [(30.0, False), (100.0, True)])
def test_a_shallow_way_asks_for_its_rated_current(reckoner, larkmoor, ma, blocks):
    job = edit(
        larkmoor,
        Change("cables/hybrid-feed/depth_mm", 30),
        Change("cables/hybrid-feed/rcd_ma", ma),
        Change("cables/hybrid-feed/rcd_bidirectional", {"value": "yes", "known": "read on site"}),
    )
    assert any(one.blocks for one in found(reckoner, job, "WIRE-RCD", "hybrid-feed")) is blocks


@pytest.mark.parametrize(("have", "status"), [("A", "blocks"), ("B", "passed"), (None, "open")])
def test_the_type_is_at_least_what_the_units_sheet_asks(reckoner, larkmoor, have, status):
    job = edit(
        larkmoor,
        Change("sheets/hybrids/hybrid-6/residual_current_type", "B"),
        Change("cables/hybrid-feed/rcd_ma", 30.0),
        Change("cables/hybrid-feed/rcd_type", have),
    )
    asked = next(one for one in found(reckoner, job, "WIRE-RCD", "hybrid-feed") if "type B" in one.text)
    assert asked.status == status


@pytest.mark.parametrize("letter", sorted(KINDS))
def test_new_jobs_start_within_every_sheet(letter):
    """Charge and discharge at the least of unit, bank and cable."""
    job = compose(KINDS[letter].wanted)
    for unit in job.units:
        bank = job.bank_of(unit)
        if bank is None:
            continue
        cells, sheet = job.sheets.batteries[bank.sheet], job.sheet_of(unit)
        kwh = bank.modules * cells.module_kwh
        assert job.limits.charge_kw <= min(sheet.charge_kw, kwh * cells.charge_c_per_h)
        assert job.limits.discharge_kw <= min(sheet.discharge_kw, kwh * cells.discharge_c_per_h)


def test_no_pack_cites_another_ones_clauses(reckoner, larkmoor):
    """Facts of the trade: each pack names the rules of its own country."""
    foreign = {"anz": ("BS 7671", "NEC"), "na": ("BS 7671", "AS/NZS"), "uk": ("NEC", "AS/NZS")}
    for name, kind in (("uk", "C"), ("anz", "H"), ("na", "D")):
        job = compose(KINDS[kind].wanted)
        assert job.pack.name == name
        words = str(
            [(one.figure.source, one.limit_source, one.text, one.advice) for one in findings(reckoner, job)]
        )
        for clause in foreign[name]:
            assert clause not in words, (name, clause)
        table = job.pack.model_dump_json()
        assert not [one for one in foreign[name] if one in table]


def test_a_method_the_pack_has_not_is_refused(larkmoor):
    with pytest.raises(JobError, match="choose from"):
        edit(larkmoor, Change("cables/hybrid-feed/table", "Cu"))


def test_a_branch_of_units_suits_its_modules(reckoner):
    job = load_job(sample_path("gannet-point-lodge"))
    branch = next(unit for unit in job.units if job.sheet_of(unit).module_level)
    ones = [one for one in findings(reckoner, job) if one.code == "ARR-MICRO"]
    assert {one.status for one in ones} <= {"passed", "open"}
    cold = edit(job, Change("sheets/microinverters/micro-400/max_in_v", 40.0))
    assert any(one.blocks and "V" in one.text for one in findings(reckoner, cold) if one.code == "ARR-MICRO")
    few = edit(job, Change(f"units/{branch.id}/count", 10))
    assert any(
        one.blocks and "10 units for 11 modules" in one.text
        for one in findings(reckoner, few)
        if one.code == "ARR-MICRO"
    )
    assert not [
        one for one in findings(reckoner, job) if one.code in ("ARR-VOC", "ARR-VMP", "ARR-FUSE", "ARR-ISC")
    ]


def test_between_two_of_three_phases_flows_more_than_its_half(reckoner):
    """By hand: 11.4 kVA between two legs of 120/208 V is 54.8 A on each, of 120/240 V 47.5 A."""
    for system, amps in (("120/208 V", 11400 / 208), ("120/240 V", 11400 / 240)):
        roofs = (Roof(name="South", azimuth_deg=180, strings=((0, "A", 8),)),)
        family = "string inverter and battery unit"
        wanted = Wanted(pack="na", system=system, family=family, backup="none", rating_a=200, roofs=roofs)
        job = compose(wanted)
        sheet = "sheets/inverters/inverter-6"
        job = edit(job, Change(f"{sheet}/rated_kva", 11.4), Change(f"{sheet}/rated_kw", 11.4))
        feed = of(reckoner, job)["inverter-feed"]
        assert feed.source == pytest.approx(amps, rel=2e-3)
