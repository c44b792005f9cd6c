"""Site, array, storage and runs: where each check passes, warns, blocks, stays open; and that its remedy
cures it."""

import pytest

from lodestaff.checks import Verdict, checks_named
from lodestaff.job import Change, edit
from lodestaff.reckoning.records import RECORDS


def found(reckoner, job, code):
    return [
        one
        for check in checks_named(code)
        for record in RECORDS[check.record](reckoner, job, False)
        for one in check.function(record)
    ]


def of(reckoner, job, code, subject):
    return next(one for one in found(reckoner, job, code) if subject in one.text)


def fact(path, value, known="read on site"):
    return Change(path, {"value": value, "known": known, "note": "", "date": ""})


def cured(reckoner, job, finding, code):
    return found(reckoner, edit(job, *finding.remedies[0].changes), code)


class TestSite:
    def test_a_read_rating_above_the_demand_passes(self, reckoner, larkmoor):
        (one,) = found(reckoner, larkmoor, "SITE-RATING")
        assert one.status == "passed"
        assert one.figure.value == pytest.approx(reckoner.load_kw(larkmoor).sum(axis=0).max() / 0.23)

    def test_an_assumed_rating_is_open_and_a_small_one_blocks(self, reckoner, larkmoor):
        assert (
            found(reckoner, edit(larkmoor, fact("site/supply/rating_a", 100, "assumed")), "SITE-RATING")[
                0
            ].status
            == "open"
        )
        assert found(reckoner, edit(larkmoor, fact("site/supply/rating_a", 40)), "SITE-RATING")[0].blocks
        unknown = found(reckoner, edit(larkmoor, fact("site/supply/rating_a", None)), "SITE-RATING")[0]
        assert (unknown.verdict, unknown.open) == (Verdict.WARNS, True)

    @pytest.mark.parametrize(
        ("state", "kva", "unit", "status"),
        # 16 A x 230 V = 3.68 kVA a phase is notify-only (common practice).
        [("granted", 6.0, "hybrid-6", "passed"), ("granted", 5.0, "hybrid-6", "blocks"),
         ("applied for", 6.0, "hybrid-6", "blocks"),
         ("not asked", None, "hybrid-3", "passed")],
    )  # fmt: skip
    def test_permission_of_each_phase(self, reckoner, larkmoor, state, kva, unit, status):
        job = edit(
            larkmoor,
            Change("site/permission/parallel_state", state),
            fact("site/permission/parallel_kva", kva),
            Change("units/hybrid/sheet", unit),
        )
        one = found(reckoner, job, "SITE-PERMIT")[0]
        assert one.status == status
        assert ("may run in parallel today" in one.text) == (status == "passed")

    def test_zero_export_does_not_replace_permission(self, reckoner, larkmoor):
        job = edit(
            larkmoor, Change("site/permission/parallel_state", "applied for"), Change("limits/export_kw", 0.0)
        )
        one = found(reckoner, job, "SITE-PERMIT")[0]
        assert one.blocks
        assert "also not with zero export" in one.text

    @pytest.mark.parametrize(
        ("path", "value", "status"),
        [
            ("ze_ohm", 0.5, "warns"),
            ("earthing_mm2", 6, "blocks"),
            ("bonding_mm2", 6, "blocks"),
            ("bonding_mm2", None, "open"),
        ],
    )
    def test_earth(self, reckoner, larkmoor, path, value, status):
        job = edit(larkmoor, fact(f"site/supply/{path}", value))
        assert status in {one.status for one in found(reckoner, job, "SITE-EARTH")}

    def test_tt_is_judged_by_its_electrode(self, reckoner, larkmoor):
        one = found(reckoner, edit(larkmoor, fact("site/supply/earthing", "TT")), "SITE-EARTH")[0]
        assert one.figure.value == 64
        assert one.limit == 200

    @pytest.mark.parametrize(
        ("path", "value", "status"),
        [("spare_ways", 1, "warns"), ("spare_ways", None, "open"), ("board_condition", "unfit", "blocks"),
         ("board_condition", "worn", "notes"),
         ("surge_protection", "no", "warns"), ("isolator", "no", "warns"), ("de_energise", None, "open")],
    )  # fmt: skip
    def test_space(self, reckoner, larkmoor, path, value, status):
        job = edit(larkmoor, fact(f"site/supply/{path}", value))
        assert status in {one.status for one in found(reckoner, job, "SITE-SPACE")}


