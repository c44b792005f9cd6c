"""Each check: where it passes, warns, blocks, stays open; and that its remedy cures it."""

import pytest

from lodestaff.checks import CHECKS, Verdict, checks_named
from lodestaff.checks.commission import StepProof
from lodestaff.job import Change, edit
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.records import RECORDS


def found(reckoner, job, code, deep=False):
    return [
        one
        for check in checks_named(code)
        for record in RECORDS[check.record](reckoner, job, deep)
        for one in check.function(record)
    ]


def first(reckoner, job, code, deep=False):
    return found(reckoner, job, code, deep)[0]


def cured(reckoner, job, finding, code):
    return found(reckoner, edit(job, *finding.remedies[0].changes), code, True)


def test_the_table_is_sound():
    codes = [(check.code, check.record) for check in CHECKS]
    assert len(set(codes)) == len(codes)
    for check in CHECKS:  # one function to a record of a code
        assert [one.function for one in CHECKS if (one.code, one.record) == (check.code, check.record)] == [
            check.function
        ]
    assert {check.record for check in CHECKS} == {*RECORDS, StepProof}
    for check in CHECKS:
        assert check.question.endswith("?")
        assert check.function.__doc__


def test_an_unknown_code_names_the_choices():
    with pytest.raises(JobError, match="LOAD-CONT"):
        checks_named("LOAD-NONE")


def test_every_finding_can_be_doubted(reckoner, larkmoor):
    """Value, unit, formula and source in each; limit with its source."""
    for one in findings(reckoner, larkmoor):
        assert one.figure.formula
        assert one.figure.source.text
        assert one.text.endswith(".")
        if one.limit is not None:
            assert one.limit_source is not None
            assert one.margin is not None


class TestContinuous:
    def test_passes_with_room(self, reckoner, larkmoor):
        one = first(reckoner, larkmoor, "LOAD-CONT: held")
        assert one.status == "passed"
        assert one.margin == pytest.approx(one.limit - one.figure.value)

    def test_blocks_above_the_rating_and_its_remedy_cures(self, reckoner, larkmoor):
        job = edit(
            larkmoor, Change("circuits/laundry/role", "held"), Change("circuits/autoclave/role", "held")
        )
        one = first(reckoner, job, "LOAD-CONT: held")
        assert one.verdict is Verdict.BLOCKS
        assert cured(reckoner, job, one, "LOAD-CONT: held")[0].verdict is not Verdict.BLOCKS

    def test_warns_within_a_tenth(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("circuits/consulting/running_w", 2800))
        assert first(reckoner, job, "LOAD-CONT: held").verdict is Verdict.WARNS

    def test_kva_decides_where_power_factors_are_poor(self, reckoner, larkmoor):
        changes = [
            Change(f"circuits/{c}/power_factor", 0.5) for c in ("server", "consulting", "practice-lights")
        ]
        assert first(reckoner, edit(larkmoor, *changes), "LOAD-CONT: held").figure.unit == "kVA"

    def test_a_hot_place_derates(self, reckoner, larkmoor):
        hot = edit(larkmoor, Change("units/hybrid/ambient_max_c/value", 55))
        assert first(reckoner, hot, "LOAD-CONT: held").limit == pytest.approx(0.7 * 6.0)

    def test_an_unknown_place_leaves_it_open(self, reckoner, larkmoor):
        one = first(
            reckoner, edit(larkmoor, Change("units/hybrid/ambient_max_c/value", None)), "LOAD-CONT: held"
        )
        assert one.status == "open"
        assert "hottest place of Hybrid is unknown" in one.open_because

    def test_a_failure_on_an_assumed_fact_keeps_its_severity(self, reckoner, larkmoor):
        job = edit(
            larkmoor,
            Change("circuits/car-charger/role", "held"),
            Change("circuits/server/known/known", "assumed"),
        )
        one = first(reckoner, job, "LOAD-CONT: held")
        assert one.open
        assert one.status == "blocks"


class TestSurge:
    def test_warns_near_the_rating_and_a_soft_starter_cures(self, reckoner, larkmoor):
        one = first(reckoner, larkmoor, "LOAD-SURGE: start")
        assert one.verdict is Verdict.WARNS
        assert one.subjects == ("dental-compressor",)
        assert cured(reckoner, larkmoor, one, "LOAD-SURGE: start")[0].verdict is Verdict.PASSED

    def test_blocks_above_the_rating(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("circuits/dental-compressor/start_multiple", 8))
        assert first(reckoner, job, "LOAD-SURGE: start").verdict is Verdict.BLOCKS

    def test_blocks_where_the_start_lasts_longer_than_the_surge(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("circuits/dental-compressor/start_s", 12))
        one = first(reckoner, job, "LOAD-SURGE: start")
        assert one.verdict is Verdict.BLOCKS
        assert "10 s only" in one.text

    def test_all_motors_restarting_together_is_said_apart(self, reckoner, larkmoor):
        together = first(reckoner, larkmoor, "LOAD-SURGE: restart")
        assert together.verdict is Verdict.WARNS
        cured = edit(larkmoor, *together.remedies[0].changes)
        apart = first(reckoner, cured, "LOAD-SURGE: restart")
        assert apart.verdict is Verdict.PASSED
        assert apart.figure.value < together.figure.value


