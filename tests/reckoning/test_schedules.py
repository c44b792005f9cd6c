"""Schedules of every kind: what stands there and nothing else, numbers as numbers."""

import csv
import io

import pytest

from lodestaff.checks.labels import LabelSchedule, wire_label
from lodestaff.exchange.cells import csv_text
from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning.costing import all_schedules as schedules
from lodestaff.reckoning.records import RECORDS
from lodestaff.reckoning.records.label_ratings import label_ratings
from lodestaff.samples import sample_names, sample_path


def of(reckoner, name):
    return {one.id: one for one in schedules(reckoner, load_job(sample_path(name)))}


@pytest.mark.parametrize("name", sample_names())
def test_every_kind_has_its_schedules(reckoner, name):
    job, found = load_job(sample_path(name)), of(reckoner, name)
    topology = reckoner.wiring(job).topology
    for one in found.values():
        assert all(len(row) == len(one.heads) for row in one.rows)
        assert all(text for texts in one.texts() for text in texts)
    assert {row[0] for row in found["cables"].rows if row[3] is None} == set()
    ends = found["terminations"].rows
    assert ends
    sealed = {unit.unit for unit in topology.units if unit.sealed}
    small = {unit.unit for unit in topology.units if unit.module_level}
    for unit in job.units:
        terminals = [row[1] for row in ends if row[0] == unit.name]
        assert any("PE" in terminal for terminal in terminals)
        if unit.id in sealed:
            assert not any("battery" in terminal for terminal in terminals)
        if unit.id in small:
            assert not any("array" in terminal for terminal in terminals)
    links = {row[2] for row in found["links"].rows}
    assert ("two-wire start" in links) == any(p.kind == "generator" and p.started_by for p in job.parts)
    open_banks = [bank for bank in job.banks if bank.unit not in sealed]
    assert ("battery data" in links) == bool(open_banks)
    boards = found["boards"].rows
    assert sum(row[4] for row in boards) >= len(job.circuits)
    words = {str(row[1]) for row in found["devices"].rows}
    assert ("gateway" in words) == any(part.kind == "gateway" for part in topology.parts.values())


def test_a_conductor_ends_by_its_packs_colours_and_gauges(reckoner):
    """Colours by each pack; PE of 250.122 beside a 90 A device is 8 AWG (from memory)."""
    ends = {(row[0], row[1]): row for row in of(reckoner, "cinder-flat-house")["terminations"].rows}
    assert ends["Hybrid", "backup A"][3:5] == ("black", "3 AWG")
    assert ends["Hybrid", "backup B"][3] == "red"
    assert ends["Hybrid", "backup N"][3] == "white"
    assert ends["Hybrid", "backup PE"][3:5] == ("green", "8 AWG")
    larkmoor = {(row[0], row[1]): row for row in of(reckoner, "larkmoor")["terminations"].rows}
    assert larkmoor["Hybrid", "grid L1"][3:5] == ("brown", "16 mm²")
    assert larkmoor["Hybrid", "battery DC+"][5] == "lug"
    assert larkmoor["Hybrid", "array A DC+"][5] == "ferrule"


def test_torque_is_the_sheets_or_read_on_the_device(reckoner, larkmoor):
    sheet = larkmoor.units[0].sheet
    job = edit(larkmoor, Change(f"sheets/hybrids/{sheet}/terminal_nm", 2.5))
    rows = next(one for one in schedules(reckoner, job) if one.id == "terminations").rows
    assert {row[6] for row in rows if row[0] == "Hybrid"} == {2.5}
    assert {row[6] for row in rows if row[0] != "Hybrid"} == {"on the device"}


def test_a_board_in_numbers(reckoner):
    """By hand: what hangs on each leg of the first grid panel, at running power."""
    job = load_job(sample_path("ocotillo-wash-centre"))
    row = next(row for row in of(reckoner, "ocotillo-wash-centre")["boards"].rows if row[0] == "Grid board 1")
    place = next(place for place in reckoner.wiring(job).boards if place.name == "Grid board 1")
    on = [job.circuit(name) for name in place.circuits]
    a, b = (sum(c.running_kva / len(c.legs) for c in on if leg in c.legs) for leg in "AB")
    assert row[5] == f"A {a:.2f} kVA; B {b:.2f} kVA"
    assert row[6] == pytest.approx(100 * (max(a, b) / ((a + b) / 2) - 1))