class TestArray:
    def test_a_colder_record_blocks_and_shortening_cures(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("sheets/hybrids/hybrid-6/max_dc_v", 400))
        one = of(reckoner, job, "ARR-VOC", "String 1")
        assert one.blocks
        assert one.remedies[0].name == "Take 1 module off string 1"
        assert all(each.status == "passed" for each in cured(reckoner, job, one, "ARR-VOC"))

    def test_an_unknown_record_low_is_open_and_still_shows_a_value(self, reckoner, larkmoor):
        one = found(reckoner, edit(larkmoor, fact("site/record_low_c", None)), "ARR-VOC")[0]
        assert one.status == "open"
        assert "record low is unknown" in one.open_because
        assert one.figure.value > 400

    def test_too_short_a_string_warns_and_one_that_never_starts_blocks(self, reckoner, larkmoor):
        off = [Change(f"faces/south-west/modules/m{n}/string", "") for n in range(3, 9)]
        one = of(reckoner, edit(larkmoor, *off), "ARR-VMP", "String 2")
        assert one.blocks  # 2 x 43.6 V at the record low are less than the 150 V at which its tracker starts
        assert "never starts" in one.text
        one = of(reckoner, edit(larkmoor, *off[2:]), "ARR-VMP", "String 2")
        assert one.verdict is Verdict.WARNS
        assert "At least" in one.advice

    def test_a_string_that_never_starts_yields_nothing(self, reckoner, larkmoor):
        short = edit(larkmoor, *[Change(f"faces/south-west/modules/m{n}/string", "") for n in range(3, 9)])
        none = edit(larkmoor, *[Change(f"faces/south-west/modules/m{n}/string", "") for n in range(1, 9)])
        assert reckoner.pv_dc_kw(short).sum() == pytest.approx(reckoner.pv_dc_kw(none).sum())

    def test_trackers_with_unlike_ratings_are_judged_by_their_own(self, reckoner, larkmoor):
        data = larkmoor.model_dump(mode="json")
        data["sheets"]["hybrids"]["hybrid-6"]["trackers"][1]["isc_max_a"] = 17.0
        from lodestaff.job.edit import validated

        job = validated(data)
        assert [one.status for one in found(reckoner, job, "ARR-ISC")] == ["passed", "blocks"]

    def both_on_a(self, larkmoor):
        return edit(larkmoor, Change("strings/string-2/tracker", "A"))

    def test_two_strings_on_one_tracker_are_rated_by_the_plain_sum(self, reckoner, larkmoor):
        """2 x 13.9 A x 1.25 = 34.75 A against 20 A; coincidence is information."""
        (one,) = found(reckoner, self.both_on_a(larkmoor), "ARR-ISC")
        assert one.blocks
        assert one.figure.value == pytest.approx(34.75)
        coincidence = next(entry for entry in one.figure.inputs if "coincide" in entry.name)
        assert 60 < coincidence.value < 100

    def test_operating_current_above_the_limit_is_clipped_not_damage(self, reckoner, larkmoor):
        (one,) = found(reckoner, self.both_on_a(larkmoor), "ARR-IMP")
        assert one.verdict is Verdict.WARNS
        clipped = next(entry.value for entry in one.figure.inputs if "clipped" in entry.name)
        assert clipped > 10
        assert reckoner.pv_dc_kw(self.both_on_a(larkmoor)).sum() < reckoner.pv_dc_kw(larkmoor).sum()

    def test_unequal_parallel_strings_warn_and_equal_ones_on_unlike_faces_pass(self, reckoner, larkmoor):
        (one,) = found(reckoner, self.both_on_a(larkmoor), "ARR-PAR")
        assert one.verdict is Verdict.WARNS
        off = [Change(f"faces/south-east/modules/m{n}/string", "") for n in (9, 10)]
        (one,) = found(reckoner, edit(self.both_on_a(larkmoor), *off), "ARR-PAR")
        assert one.verdict is Verdict.PASSED
        assert "2 faces" in one.text

    def test_three_parallel_strings_need_fuses(self, reckoner, larkmoor):
        data = larkmoor.model_dump(mode="json")
        data["strings"].append({"id": "string-3", "name": "3", "unit": "hybrid", "tracker": "A"})
        data["strings"][1]["tracker"] = "A"
        for module in data["faces"][0]["modules"][5:]:
            module["string"] = "string-3"
        from lodestaff.job.edit import validated

        (one,) = found(reckoner, validated(data), "ARR-FUSE")
        assert one.verdict is Verdict.WARNS
        assert "25 A" in one.text

    @pytest.mark.parametrize(
        ("unit", "status"), [("hybrid-6", "passed"), ("hybrid-3", "warns"), ("hybrid-10", "notes")]
    )
    def test_dc_to_ac(self, reckoner, larkmoor, unit, status):
        (one,) = found(reckoner, edit(larkmoor, Change("units/hybrid/sheet", unit)), "ARR-RATIO")
        assert one.status == status


