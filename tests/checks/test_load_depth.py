"""Legs and phases, service demand, what hands must switch, restarts, measured values; and that every remedy
applies."""

import pytest
from tests.checks.test_design_checks import fact, found

from lodestaff.checks import Verdict
from lodestaff.job import Change, Role, edit, load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.findings import findings
from lodestaff.samples import sample_names, sample_path


def of(reckoner, job, code, words, deep=True):
    ones = findings(reckoner, job, deep, stations=frozenset(["site", "loads"]))
    return next(one for one in ones if one.code == code and words in one.text)


@pytest.fixture(scope="module")
def ranch():
    return load_job(sample_path("juniper-draw-ranch"))


@pytest.fixture(scope="module")
def wash():
    return load_job(sample_path("ocotillo-wash-centre"))


class TestLegs:
    def test_currents_by_hand(self, wash):
        """Backup board 1 of the sample: each leg's kVA over 120 V, a circuit between legs half on each."""
        reckoner = Reckoner()
        board = next(one for one in reckoner.wiring(wash).boards if one.id == "backup-1")
        legs = {"A": 0.0, "B": 0.0}
        for name in board.circuits:
            c = wash.circuit(name)
            for leg in c.legs:
                legs[leg] += c.running_kva / len(c.legs) * 1000 / 120
        one = of(reckoner, wash, "LOAD-PHASE", "Backup board 1", deep=False)
        amps = {i.name: i.value for i in one.figure.inputs}
        assert (amps["A"], amps["B"]) == pytest.approx((legs["A"], legs["B"]))
        mean = sum(legs.values()) / 2
        assert one.figure.value == pytest.approx(100 * abs(legs["A"] - mean) / mean)

    def test_dealing_is_the_cure(self, wash):
        reckoner = Reckoner()
        one = of(reckoner, wash, "LOAD-PHASE", "Backup board 1")
        assert one.verdict is Verdict.WARNS
        again = of(reckoner, edit(wash, *one.remedies[0].changes), "LOAD-PHASE", "Backup board 1")
        assert again.figure.value < one.figure.value

    def test_a_board_that_no_dealing_helps_is_no_warning(self, ranch):
        one = of(Reckoner(), ranch, "LOAD-PHASE", "Second building")
        assert one.verdict is Verdict.NOTES
        assert "No other dealing" in one.text

    def test_a_leg_over_its_rating_blocks(self, ranch):
        many = edit(
            ranch,
            *(Change(f"circuits/{c}/running_w", 2600) for c in ("lab-lights", "lab")),
            *(Change(f"circuits/{c}/phase", "A") for c in ("lab-lights", "lab")),
        )
        one = of(Reckoner(), many, "LOAD-PHASE", "the source gives each leg")
        assert one.blocks
        assert one.limit == pytest.approx(4500 / 120)

    def test_a_circuit_between_phases_on_a_source_of_one(self):
        job = load_job(sample_path("tern-quay-boatshed"))
        wide = edit(job, Change("circuits/hoist/role", "held"))
        one = of(Reckoner(), wide, "LOAD-PHASE", "Hoist")
        assert one.blocks
        assert edit(wide, *one.remedies[0].changes).circuit("hoist").role is Role.GRID


