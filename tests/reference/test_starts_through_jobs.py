"""Motor starts on what runs, each reached through a job's circuits and the checks of its unit."""

import pytest
from tests.reference.seam import sample

from lodestaff.electrical.plate import plate_changes
from lodestaff.job import Change, edit
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.findings import findings

UNIT = {"sheets/hybrids/hybrid-6/surge_s": 10.0}


def circuits_of(rows):
    """Held circuits of the demo's kind: running W and starting W or VA, power factor 1."""
    plain = sample("larkmoor", {}).circuits[0].model_dump(mode="json")
    return [
        {**plain, "id": f"load-{number}", "name": f"Load {number}", "running_w": run, "power_factor": 1.0,
         "start_multiple": start / run, "start_s": 0.5, "soft_start_multiple": None, "restart_s": 0.0,
         "kwh_year": 20.0}
        for number, (run, start) in enumerate(rows)
    ]  # fmt: skip


def surge(job):
    """What LOAD-SURGE says of the worst start on what runs, and of all together."""
    told = [one for one in findings(Reckoner(), job, deep=False) if one.code == "LOAD-SURGE"]
    return {one.rule: one for one in told if one.figure is not None}


def test_a_motors_start_by_its_plate_on_a_running_load():
    """Source: common practice. 1.1 kW at the shaft, 78 %, 0.8, 6 times on 1.3 kVA: 11.88 kVA, more than 10;
    with a soft start of 2.5 times 5.707 kVA."""
    job = sample("larkmoor", {
        **UNIT, "circuits": circuits_of([(1300, 1300), (500, 500)]),
        "sheets/hybrids/hybrid-6/surge_kva": 10.0,
    })  # fmt: skip
    words, changes = plate_changes(job, job.circuit("load-1"), "1.1 kW; 78 %; 0.8; 6", "2026-03-02")
    assert words == "draws 1.41 kW and 7.7 A, starts with 46.0 A"
    hard = edit(job, *changes)
    assert hard.circuit("load-1").running_kva == pytest.approx(1.763, rel=1e-3)
    assert hard.circuit("load-1").start_kva == pytest.approx(10.58, rel=1e-3)
    assert hard.circuit("load-1").known.note == "motor's plate: 1.1 kW; 78 %; 0.8; 6"
    worst = surge(hard)["LOAD-SURGE: start"]
    assert worst.figure.value == pytest.approx(11.88, rel=1e-3)
    assert worst.blocks
    soft = edit(hard, Change("circuits/load-1/soft_start_multiple", 2.5))
    eased = surge(soft)["LOAD-SURGE: start"]
    assert eased.figure.value == pytest.approx(5.707, rel=1e-3)
    assert not eased.blocks


def test_the_largest_motor_of_a_backup_board():
    """Source: common practice; every motor started last in turn. 2.86 kW run, 5.71 kVA with the worst start
    on top, 8.11 kVA where all start together."""
    rows = zip([180, 750, 60, 1200, 420, 250], [900, 3600, 60, 1200, 2100, 250], strict=True)
    job = sample("larkmoor", {
        **UNIT, "circuits": circuits_of(rows), "sheets/hybrids/hybrid-6/surge_kva": 6.0,
        "sheets/hybrids/hybrid-6/rated_kva": 3.0, "sheets/hybrids/hybrid-6/rated_kw": 3.0,
    })  # fmt: skip
    told = surge(job)
    assert told["LOAD-SURGE: start"].figure.value == pytest.approx(5.710, rel=1e-3)
    assert not told["LOAD-SURGE: start"].blocks
    assert told["LOAD-SURGE: restart"].figure.value == pytest.approx(8.110, rel=1e-3)
    continuous = [one for one in findings(Reckoner(), job, deep=False) if one.code == "LOAD-CONT"]
    assert continuous[0].figure.value == pytest.approx(2.860, rel=1e-3)
    assert not continuous[0].blocks


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("1.1 kW; 78 %; 0.8", "3 of 4 values by semicolons"),
        ("1.1 kW; 0.78; 0.8; 6", "efficiency 0.78"),
        ("1100 kW; 78 %; 0.8; 6", "shaft 1100"),
        ("1.1 kW; 78 %; 0.8; 60", "start 60"),
        ("a motor; 78 %; 0.8; 6", "a motor"),
    ],
)
def test_what_is_no_plate_is_told(text, words):
    job = sample("larkmoor", {})
    with pytest.raises(JobError, match=r"motor's plate|number") as trouble:
        plate_changes(job, job.circuits[0], text, "")
    assert words in str(trouble.value)


@pytest.mark.parametrize(
    ("name", "phase", "volts"),
    [("cinder-flat-house", "A", 120), ("cinder-flat-house", "A+B", 240), ("larkmoor", "L1", 230),
     ("tern-quay-boatshed", "A+B", 230 * 3**0.5), ("tern-quay-boatshed", "A+B+C", 690)],
)  # fmt: skip
def test_amperes_of_a_plate_go_by_the_circuits_legs(name, phase, volts):
    """By hand: S / V on a leg, S / 240 V between opposite legs, S / 400 V between two of three phases, a
    third of S / 230 V on each of three."""
    job = sample(name, {})
    circuit = job.circuits[0].model_copy(update={"phase": phase})
    words, _ = plate_changes(job, circuit, "1.1 kW; 78 %; 0.8; 6", "")
    assert f"and {1100 / 0.78 / 0.8 / volts:.1f} A" in words