class TestStorage:
    def test_one_module_alone_and_one_more(self, reckoner, larkmoor):
        one = found(reckoner, edit(larkmoor, Change("banks/battery/modules", 2)), "STO-POWER")[0]
        assert "one more module brings" in one.text
        assert "It takes 3 modules to feed the inverter fully" in one.text

    def test_too_few_modules_for_the_held_circuits_block_and_more_cure(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("banks/battery/modules", 1))
        one = found(reckoner, job, "STO-POWER")[0]
        assert one.blocks
        assert cured(reckoner, job, one, "STO-POWER")[0].status == "passed"

    def test_more_than_the_stack_takes_blocks(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("banks/battery/modules", 9))
        one = found(reckoner, job, "STO-COUNT")[0]
        assert one.blocks
        assert cured(reckoner, job, one, "STO-COUNT")[0].status == "passed"

    def test_growing(self, reckoner, larkmoor):
        assert "2 more modules fit" in found(reckoner, larkmoor, "STO-GROW")[0].text
        full = found(reckoner, edit(larkmoor, Change("banks/battery/modules", 6)), "STO-GROW")[0]
        assert full.verdict is Verdict.NOTES


class TestRuns:
    @pytest.mark.parametrize(
        ("field", "value", "code"),
        [("size_mm2", 2.5, "WIRE-AMP"), ("device_a", 100, "WIRE-AMP"), ("length_m", 60, "WIRE-DROP")],
    )
    def test_a_bad_choice_is_found_and_its_remedy_cures(self, reckoner, larkmoor, field, value, code):
        job = edit(larkmoor, Change(f"cables/hybrid-feed/{field}", value))
        one = of(reckoner, job, code, "Hybrid feed")
        assert one.verdict in (Verdict.BLOCKS, Verdict.WARNS)
        if one.remedies:
            after = edit(job, *one.remedies[0].changes)
            assert of(reckoner, after, code, "Hybrid feed").status == "passed"

    def test_a_device_below_the_current_blocks(self, reckoner, larkmoor):
        one = of(
            reckoner, edit(larkmoor, Change("cables/hybrid-feed/device_a", 20)), "WIRE-AMP", "Hybrid feed"
        )
        assert one.blocks
        assert "smaller than the current" in one.text

    def test_factors_are_in_the_working(self, reckoner, larkmoor):
        job = edit(
            larkmoor,
            Change("cables/hybrid-feed/grouping", 3),
            Change("cables/hybrid-feed/insulation_mm", 100),
        )
        one = of(reckoner, job, "WIRE-AMP", "Hybrid feed")
        values = {entry.name: entry.value for entry in one.figure.inputs}
        assert (values["Ca"], values["Cg"], values["Ci"]) == (0.94, 0.7, 0.78)
        assert "from memory" in str(one.limit_source)

    def test_a_run_without_a_cable_is_open(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("cables/hybrid-feed", None))
        assert of(reckoner, job, "WIRE-AMP", "Hybrid feed").status == "open"

    def test_a_long_loop_is_not_cleared_by_a_c_curve(self, reckoner, larkmoor):
        """The residual-current device clears what the breaker doesn't."""
        job = edit(
            larkmoor, Change("cables/hybrid-feed/length_m", 150), Change("cables/hybrid-feed/cpc_mm2", 2.5)
        )
        assert of(reckoner, job, "WIRE-FAULT", "Hybrid feed").blocks
        helped = edit(job, Change("cables/hybrid-feed/rcd_ma", 30.0))
        assert of(reckoner, helped, "WIRE-FAULT", "Hybrid feed").verdict is Verdict.NOTES

    def test_the_island_needs_a_residual_current_device(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("cables/hybrid-backup/rcd_ma", None))
        one = of(reckoner, job, "WIRE-FAULT", "on the island")
        assert one.blocks
        assert one.remedies[0].name == "Essential board feed: fit a 30 mA device"

    def test_a_shallow_way_needs_one_and_two_ways_need_a_bidirectional_one(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("cables/hybrid-feed/depth_mm", 30))
        one = of(reckoner, job, "WIRE-RCD", "Hybrid feed")
        assert one.blocks
        fitted = edit(job, *one.remedies[0].changes)
        assert of(reckoner, fitted, "WIRE-RCD", "Hybrid feed can feed").status == "open"
        behind = of(reckoner, fitted, "WIRE-RCD", "behind 30 mA of Hybrid feed")
        assert behind.status == "warns"  # the board's own 30 mA device stands behind it
        wrong = edit(
            fitted, Change("cables/hybrid-feed/rcd_bidirectional", {"value": "no", "known": "data sheet"})
        )
        assert of(reckoner, wrong, "WIRE-RCD", "Hybrid feed can feed").blocks

    def test_tt_needs_one_everywhere_and_shows_the_touch_voltage(self, reckoner, larkmoor):
        job = edit(larkmoor, fact("site/supply/earthing", "TT"))
        assert of(reckoner, job, "WIRE-RCD", "Hybrid feed").blocks
        touch = of(reckoner, job, "WIRE-RCD", "touch voltage")
        assert touch.figure.value == pytest.approx(64 * 0.03)

    def test_the_island_has_an_earth_of_its_own(self, reckoner, larkmoor):
        assert found(reckoner, larkmoor, "WIRE-EARTH")[0].status == "passed"
        none = edit(larkmoor, Change("wiring/electrode", False))
        one = found(reckoner, none, "WIRE-EARTH")[0]
        assert one.blocks
        assert cured(reckoner, none, one, "WIRE-EARTH")[0].status == "passed"
        unswitched = edit(larkmoor, Change("sheets/hybrids/hybrid-6/neutral_switched", False))
        assert "isn't switched" in found(reckoner, unswitched, "WIRE-EARTH")[0].text

    def test_a_corrected_table_value_is_used_and_says_so(self, reckoner, larkmoor):
        table = larkmoor.pack.tables["cables"].model_dump(mode="json")
        table["rows"][6][1], table["corrected"] = 30, True
        one = of(reckoner, edit(larkmoor, Change("pack/tables/cables", table)), "WIRE-AMP", "Hybrid feed")
        assert one.blocks
        assert "corrected in this job" in str(one.limit_source)