class TestDemand:
    def test_the_log_decides_where_there_is_one(self, reckoner, larkmoor):
        method, logged = found(reckoner, larkmoor, "LOAD-DEMAND")[:2]
        assert method.verdict is Verdict.NOTES
        assert "log" in logged.text
        kw = next(i.value for i in logged.figure.inputs if i.name == "logged, highest") / 1000
        charger = larkmoor.circuit("car-charger").running_w
        assert logged.figure.value == pytest.approx((kw * 1000 + charger) / 230)

    def test_without_a_log_the_method_warns_and_says_why_there_is_none(self, reckoner, larkmoor):
        job = edit(larkmoor, Change("site/metered", None))
        method, missing = found(reckoner, job, "LOAD-DEMAND")[:2]
        assert method.verdict is Verdict.WARNS
        assert missing.open
        unconfirmed = edit(larkmoor, Change("site/metered/confirmed", False))
        assert "isn't confirmed" in found(reckoner, unconfirmed, "LOAD-DEMAND")[1].text

    def test_a_logged_demand_over_the_supply_is_cured_at_the_charger(self, reckoner, larkmoor):
        job = edit(larkmoor, fact("site/supply/rating_a", 75.0))
        one = next(o for o in found(reckoner, job, "LOAD-DEMAND") if "log" in o.text)
        assert one.blocks
        held = edit(job, *one.remedies[0].changes)
        charger = held.circuit("car-charger")
        assert charger.running_w < charger.planned_w == 7200
        assert (
            next(o for o in found(reckoner, held, "LOAD-DEMAND") if "log" in o.text).verdict is Verdict.PASSED
        )
        asked = edit(job, *one.remedies[1].changes)
        assert asked.site.permits[-1].value == 80

    def test_floor_area_unknown_leaves_the_optional_method_open(self, ranch):
        job = edit(ranch, fact("site/floor_m2", None))
        one = of(Reckoner(), job, "LOAD-DEMAND", "optional dwelling method")
        assert any("floor area" in words for words in one.open_because)

    def test_devices_count_for_sockets_and_running_power_for_others(self, ranch):
        from lodestaff.reckoning.records.circuits import demand_row

        job = edit(
            ranch,
            Change("circuits/lab/use", "sockets"),
            fact("circuits/lab/device_a", 20.0),
            fact("circuits/well/device_a", 30.0),
        )
        assert demand_row(job, job.circuit("lab")).current_a == 20
        assert demand_row(job, job.circuit("well")).current_a == pytest.approx(1300 / 0.78 / 240)


class TestHands:
    def test_what_no_device_drops_is_a_persons(self, reckoner, larkmoor):
        one = of(reckoner, larkmoor, "LOAD-LOCK", "By hand")
        assert "Staff kitchen" in one.text
        assert "heat pump" not in one.text  # load control drops it
        by_device = edit(larkmoor, *one.remedies[0].changes)
        assert of(reckoner, by_device, "LOAD-LOCK", "Nothing has to be switched").verdict is Verdict.PASSED
        stated = of(reckoner, edit(larkmoor, *one.remedies[1].changes), "LOAD-LOCK", "By hand")
        assert stated.verdict is Verdict.NOTES

    def test_a_contactor_counts(self):
        job = load_job(sample_path("brockle-vicarage"))
        one = next(
            o for o in found(Reckoner(), job, "LOAD-LOCK") if o.figure.name.startswith("Switched by hand")
        )
        assert "Car charger" not in [i.name for i in one.figure.inputs if i.unit == "kVA"]

    def test_the_whole_building_says_what_trips(self):
        job = edit(load_job(sample_path("cinder-flat-house")), Change("circuits/water/switched_by", "hand"))
        one = of(Reckoner(), job, "LOAD-LOCK", "By hand")
        assert "trips first" in one.text


class TestFullLoad:
    def test_na_asks_for_capacity_or_load_management(self):
        """NEC 702.4 (from memory): an automatic transfer of the whole building has capacity, or manages its
        load."""
        job = edit(load_job(sample_path("cinder-flat-house")), Change("circuits/water/switched_by", "hand"))
        one = of(Reckoner(), job, "LOAD-WHOLE", "Behind the changeover")
        assert one.blocks
        assert one.figure.value == pytest.approx(sum(c.running_kva for c in job.circuits))
        (cure,) = one.remedies
        again = of(Reckoner(), edit(job, *cure.changes), "LOAD-WHOLE", "Behind the changeover")
        assert again.verdict is Verdict.PASSED

    def test_elsewhere_it_is_a_note(self):
        job = load_job(sample_path("brockle-vicarage"))
        assert of(Reckoner(), job, "LOAD-WHOLE", "Behind the changeover").verdict is Verdict.NOTES

    def test_a_board_of_chosen_circuits_is_no_whole_building(self, reckoner, larkmoor):
        assert not any("Behind the changeover" in one.text for one in found(reckoner, larkmoor, "LOAD-WHOLE"))


