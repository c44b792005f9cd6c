"""Permits, limits until a date, found devices, voltage: each with its verdict and its cure."""

import pytest
from tests.checks.test_design_checks import fact, found

from lodestaff.checks import Verdict
from lodestaff.job import Change, edit
from lodestaff.quantities.errors import JobError


def of(reckoner, job, code, words):
    return next(one for one in found(reckoner, job, code) if words in one.text)


def cured(job, finding, index=0):
    return edit(job, *finding.remedies[index].changes)


def with_found(job, **values):
    row = {"id": "x", "what": "conductor", "name": "Old run", **values}
    return edit(job, Change("site/found", [row]))


FACT = {"known": "read on site", "note": "", "date": ""}


class TestPermits:
    def test_an_unasked_larger_unit_is_asked_for_or_made_smaller(self, reckoner, larkmoor):
        bare = edit(
            larkmoor,
            Change("site/permission/parallel_state", "not asked"),
            fact("site/permission/asked_kva", None),
            fact("site/permission/expanded_kva", None),
        )
        one = of(reckoner, bare, "SITE-PERMIT", "registered")
        asked, smaller = one.remedies
        assert cured(bare, one).site.permission.asked_kva.value == 6.0
        assert "asked" in asked.name
        less = cured(bare, one, 1)
        assert of(reckoner, less, "SITE-PERMIT", "registered").verdict is Verdict.PASSED
        assert less.sheet_of(less.units[0]).rated_kva <= 3.68
        assert smaller.name.startswith("Take")

    def test_asking_for_less_than_the_expanded_system_warns(self, reckoner, larkmoor):
        job = edit(larkmoor, fact("site/permission/expanded_kva", 10.0))
        one = of(reckoner, job, "SITE-PERMIT", "expanded system comes to")
        assert one.verdict is Verdict.WARNS
        assert cured(job, one).site.permission.asked_kva.value == 10.0

    def test_export_set_without_permission_is_cured(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("site/permission/state", "applied for"))
        one = of(reckoner, job, "SITE-PERMIT", "permission to export is applied for")
        assert one.verdict is Verdict.WARNS
        assert cured(job, one).limits.export_kw == 0

    def test_found_generation_counts_unless_a_unit_stands_for_it(self, reckoner, larkmoor):
        row = {
            "id": "roof",
            "what": "generation",
            "name": "Old array",
            "phase": "L1",
            "rating": {"value": 2.3, **FACT},
        }
        job = edit(larkmoor, Change("site/found", [row]))
        one = of(reckoner, job, "SITE-PERMIT", "registered")
        assert one.figure.value == pytest.approx(8.3)
        assert one.blocks
        stands = edit(job, Change("site/found/roof/part", "hybrid"))
        assert of(reckoner, stands, "SITE-PERMIT", "registered").figure.value == pytest.approx(6.0)

    @pytest.mark.parametrize(
        ("state", "verdict"), [("granted", "passed"), ("applied for", "notes"), ("refused", "blocks")]
    )
    def test_other_permits(self, reckoner, larkmoor, state, verdict):
        job = edit(larkmoor, Change("site/permits/consent/state", state))
        assert of(reckoner, job, "SITE-PERMIT", "consent").verdict == verdict

    def test_a_permit_without_a_date_is_open(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("site/permits/consent/date", ""))
        assert of(reckoner, job, "SITE-PERMIT", "consent").open

    def test_a_smaller_fuse_until_a_date_holds_the_import_limit(self, reckoner, larkmoor):
        """60 A at 230 V are 13.8 kW (arithmetic)."""
        row = {"id": "fuse", "what": "main fuse", "value": 60, "until": "2027-02-01"}
        job = edit(larkmoor, Change("site/interim", [row]))
        one = of(reckoner, job, "SITE-PERMIT", "Main fuse 60")
        assert one.blocks
        assert one.limit == pytest.approx(13.8)
        again = cured(job, one)
        assert again.limits.import_kw == pytest.approx(13.8)
        assert of(reckoner, again, "SITE-PERMIT", "Main fuse 60").verdict is Verdict.PASSED
        lifted = edit(job, Change("site/interim/fuse/lifted", True))
        assert not any("Main fuse 60" in one.text for one in found(reckoner, lifted, "SITE-PERMIT"))

    @pytest.mark.parametrize("text", ["1 December", "2026-13-01", "01/12/2026"])
    def test_a_date_is_written_one_way(self, larkmoor, text):
        with pytest.raises(JobError, match="is no date; write one like 2026-11-25"):
            edit(larkmoor, Change("site/permits/consent/date", text))