class TestEnergy:
    def test_the_worst_month_is_named(self, reckoner, larkmoor):
        one = first(reckoner, larkmoor, "LOAD-ENERGY")
        assert one.verdict is Verdict.PASSED
        assert "December" in one.figure.name

    def test_more_hours_than_the_battery_holds_warn(self, reckoner, larkmoor):
        one = first(reckoner, edit(larkmoor, Change("wishes/outage_h", 30)), "LOAD-ENERGY")
        assert one.verdict is Verdict.WARNS
        assert one.margin < 0

    def test_an_assumed_wish_is_open(self, reckoner, larkmoor):
        one = first(reckoner, edit(larkmoor, Change("wishes/known/known", "assumed")), "LOAD-ENERGY")
        assert one.status == "open"


class TestLockAndCare:
    def test_a_held_charger_blocks_and_locking_it_out_cures(self, reckoner, larkmoor):
        job = edit(
            larkmoor, Change("circuits/car-charger/role", "held"), Change("circuits/car-charger/wish", "")
        )
        one = first(reckoner, job, "LOAD-LOCK: held")
        assert one.verdict is Verdict.BLOCKS
        assert cured(reckoner, job, one, "LOAD-LOCK: held")[0].status == "passed"

    def test_a_held_heater_warns(self, reckoner, larkmoor):
        job = edit(
            larkmoor, Change("circuits/kennel-heat/role", "held"), Change("circuits/kennel-heat/wish", "")
        )
        assert first(reckoner, job, "LOAD-LOCK: held").verdict is Verdict.WARNS

    def test_a_choice_of_the_customer_is_a_note(self, reckoner, larkmoor):
        held = edit(
            larkmoor,
            Change("circuits/kennel-heat/role", "held"),
            Change("circuits/kennel-heat/wish", "pups in winter"),
        )
        assert first(reckoner, held, "LOAD-LOCK: held").verdict is Verdict.WARNS  # words are no choice
        one = first(
            reckoner,
            edit(held, Change("circuits/kennel-heat/on_battery", "on the battery")),
            "LOAD-LOCK: held",
        )
        assert one.verdict is Verdict.NOTES
        assert "pups in winter" in one.text

    @pytest.mark.parametrize("circuit", ["car-charger", "kennel-heat", "vaccine-fridges"])
    def test_what_is_held_against_the_customers_choice_blocks(self, reckoner, larkmoor, circuit):
        name = circuit if circuit in {c.id for c in larkmoor.circuits} else larkmoor.circuits[0].id
        job = edit(
            larkmoor,
            Change(f"circuits/{name}/role", "held"),
            Change(f"circuits/{name}/on_battery", "never on the battery"),
        )
        assert any(
            one.blocks and "never on the battery" in one.text
            for one in found(reckoner, job, "LOAD-LOCK: held")
        )

    def test_medical_equipment_always_carries_the_caution(self, reckoner, larkmoor):
        one = first(reckoner, larkmoor, "LOAD-CARE")
        assert one.verdict is Verdict.NOTES
        assert "not a certified emergency supply" in one.text

    def test_medical_equipment_that_is_not_held_warns(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("circuits/monitors/role", "grid only"))
        one = first(reckoner, job, "LOAD-CARE")
        assert one.verdict is Verdict.WARNS
        assert cured(reckoner, job, one, "LOAD-CARE")[0].verdict is Verdict.NOTES


STATES = ["grid", "island", "bypass", "Hybrid off", "array not landed", "bypass overnight", "all off"]


class TestBond:
    def test_one_finding_for_each_network_of_each_state(self, reckoner, larkmoor):
        ones = found(reckoner, larkmoor, "WIRE-BOND")
        assert [one.state for one in ones] == STATES
        assert all(one.status == "passed" for one in ones)

    def test_two_bonds_and_one_behind_a_device_block_in_their_states(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("wiring/bond_place", "essential board"))
        blocked = [one.state for one in found(reckoner, job, "WIRE-BOND") if one.blocks]
        assert blocked == [state for state in STATES if state not in ("Hybrid off", "all off")]

    def test_no_bond_on_the_island_blocks_and_the_relay_cures(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("wiring/bond_place", "none"))
        (one,) = [one for one in found(reckoner, job, "WIRE-BOND") if one.blocks]
        assert one.state == "island"
        assert all(each.status == "passed" for each in cured(reckoner, job, one, "WIRE-BOND"))

    def test_an_assumed_earthing_arrangement_leaves_it_open(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("site/supply/earthing/known", "assumed"))
        assert {one.status for one in found(reckoner, job, "WIRE-BOND")} == {"open"}


