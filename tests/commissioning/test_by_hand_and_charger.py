"""Bonds where a changeover is put by hand, the steps of a car charger, and what type plates are read."""

import pytest

from lodestaff.commissioning.procedure import procedure
from lodestaff.commissioning.tools import tool_of
from lodestaff.job import Change, edit, load_job
from lodestaff.samples import sample_path
from lodestaff.topology import build


def steps_of(name, *changes):
    job = load_job(sample_path(name))
    job = edit(job, *changes) if changes else job
    return {step.id: step for step in procedure(job, build(job))}


@pytest.mark.parametrize(
    ("sample", "step", "made", "words"),
    [
        ("larkmoor", "bond-dead-grid-hybrid-bypass-hybrid", False, "open: no neutral-earth bond"),
        ("skerry", "bond-dead-generator-bypass-hybrid", True, "bond in the generator"),
        ("cinder", "bond-dead-grid-bypass-hybrid", True, "bonding jumper of the supply"),
    ],
)
def test_bonds_are_counted_in_each_state_that_a_hand_can_make(sample, step, made, words):
    found = steps_of(sample)[step]
    assert (found.rule.high is not None) is made
    assert words in found.text
    assert found.measure.position in found.text
    assert found.waits_for == ("bond-dead-hybrid",)


def test_only_a_boards_own_changeover_is_tried_at_it():
    found = [name for name in steps_of("ocotillo") if name.startswith("bond-dead") and "bypass" in name]
    assert found == ["bond-dead-grid-bypass-1-hybrid-1", "bond-dead-grid-bypass-2-hybrid-2"]


def test_a_charger_has_its_states_its_current_its_faults_and_an_outage_only_where_there_is_one():
    with_island = steps_of("larkmoor")
    assert [name for name in with_island if name.startswith("charger")] == [
        "charger", "charger-current", "charger-faults", "charger-outage",
    ]  # fmt: skip
    assert (with_island["charger-current"].rule.low, with_island["charger-current"].rule.high) == (8.0, 10.8)
    assert "dead in the island" in with_island["charger-outage"].text
    assert "charger-outage" not in steps_of("wendle")  # there is no backup


def test_a_meter_before_a_backed_up_port_promises_no_generation():
    insert = {
        "kind": "insert",
        "id": "gen",
        "name": "Generation meter",
        "what": "meter",
        "into": "hybrid:grid",
    }
    step = steps_of("larkmoor", Change("adjustments", [insert]))["meter-gen"]
    assert "not what hangs on Hybrid's own port" in step.text
    assert step.measure.kind == "confirm"
    assert not [name for name in steps_of("cobbler") if name.startswith("meter-")]  # it stood there before


def test_plates_are_read_of_what_is_delivered():
    assert [name for name in steps_of("tern-quay") if name.startswith("type-")]
    assert "type-existing" not in steps_of("cobbler")
    sealed = steps_of("pinfold")
    assert not [name for name in sealed if name.startswith("type-") and "Battery: the" in sealed[name].text]


def test_a_caution_names_this_sites_part_and_its_volts():
    """By hand: ten modules of the demo's sheet in a row; four battery modules of 51.2 V in series."""
    steps = steps_of("larkmoor")
    job = load_job(sample_path("larkmoor"))
    volts = 10 * job.sheets.modules["module-440"].voc_v
    assert f"String 1: {volts:.0f} V DC at 25 °C, more in the cold." in steps["voc-string-1"].caution
    assert "String 2: " in steps["start-hybrid-array"].caution
    assert "Here 205 V DC, live at all times." in steps["battery-battery"].caution


def test_an_interlock_is_tried_while_the_supply_is_away():
    steps = steps_of("juniper")
    assert steps["interlock"].waits_for == ("outage",)
    assert "8.8 kW" in steps["interlock"].text
    assert list(steps).index("interlock") < list(steps).index("return")
    assert not [name for name in steps_of("larkmoor") if name.startswith("interlock")]


def test_every_step_that_is_measured_says_with_what():
    for sample in ("larkmoor", "skerry", "tern-quay", "sotol", "wendle"):
        for step in steps_of(sample).values():
            assert bool(tool_of(step)) is (step.measure.kind != "confirm"), step.id


def test_a_further_buildings_board_is_counted_too():
    found = steps_of("far-byre")
    assert "resistance from neutral to earth at" in found["bond-dead-at-outbuilding"].text
    assert [name for name in steps_of("gannet") if name.startswith("bond-dead-at")] == ["bond-dead-at-second"]
