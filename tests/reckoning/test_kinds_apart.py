"""What is reckoned of kinds unlike the demo: no grid, no backup, several units on one island."""

import pytest

from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning import Moment
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.records import RECORDS
from lodestaff.reckoning.results import compute
from lodestaff.samples import sample_names, sample_path


@pytest.fixture(scope="module")
def sample():
    known = {}

    def find(name):
        if name not in known:
            known[name] = load_job(sample_path(name))
        return known[name]

    return find


OFF_GRID = ("skerry-light-cottage", "brindle-mesa-field-station")
NO_BACKUP = ("wendle-row-14", "pinfold-terrace-3")


@pytest.mark.parametrize("name", OFF_GRID)
class TestWithoutAGrid:
    def test_nothing_is_imported_exported_or_paid(self, reckoner, sample, name):
        found = reckoner.figures(sample(name))
        assert (found.import_kwh, found.export_kwh, found.bill, found.peak_import_kw) == (0, 0, 0, 0)
        assert found.off_grid
        assert found.unserved_kwh > 0
        assert found.self_sufficiency == pytest.approx(1 - found.unserved_kwh / found.load_kwh)

    def test_no_reserve_is_kept_for_the_outage_of_a_grid(self, reckoner, sample, name):
        job = sample(name)
        low, high = (reckoner.figures(edit(job, Change("limits/reserve_soc", soc))) for soc in (0.2, 0.5))
        assert low.unserved_kwh == high.unserved_kwh

    def test_findings_speak_of_no_grid(self, reckoner, sample, name):
        codes = {one.code for one in findings(reckoner, sample(name))}
        assert not codes & {
            "LIM-EXPORT",
            "LIM-IMPORT",
            "LIM-RESERVE",
            "SITE-PERMIT",
            "SITE-RATING",
            "SITE-EARTH",
            "SITE-VOLTAGE",
            "WIRE-CT",
            "LOAD-DEMAND",
        }

    def test_an_electrode_is_asked_for(self, reckoner, sample, name):
        job = sample(name)
        none = edit(
            job, Change("parts", [p.model_dump(mode="json") for p in job.parts if p.kind != "electrode"])
        )
        (one,) = [one for one in findings(reckoner, none, deep=False) if one.code == "WIRE-EARTH"]
        assert one.blocks
        cured = edit(none, *one.remedies[0].changes)
        assert not any(
            one.blocks for one in findings(reckoner, cured, deep=False) if one.code == "WIRE-EARTH"
        )

    def test_the_window_shows_what_isnt_served(self, reckoner, sample, name):
        from lodestaff.reckoning.readings import limits_readings, loads_readings

        results = compute(reckoner, sample(name), Moment())
        names = {one.name for one in (*loads_readings(results), *limits_readings(results))}
        assert "Unserved, a year" in names
        assert not names & {
            "Bill, a year",
            "Met without import",
            "Cost of the reserve, a year",
            "A night charge gains",
        }


@pytest.mark.parametrize("name", NO_BACKUP)
class TestWithoutBackup:
    def test_nothing_lasts_in_an_outage(self, reckoner, sample, name):
        job = sample(name)
        assert reckoner.leads(job) == ()
        results = compute(reckoner, job, Moment())
        assert results.outages == ()
        assert results.lasts_h() is None
        assert results.soc_now > 0  # the battery is there all the same

    def test_findings_ask_nothing_of_an_island(self, reckoner, sample, name):
        found = findings(reckoner, sample(name))
        assert not {one.code for one in found} & {"LOAD-ENERGY", "LIM-RESERVE", "WIRE-EARTH", "LOAD-SURGE"}
        assert not any(one.state == "island" for one in found if one.code == "WIRE-LIVE")


@pytest.mark.parametrize("name", sample_names())
def test_one_island_has_one_endurance(reckoner, sample, name):
    job = sample(name)
    found = reckoner.asked(job)
    leads = reckoner.leads(job)
    assert len(leads) == len(found.islands)
    for unit, island in zip(leads, found.islands, strict=True):
        hours = {
            reckoner.outage(job, one, Moment(1, 18.0)).hours for one in job.units if one.id in island.forming
        }
        assert len(hours) == 1
        assert reckoner.joint(job, unit).battery.capacity_kwh == pytest.approx(
            sum(
                c.battery.capacity_kwh
                for one, c in zip(job.units, reckoner.converters(job), strict=True)
                if one.id in island.forming and c.battery
            )
        )


@pytest.mark.parametrize(
    "name", ["sotol-ridge-house", "ludd-hall-annexe", "ocotillo-wash-centre", "tern-quay-boatshed"]
)
def test_the_order_of_a_list_changes_no_yearly_figure(reckoner, sample, name):
    job = sample(name)
    turned = edit(job, Change("units", [u.model_dump(mode="json") for u in reversed(job.units)]))
    a, b = reckoner.figures(job), reckoner.figures(turned)
    for field in (
        "pv_kwh",
        "import_kwh",
        "export_kwh",
        "curtailed_kwh",
        "clipped_kwh",
        "battery_out_kwh",
        "cycles",
    ):
        assert getattr(a, field) == pytest.approx(getattr(b, field), rel=1e-9, abs=1e-6), field


