"""Shutting down and restarting, and the labels: from the site's own topology."""

import pytest

from lodestaff.job import Change, edit
from lodestaff.topology import State, answer, build
from lodestaff.wiring.isolation import isolation
from lodestaff.wiring.labels import labels


@pytest.fixture(scope="module")
def found(larkmoor):
    return isolation(larkmoor, build(larkmoor))


def test_every_switch_is_worked_once_each_way(larkmoor, found):
    switches = {part.id for part in build(larkmoor).switches()}
    for steps in (found.shutdown, found.restart):
        assert [step.part for step in steps] == list(dict.fromkeys(step.part for step in steps))
        assert {step.part for step in steps} == switches


def test_the_unit_goes_first_and_the_supply_last(found):
    order = [step.part for step in found.shutdown]
    assert order[0] == "hybrid"
    assert order[-1] == "main-isolator"
    assert order.index("battery-isolator") < order.index("hybrid-array-a-isolator")
    assert found.restart[0].part == "main-isolator"
    assert found.restart[-1].part == "hybrid"


def test_what_stays_live_is_derived(larkmoor, found):
    """The service head, the battery's and the array's own ends: nothing that a hand can switch off stays
    live."""
    words = " ".join(name for name, _ in found.stays_live)
    assert "DNO supply to service head" in words
    assert "Battery, 4 modules to Battery isolator" in words
    assert len([one for one in found.stays_live if one[1] == ("array",)]) == 2
    assert found.shutdown[-1].live == len(found.stays_live)


def test_fewer_and_fewer_conductors_are_live(found):
    live = [step.live for step in found.shutdown]
    assert live == sorted(live, reverse=True)


def test_after_the_restart_all_is_as_usual(larkmoor, found):
    topology = build(larkmoor)
    usual = answer(topology, State("grid"))
    assert found.restart[-1].live == len(usual.still_live())


@pytest.mark.parametrize(
    "order", [("battery", "grid", "array"), ("grid", "battery", "array"), ("array", "grid", "battery")]
)
def test_the_restart_keeps_the_equipments_order(larkmoor, order):
    job = edit(larkmoor, Change("sheets/hybrids/hybrid-6/start_order", list(order)))
    parts = [step.part for step in isolation(job, build(job)).restart]
    at = {"battery": parts.index("battery-isolator"), "grid": parts.index("hybrid-feed"),
          "array": parts.index("hybrid-array-a-isolator")}  # fmt: skip
    assert sorted(order, key=lambda source: at[source]) == list(order)


def test_labels_stand_where_a_person_may_open_something(larkmoor):
    topology = build(larkmoor)
    made = labels(larkmoor, topology)
    places = {label.place for label in made}
    for part in topology.parts.values():
        if part.kind in ("board", "isolator", "unit", "battery", "bypass", "meter"):
            assert part.name in places, part.name
    assert all(label.text and label.reason for label in made)
    assert any("daylight" in label.text for label in made)
    without = labels(edit(larkmoor, Change("wiring/electrode", False)), topology)
    assert len(without) == len(made) - 1