class TestVoltage:
    def test_outside_the_range_blocks(self, reckoner, larkmoor):
        one = found(reckoner, edit(larkmoor, fact("site/supply/voltage_v", 255.0)), "SITE-VOLTAGE")[0]
        assert one.blocks

    def test_headroom_is_that_of_the_exact_rise(self, reckoner, larkmoor):
        """E1's form, derived: V = (Vg + sqrt(Vg² + 4 P R)) / 2; the cure keeps the stage."""
        job = edit(larkmoor, fact("site/supply/voltage_v", 252.0), fact("site/supply/ze_ohm", 0.35))
        one = next(o for o in found(reckoner, job, "SITE-VOLTAGE") if "top of the range" in o.text)
        loop = next(i.value for i in one.figure.inputs if i.name == "unit's feed") + 0.35
        watts = job.limits.export_kw * 1000
        assert one.figure.value == pytest.approx((252 + (252**2 + 4 * watts * loop) ** 0.5) / 2)
        assert one.verdict is Verdict.WARNS
        again = cured(job, one)
        assert (
            next(o for o in found(reckoner, again, "SITE-VOLTAGE") if "top of the range" in o.text).verdict
            is Verdict.PASSED
        )

    def test_an_unmeasured_voltage_is_open(self, reckoner, larkmoor):
        assert found(reckoner, edit(larkmoor, fact("site/supply/voltage_v", None)), "SITE-VOLTAGE")[0].open


class TestFound:
    def test_an_unfit_thing_blocks_until_it_is_planned_anew(self, reckoner, larkmoor):
        job = with_found(larkmoor, what="board", condition={"value": "unfit", **FACT})
        one = of(reckoner, job, "SITE-SPACE", "Old run")
        assert one.blocks
        again = of(reckoner, cured(job, one), "SITE-SPACE", "Old run")
        assert again.verdict is Verdict.PASSED
        assert again.open  # planned, not done

    def test_an_old_conductor_against_today(self, reckoner, larkmoor):
        """2.5 mm² carries 27 A clipped direct (BS 7671 table 4D5 C, from memory): a 32 A device is too
        large."""
        job = with_found(
            larkmoor,
            rating={"value": 2.5, **FACT},
            device_a={"value": 32, **FACT},
            condition={"value": "good", **FACT},
        )
        one = of(reckoner, job, "SITE-SPACE", "by today's table")
        assert one.limit == pytest.approx(27)
        assert one.blocks
        again = of(reckoner, cured(job, one), "SITE-SPACE", "by today's table")
        assert again.verdict is Verdict.PASSED
        assert again.limit >= 32

    def test_worn_and_unseen_is_said(self, reckoner, larkmoor):
        job = with_found(larkmoor, what="board", condition={"value": "worn", **FACT}, photos=["a" * 64])
        one = of(reckoner, job, "SITE-SPACE", "hasn't seen it")
        assert of(reckoner, cured(job, one), "SITE-SPACE", "Old run").remedies == ()


@pytest.mark.parametrize(
    ("path", "value", "code", "words"),
    [
        ("site/supply/surge_protection", "no", "SITE-SPACE", "Surge protection"),
        ("site/supply/isolator", "no", "SITE-SPACE", "Isolator"),
        ("site/supply/board_condition", "unfit", "SITE-SPACE", "condition: unfit"),
        ("site/supply/spare_ways", 0, "SITE-SPACE", "Ways needed"),
        ("site/supply/bonding_mm2", 4.0, "SITE-EARTH", "bonding"),
        ("site/supply/earthing_mm2", 6.0, "SITE-EARTH", "Earthing conductor"),
        ("site/supply/rating_a", None, "SITE-RATING", "isn't known"),
        ("site/supply/rating_a", 40.0, "SITE-RATING", "ask for"),
    ],
)
def test_a_cure_makes_it_pass_and_stays_open_until_done(reckoner, larkmoor, path, value, code, words):
    job = edit(larkmoor, fact(path, value))
    one = of(reckoner, job, code, words)
    assert one.verdict in (Verdict.WARNS, Verdict.BLOCKS)
    (remedy,) = one.remedies
    again = edit(job, *remedy.changes)
    assert again != job
    if value == 40.0:
        assert again.site.permits[-1].kind == "main fuse"
        return
    left = [
        o
        for o in found(reckoner, again, code)
        if o.figure.name == one.figure.name and o.verdict in (Verdict.WARNS, Verdict.BLOCKS)
    ]
    assert all("asks for" in o.text or "ask for" in o.text for o in left)