def test_as_csv_numbers_stay_numbers_and_words_are_no_formulas(reckoner):
    cables = of(reckoner, "larkmoor")["cables"]
    rows = list(csv.reader(io.StringIO(csv_text([head.words for head in cables.heads], cables.rows))))
    assert rows[0][1] == "Carries, A"
    assert float(rows[1][1]) == pytest.approx(cables.rows[0][1])
    assert csv_text(["a"], [("=1+1",), (None,)]).splitlines()[1:] == ["'=1+1", '""']


@pytest.mark.parametrize("name", sample_names())
def test_labels_of_sources_say_their_volts_or_are_open(reckoner, name):
    """Units and the isolators of arrays and batteries: counted from the printed schedule itself."""
    job = load_job(sample_path(name))
    (found,) = wire_label(next(iter(RECORDS[LabelSchedule](reckoner, job, False))))
    texts = {row[0]: row[1] for row in of(reckoner, name)["labels"].rows}
    bare = [
        part.name
        for part in reckoner.wiring(job).topology.parts.values()
        if part.kind == "isolator" and part.way in ("array", "battery") and " A" not in texts[part.name][-3:]
    ]
    assert found.figure.value == len(bare)
    assert found.status == ("open" if bare else "passed")
    assert all(place in found.text for place in bare)
    assert bool(bare) == (name == "ocotillo-wash-centre")  # a cooler's array that no library sheet describes


@pytest.mark.parametrize("name", sample_names())
def test_the_parts_list_buys_what_is_not_there(reckoner, name):
    """Every converter of a branch, nothing of the operator's, nothing that stands there or is built in."""
    job, rows = load_job(sample_path(name)), of(reckoner, name)["parts"].rows
    counts = {row[0]: row[1] for row in rows}
    for sheet in {unit.sheet for unit in job.units}:
        new = [unit.count for unit in job.units if unit.sheet == sheet and not unit.existing]
        assert counts.get(job.sheets.units()[sheet].name, 0) == sum(new)
    small = [unit for unit in job.units if job.sheet_of(unit).module_level and not unit.existing]
    for unit in small:
        assert unit.count > 1
    bought = " ".join(counts).lower()
    assert "relay" not in bought
    assert not any(words.startswith("Fuse") for words in counts)  # the service's own; DC fuses are bought
    meters = [one for one in job.adjustments if getattr(one, "what", "") == "meter"]
    assert ("meter" in bought.replace("ammeter", "")) == bool(meters)


def test_a_unit_between_two_legs_is_labelled_with_the_volts_between_them(reckoner):
    """240 V where the legs are half a turn apart, 208 V where a third: 6 kVA / 208 V is 28.8 A, not 25 A. By
    hand."""
    job = load_job(sample_path("juniper-draw-ranch"))
    unit = job.units[0]
    assert len(unit.legs) == 2
    kva = job.sheet_of(unit).rated_kva
    assert f"240 V AC, {kva * 1000 / 240:.1f} A" in label_ratings(reckoner, job)[unit.id]
    phases = edit(job, Change("mains/system", "120/208 V"))
    assert f"208 V AC, {kva * 1000 / 207.85:.1f} A" in label_ratings(reckoner, phases)[unit.id]


@pytest.mark.parametrize("name", sample_names())
def test_single_conductors_are_counted_core_by_core(reckoner, name):
    """By hand: each new run's length for each of its cores, in conduits all runs, elsewhere those of DC."""
    job, topology = load_job(sample_path(name)), reckoner.wiring(load_job(sample_path(name))).topology
    rows = of(reckoner, name)["conductors"].rows
    sealed = {unit.unit for unit in topology.units if unit.sealed}
    wanted = 0.0
    for cable in job.cables:
        run, bank = topology.runs[cable.id], next((b for b in job.banks if cable.id == f"{b.id}-run"), None)
        if cable.existing or (bank is not None and bank.unit in sealed):
            continue
        if job.pack.conductor_rule == "NEC" or run.kind in ("array", "battery"):
            cores = next(one.cores for one in topology.conductors if one.run == cable.id)
            wanted += cable.length_m * (len(cores) + (cable.cpc_mm2 is not None and "PE" not in cores))
    assert sum(row[2] for row in rows) == pytest.approx(wanted)
    assert len({row[:2] for row in rows}) == len(rows)


def test_a_pair_of_the_roof_is_two_conductors(reckoner):
    rows = {row[:2]: row for row in of(reckoner, "larkmoor")["conductors"].rows}
    runs = [cable for cable in load_job(sample_path("larkmoor")).cables if "array" in cable.id]
    metres = sum(cable.length_m for cable in runs)
    assert rows["6 mm²", "red"][2] == rows["6 mm²", "black"][2] == metres