class TestExport:
    @pytest.mark.parametrize(
        ("kw", "verdict"), [(3.6, "passed"), (3.65, "warns"), (3.7, "blocks"), (0.0, "passed")]
    )
    def test_setting_against_permission_with_the_meters_error(self, reckoner, larkmoor, kw, verdict):
        """3.68 kW permitted; 2 % of meter error: 3.6 x 1.02 = 3.672 fits, 3.65 x 1.02 = 3.723 does not."""
        assert first(reckoner, edit(larkmoor, Change("limits/export_kw", kw)), "LIM-EXPORT").status == verdict

    def test_the_remedy_fits_with_the_error(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("limits/export_kw", 5.0))
        assert cured(reckoner, job, first(reckoner, job, "LIM-EXPORT"), "LIM-EXPORT")[0].status == "passed"

    def test_without_a_granted_permission_nothing_may_be_exported(self, reckoner, larkmoor):
        one = first(reckoner, edit(larkmoor, Change("site/permission/state", "applied for")), "LIM-EXPORT")
        assert one.blocks
        assert one.limit == 0

    def test_an_unknown_permission_blocks_export_and_is_open(self, reckoner, larkmoor):
        one = first(reckoner, edit(larkmoor, Change("site/permission/export_kw/value", None)), "LIM-EXPORT")
        assert one.blocks
        assert one.open

    @pytest.mark.parametrize(("words", "status"), [("export goes on", "warns"), ("not stated", "open")])
    def test_a_lost_meter(self, reckoner, larkmoor, words, status):
        job = edit(larkmoor, Change("sheets/hybrids/hybrid-6/on_meter_loss", words))
        assert found(reckoner, job, "LIM-EXPORT")[1].status == status


class TestImport:
    def test_above_the_fuse_blocks_and_the_remedy_is_the_fuse(self, reckoner, larkmoor):
        """100 A x 230 V = 23 kW."""
        job = edit(larkmoor, Change("limits/import_kw", 25))
        one = first(reckoner, job, "LIM-IMPORT")
        assert one.blocks
        assert one.limit == pytest.approx(23.0)
        assert cured(reckoner, job, one, "LIM-IMPORT")[0].status == "passed"

    def test_a_house_above_its_limit_warns(self, reckoner, larkmoor):
        ones = found(reckoner, edit(larkmoor, Change("limits/import_kw", 8)), "LIM-IMPORT")
        assert ones[1].verdict is Verdict.WARNS
        assert "above the limit" in ones[1].text

    def test_an_unread_fuse_is_open(self, reckoner, larkmoor):
        one = first(reckoner, edit(larkmoor, Change("site/supply/rating_a/value", None)), "LIM-IMPORT")
        assert one.open
        assert one.verdict is Verdict.WARNS
        told = edit(larkmoor, Change("site/supply/rating_a/known", "assumed"))
        assert first(reckoner, told, "LIM-IMPORT").status == "open"


class TestReserve:
    def test_a_short_reserve_warns_and_the_costed_remedy_cures(self, reckoner, larkmoor):
        one = first(reckoner, larkmoor, "LIM-RESERVE", deep=True)
        assert one.verdict is Verdict.WARNS
        assert "costs" in one.remedies[0].name
        assert cured(reckoner, larkmoor, one, "LIM-RESERVE")[0].status == "passed"

    def test_the_remedy_is_the_least_that_cures(self, reckoner, larkmoor):
        one = first(reckoner, larkmoor, "LIM-RESERVE", deep=True)
        soc = one.remedies[0].changes[0].value
        less = edit(
            larkmoor, Change("limits/reserve_soc", round(soc - 0.02, 2)), Change("limits/shed_soc", soc)
        )
        assert first(reckoner, less, "LIM-RESERVE").verdict is Verdict.WARNS

    def test_a_promise_beyond_the_battery_has_no_remedy(self, reckoner, larkmoor):
        one = first(reckoner, edit(larkmoor, Change("wishes/outage_h", 100)), "LIM-RESERVE", deep=True)
        assert one.remedies == ()

    def test_a_short_promise_passes(self, reckoner, larkmoor):
        assert first(reckoner, edit(larkmoor, Change("wishes/outage_h", 2)), "LIM-RESERVE").status == "passed"