class TestWhoKeepsWhichLimit:
    def records(self, reckoner, job, code):
        from lodestaff.checks import checks_named

        return [
            one
            for check in checks_named(code)
            for record in RECORDS[check.record](reckoner, job, False)
            for one in check.function(record)
        ]

    def test_units_that_obey_nothing_count_against_the_export(self, reckoner, sample):
        """By hand: six older units of 400 VA and an inverter of 5.0 kW beside a battery unit that keeps
        zero."""
        job = sample("tern-quay-boatshed")
        one = self.records(reckoner, job, "LIM-EXPORT")[0]
        assert one.blocks
        assert one.figure.value == pytest.approx(7.4)
        noted = edit(job, *one.remedies[0].changes)
        assert not self.records(reckoner, noted, "LIM-EXPORT")[0].blocks

    def test_a_limit_is_proven_only_for_units_that_obey(self, reckoner, sample):
        job = sample("brockle-vicarage")
        (one,) = [one for one in self.records(reckoner, job, "WIRE-CT") if "limits" in one.text]
        assert one.verdict == "warns"
        assert "String inverter obeys none" in one.text
        ct = next(part.id for part in job.parts if part.kind == "ct" and part.proves_limit)
        told = edit(job, Change(f"parts/{ct}/obeyed_by", ["inverter"]))
        (one,) = [one for one in self.records(reckoner, told, "WIRE-CT") if "limits" in one.text]
        assert one.status == "passed"

    def test_a_limit_is_proven_on_every_phase_that_it_counts(self, reckoner, sample):
        job = sample("tern-quay-boatshed")
        ct = next(part.id for part in job.parts if part.kind == "ct" and part.proves_limit)
        one_leg = edit(
            job, Change(f"parts/{ct}/phases", "A"), Change(f"parts/{ct}/obeyed_by", ["existing", "inverter"])
        )
        (one,) = [
            one
            for one in self.records(reckoner, one_leg, "WIRE-CT")
            if "limits" in one.text.lower() or "supply:" in one.text
        ]
        assert one.verdict == "warns"

    def test_zero_export_that_goes_on_when_its_meter_is_lost_blocks(self, reckoner, larkmoor):
        zero = edit(
            larkmoor,
            Change("limits/export_kw", 0.0),
            Change("sheets/hybrids/hybrid-6/on_meter_loss", "export goes on"),
        )
        assert any(one.blocks and "goes on" in one.text for one in self.records(reckoner, zero, "LIM-EXPORT"))
        silent = edit(zero, Change("sheets/hybrids/hybrid-6/on_meter_loss", "not stated"))
        assert any(
            one.status == "open" and "doesn't say" in one.text
            for one in self.records(reckoner, silent, "LIM-EXPORT")
        )

    def test_the_busiest_leg_is_asked_never_the_mean(self, reckoner, sample):
        job = sample("tern-quay-boatshed")
        (rating,) = self.records(reckoner, job, "SITE-RATING")
        from lodestaff.reckoning.by_leg import leg_load_kw

        by_leg = leg_load_kw(reckoner, job)
        assert rating.figure.value == pytest.approx(by_leg.max() * 1000 / 230)
        assert by_leg.max() > by_leg.sum(axis=0).max() / 3 * 1.05

    def test_both_legs_are_held_against_the_permission_of_the_whole(self, reckoner, sample):
        """A unit of 12 kVA on two legs needs 12 kVA, not 6 kVA a leg."""
        job = sample("cinder-flat-house")
        (one,) = [one for one in self.records(reckoner, job, "SITE-PERMIT") if "registered" in one.text]
        assert one.figure.value == pytest.approx(12.0)
        half = {"value": 6.0, "known": "read on site", "note": "", "date": ""}
        assert any(
            one.blocks
            for one in self.records(
                reckoner, edit(job, Change("site/permission/parallel_kva", half)), "SITE-PERMIT"
            )
        )


class TestShutdown:
    def test_the_north_american_pack_asks_for_it(self, reckoner, sample):
        job = sample("ocotillo-wash-centre")
        (one,) = [one for one in findings(reckoner, job) if one.code == "ARR-RSD"]
        assert one.blocks
        cured = edit(job, *one.remedies[0].changes)
        assert not any(one.blocks for one in findings(reckoner, cured) if one.code == "ARR-RSD")

    @pytest.mark.parametrize("name", ["larkmoor", "gannet-point-lodge"])
    def test_other_packs_don_t(self, reckoner, sample, name):
        assert not [one for one in findings(reckoner, sample(name)) if one.code == "ARR-RSD"]


@pytest.mark.parametrize("name", ["pinfold-terrace-3", "tern-quay-boatshed"])
def test_what_obeys_no_transformer_exports_until_it_is_noted_that_it_does(reckoner, sample, name):
    job = sample(name)
    assert job.limits.export_kw == 0
    found = reckoner.figures(job)
    assert found.export_kwh > 1000
    assert found.past_limit_kwh == pytest.approx(found.export_kwh)
    assert found.money.export_income == 0
    ct = next(part for part in job.parts if part.kind == "ct" and part.proves_limit)
    follow = [unit.id for unit in job.units if unit.id != ct.serves]
    kept = edit(job, Change(f"parts/{ct.id}/obeyed_by", follow))
    assert reckoner.figures(kept).export_kwh == pytest.approx(0, abs=1e-6)
    assert reckoner.figures(kept).past_limit_kwh == 0
    assert reckoner.figures(kept).curtailed_kwh > 1000