class TestRestart:
    def test_groups_of_one_delay_by_hand(self, reckoner, larkmoor):
        """Common practice: those of one delay start together on top of what runs."""
        motors = [c for c in larkmoor.with_role(Role.HELD) if c.start_kva > c.running_kva]
        rest = sum(c.running_kva for c in larkmoor.with_role(Role.HELD)) - sum(c.running_kva for c in motors)
        one = of(reckoner, larkmoor, "LOAD-SURGE", "restart at once")
        assert one.figure.value == pytest.approx(rest + sum(c.start_kva for c in motors))
        ordered = sorted(motors, key=lambda c: -c.start_kva)
        again = of(reckoner, edit(larkmoor, *one.remedies[0].changes), "LOAD-SURGE", "restart at once")
        alone = [rest + sum(c.running_kva for c in ordered[:n]) + c.start_kva for n, c in enumerate(ordered)]
        assert again.figure.value == pytest.approx(max(alone))


class TestMeasured:
    def test_both_values_are_kept(self, reckoner, larkmoor):
        one = of(reckoner, larkmoor, "LOAD-CONT", "measured on 2026-11-03")
        taken = edit(larkmoor, *one.remedies[0].changes).circuit("dental-compressor")
        assert (taken.running_w, taken.planned_w, taken.measured_w.value) == (790, 750, 790)
        assert not any(
            "measured on" in o.text
            for o in found(reckoner, edit(larkmoor, *one.remedies[0].changes), "LOAD-CONT")
        )

    def test_less_power_than_its_energy_needs_takes_the_energy_down(self, reckoner, larkmoor):
        job = edit(
            larkmoor,
            Change("circuits/server/measured_w", {"value": 100, "known": "measured", "note": "", "date": ""}),
        )
        one = of(reckoner, job, "LOAD-CONT", "Server")
        assert edit(job, *one.remedies[0].changes).circuit("server").kwh_year == pytest.approx(876)

    def test_a_measured_start(self, ranch):
        job = edit(
            ranch,
            Change("circuits/well/measured_w", {"value": None, "known": "assumed", "note": "", "date": ""}),
        )
        one = of(Reckoner(), job, "LOAD-CONT", "at the start")
        assert edit(job, *one.remedies[0].changes).circuit("well").start_kva == pytest.approx(8.6)


# No remedy can be computed for these: what people must read, ask or decide.
BARE = ("SITE-VOLTAGE", "SITE-EARTH", "LOAD-WHOLE", "LOAD-ENERGY", "LOAD-DEMAND", "SITE-PERMIT")


@pytest.mark.parametrize("name", sample_names())
def test_every_remedy_of_site_and_loads_applies_and_undoes(name):
    """Applied, a remedy gives another sound job; the job before it is untouched, so undoing is going back
    to it."""
    path = sample_path(name)
    job = load_job(path)
    reckoner = Reckoner(lambda digest: read_attachment(path, digest))
    before = job.model_dump_json()
    ones = findings(reckoner, job, True, stations=frozenset(["site", "loads"]))
    codes = {one.code for one in ones}
    assert "SITE-SPACE" in codes
    assert "LOAD-LOCK" in codes or not reckoner.asked(job).has_backup
    for one in ones:
        if one.verdict in (Verdict.BLOCKS, Verdict.WARNS):
            assert one.remedies or one.advice
            assert one.remedies or one.code in BARE, (one.code, one.text)
        for remedy in one.remedies:
            try:
                made = edit(job, *remedy.changes)
            except JobError as trouble:
                pytest.fail(f"{one.code} {remedy.name}: {trouble}")
            assert made != job
            reckoner.wiring(made)
    assert job.model_dump_json() == before
