"""What a reading says of its step, and what the journal makes of many."""

import pytest

from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.reading import Reading, Status, judge
from lodestaff.commissioning.record import as_data, from_data, last_readings, proof_of
from lodestaff.commissioning.rules import Between, Confirmed, LoadSeen, SettingIs, StringAmps
from lodestaff.commissioning.step import Step
from lodestaff.job.journal import Entry, append, read
from lodestaff.quantities.errors import JobError
from lodestaff.topology import build

AT = "2026-11-25T10:00:00+00:00"


def reading(step="s", *numbers, **more):
    given = {"by": "tester", "instrument": "meter", "calibrated_until": "2027-03-01", "at": AT} | more
    return Reading(step, numbers, **given)


def step(rule, **more):
    return Step("s", "function", "A step.", rule, **more)


OHMS = Between(1.0, "Mohm", 1.0, None, "here")


@pytest.mark.parametrize(
    ("given", "status", "word"),
    [
        (reading("s", 5.0), Status.PASSED, "within"),
        (reading("s", 0.9), Status.FAILED, "outside"),
        (reading("s", 5.0, by=""), Status.DOUBTFUL, "who"),
        (reading("s", 5.0, instrument=""), Status.DOUBTFUL, "instrument"),
        (reading("s", 5.0, calibrated_until=""), Status.DOUBTFUL, "calibration"),
        (reading("s", 5.0, calibrated_until="2026-11-24"), Status.DOUBTFUL, "out of calibration"),
        (reading("s", 5.0, calibrated_until="2026-11-25"), Status.PASSED, "within"),
        (reading("s", 5.0, way="link", instrument="", calibrated_until=""), Status.PASSED, "within"),
        (reading("s", put_off="a loop tester"), Status.OPEN, "a loop tester"),
        (reading("s", state="no answer in time"), Status.OPEN, "no answer in time"),
        (None, Status.OPEN, "to be done"),
    ],
)
def test_a_number_against_its_bounds(given, status, word):
    found = judge(step(OHMS), given, {})
    assert found.status is status
    assert word in found.words


def test_a_failed_reading_stays_failed_however_it_was_taken():
    assert judge(step(OHMS), reading("s", 0.1, by="", instrument=""), {}).status is Status.FAILED


def test_yes_and_no():
    assert judge(step(Confirmed()), reading(confirmed=True), {}).status is Status.PASSED
    assert judge(step(Confirmed()), reading(confirmed=False), {}).status is Status.FAILED


def test_without_its_conditions_a_reading_is_open():
    found = judge(step(LoadSeen()), reading("s", 2.0, conditions=Conditions(voltage_v=230.0)), {})
    assert found.status is Status.OPEN
    assert "clamp meter" in found.words


def test_the_known_load_is_held_against_the_clamp_and_the_clamp_against_the_voltage():
    """A 3 kW heater at 230 V draws 3.21 kW at 238 V (derived); a clamp that shows 2 kW is on the wrong
    core."""
    ct = step(LoadSeen(3.0, 230.0))
    right = Conditions(voltage_v=238.0, load_kw=3.2)
    assert judge(ct, reading("s", 3.25, conditions=right), {}).status is Status.PASSED
    assert judge(ct, reading("s", -3.2, conditions=right), {}).status is Status.FAILED
    wrong = Conditions(voltage_v=238.0, load_kw=2.0)
    found = judge(ct, reading("s", 2.0, conditions=wrong), {})
    assert found.status is Status.DOUBTFUL
    assert "3.21 kW" in found.words
    assert judge(ct, reading("s", 3.2, conditions=Conditions(load_kw=3.2)), {}).status is Status.OPEN


def test_little_sun_proves_little(larkmoor):
    module = larkmoor.sheets.modules["module-440"]
    for poa, status in ((399.0, Status.DOUBTFUL), (400.0, Status.PASSED)):
        value = module.isc_a * poa / 1000
        found = judge(step(StringAmps(module)), reading("s", value, conditions=Conditions(poa, 25.0)), {})
        assert found.status is status


