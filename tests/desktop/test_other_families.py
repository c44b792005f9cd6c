"""Stations on installations that are no DC-coupled hybrid: what they can't reckon they say, the rest
stands."""

import pytest

from lodestaff.desktop.stations.commission.proof_diagram import ProofDiagram


@pytest.fixture
def vicarage(empty, settled):
    """A string inverter, a battery unit and a gateway."""
    empty.files.open_sample("brockle-vicarage")
    settled(empty)
    return empty


def test_storage_maps_a_battery_unit_in_ones_and_more(vicarage, qtbot):
    vicarage.go("storage")
    station = vicarage.stations["storage"]
    qtbot.waitUntil(lambda: station.map.sizes is not None, timeout=20_000)
    columns = [station.map.column_text(name) for name in station.map.sizes.hybrids]
    assert columns == ["8 kVA", "2 × 8 kVA", "3 × 8 kVA", "4 × 8 kVA"]
    assert station.unit.isHidden()
    before = vicarage.store.job
    station.map.adopt(("battery-unit-8 x2", 1))  # it needs a place in the wiring: nothing is changed
    assert vicarage.store.job is before
    station.map.adopt(("battery-unit-8", 2))
    assert vicarage.store.job.banks[0].modules == 2


def test_what_is_left_of_stored_sun_goes_over_ac_and_back(vicarage):
    vicarage.go("storage")
    reading = next(one for one in vicarage.stations["storage"].readings() if one.name == "Left of stored sun")
    assert "AC-coupled" in repr(reading)
    names = {one.name: one.value for one in reading.figure.inputs}
    inverter, maker = names["inverter at its best"], names["solar inverter, the worst"]
    by_hand = maker * inverter * names["battery, round trip"] * inverter * 100
    assert reading.figure.value == pytest.approx(by_hand)


def test_a_large_proof_is_an_overview(empty, settled):
    empty.files.open_sample("sotol-ridge-house")
    settled(empty)
    empty.go("commission")
    diagram = empty.stations["commission"].findChild(ProofDiagram)
    assert diagram.present_level() == "overview"
    assert {"battery-unit-1", "gateway"} <= set(diagram.drawing.boxes)


def test_circuits_between_legs_stand_on_the_rail_of_both(empty, settled):
    empty.files.open_sample("juniper-draw-ranch")
    settled(empty)
    rails = empty.stations["loads"].rails.rails
    on = [rail for rail in rails.rails if any(block.circuit.id == "dryer" for block in rail.blocks)]
    assert [rail.group.leg for rail in on] == ["A", "B"]
    for rail in on:  # half of it on each leg
        block = next(one for one in rail.blocks if one.circuit.id == "dryer")
        assert block.rect.width() + 1.5 == pytest.approx(block.circuit.running_kva / 2 * rails.px_per_kva)
    held = [rail for rail in rails.rails if rail.group.stop]
    assert all(rail.group.stop == (4.5, pytest.approx(6.3)) for rail in held)


def test_a_second_board_of_a_source_carries_on_where_the_first_ends(empty, settled):
    empty.files.open_sample("juniper-draw-ranch")
    settled(empty)
    rails = empty.stations["loads"].rails.rails
    first, second = (
        next(r for r in rails.rails if r.group.key == ("held", board, "B"))
        for board in ("essential", "second")
    )
    assert first.begin == 0
    assert second.begin == pytest.approx(first.running_kva)
    assert second.group.building == "second building"


def test_a_three_phase_circuit_has_a_rail_of_its_own(empty, settled):
    """A hoist on three phases beside a unit on one: it is on no single phase's rail."""
    empty.files.open_sample("tern-quay-boatshed")
    settled(empty)
    rails = empty.stations["loads"].rails.rails
    on = [rail.group.leg for rail in rails.rails if any(block.circuit.id == "hoist" for block in rail.blocks)]
    assert on == ["A", "B", "C"]
    assert {rail.group.leg for rail in rails.rails if rail.group.stop} == {"A"}