def test_an_export_that_never_reached_its_limit_proves_little():
    export = Between(3.6, "kW", None, 3.672, "here", reach=2.88)
    assert judge(step(export), reading("s", 3.59), {}).status is Status.PASSED
    assert judge(step(export), reading("s", 1.0), {}).status is Status.DOUBTFUL
    assert judge(step(export), reading("s", 3.7), {}).status is Status.FAILED


def test_a_setting_must_be_equal_in_every_number():
    window = step(SettingIs("window:night", (1.0, 5.0, 80.0, 3.0), 0.01, ""))
    assert judge(window, reading("s", 1.0, 5.0, 80.0, 3.0, instrument=""), {}).status is Status.PASSED
    assert judge(window, reading("s", 13.0, 5.0, 80.0, 3.0), {}).status is Status.FAILED
    assert judge(window, reading("s", 1.0, 5.0, 80.0), {}).status is Status.FAILED


def test_nothing_passes_ahead_of_what_it_waits_for():
    waiting = step(OHMS, waits_for=("before",))
    for passed in ({}, {"before": False}):
        found = judge(waiting, reading("s", 5.0), passed)
        assert found.status is Status.OPEN
        assert "before" in found.words
    assert judge(waiting, reading("s", 5.0), {"before": True}).status is Status.PASSED
    assert judge(waiting, reading("s", 0.1), {}).status is Status.FAILED
    assert judge(step(OHMS, needs="sun"), reading("s", 5.0), {}).status is Status.OPEN


@pytest.mark.parametrize("bad", [float("nan"), float("inf")])
def test_a_reading_is_a_finite_number(bad):
    with pytest.raises(ValueError, match="finite"):
        Reading("s", (bad,))
    with pytest.raises(ValueError, match="finite"):
        Reading("s", (1.0,), conditions=Conditions(bad, 20.0))


# --- the journal --------------------------------------------------------------------------------------------
def entry(step_id, *numbers, **more):
    return Entry("reading", "", AT, "tester", None, as_data(reading(step_id, *numbers, **more)))


def test_the_last_reading_stands_and_a_withdrawn_one_does_not():
    entries = [
        entry("a", 1.0),
        entry("a", 2.0),
        Entry("correction", "misread", AT, "tester", 2),
        entry("b", 3.0),
    ]
    found = last_readings(entries)
    assert found["a"] == ("1", reading("a", 1.0))
    assert found["b"][0] == "4"


def test_a_link_that_gave_nothing_does_not_undo_a_reading():
    entries = [entry("a", 1.0), entry("a", state="connection lost", way="link")]
    assert last_readings(entries)["a"][1].numbers == (1.0,)
    assert last_readings(entries[1:])["a"][1].state == "connection lost"


def test_a_reading_survives_the_journal(tmp_path):
    path = tmp_path / "job.json"
    taken = reading("voc-string-1", 370.2, conditions=Conditions(812.0, 44.5, 238.0))
    append(path, "reading", "370 V", "tester", data=as_data(taken))
    (one,) = read(path)
    assert from_data(one.data, "here") == taken


@pytest.mark.parametrize("data", [{"step": "a", "numbers": ["x"]}, {"numbers": []}, {"step": "a",
                                                                                     "colour": 1},
                                  {"step": "a", "at": "yesterday"}, {"step": "a",
                                                                     "numbers": [1e999]}])  # fmt: skip
def test_a_damaged_reading_says_where(data):
    with pytest.raises(JobError, match="journal entry 1"):
        last_readings([Entry("reading", "", AT, "", None, data)])


def test_old_journal_lines_without_data_are_kept_and_passed_over(larkmoor):
    proof = proof_of(larkmoor, build(larkmoor), [Entry("reading", "Ze 0.21 ohm", AT, "tester")])
    assert proof.count(Status.OPEN) == len(proof.results)
    assert proof.first_open.step.id == "prove-dead"
    assert proof.proven() == frozenset()


def test_a_string_put_off_leaves_the_rest_to_go_on(larkmoor):
    entries = [entry("voc-string-2", put_off="two modules, delivery on Friday")]
    proof = proof_of(larkmoor, build(larkmoor), entries)
    assert "delivery on Friday" in proof.result("voc-string-2").judgement.words
    assert "in yet" in proof.result("power-hybrid-b").judgement.words
    assert "voc-string-2" not in proof.result("supply-v").step.waits_for
