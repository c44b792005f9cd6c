"""What is live, fed and bonded in every state, against a search of its own over every position of the
switches."""

import itertools

import pytest

from lodestaff.job import Change, edit
from lodestaff.topology import State, answer, build, standard_states


@pytest.fixture(scope="module")
def topology(larkmoor):
    return build(larkmoor)


@pytest.fixture(scope="module")
def answers(topology):
    return {state.name: answer(topology, state) for state in standard_states(topology)}


HELD = {"vaccine-fridges", "theatre-lights", "server", "monitors", "practice-lights", "consulting",
        "dental-compressor",
        "boiler", "alarm", "reception-heat", "staff-kitchen"}  # fmt: skip


def fed(found):
    return {circuit for circuit, sources in found.fed.items() if sources}


def test_with_the_grid_everything_is_fed_from_all_sources(answers):
    found = answers["grid"]
    assert len(fed(found)) == 17
    assert set(found.fed.values()) == {frozenset({"grid", "battery", "array"})}
    assert found.unit_modes == {"hybrid": "grid"}


def test_in_an_outage_only_the_essential_board_is_fed(answers):
    found = answers["island"]
    assert fed(found) == HELD
    assert found.fed["server"] == frozenset({"battery", "array"})
    assert found.positions["hybrid-bond-relay"] == "closed"
    assert not found.live["supply.load>cutout.line"]
    assert not found.live["hybrid-feed.load>hybrid.grid"]


def test_in_bypass_the_house_is_on_the_grid_and_the_unit_is_still_live(answers):
    """Bypass is not isolation (common practice): grid side, battery and array stay live at the unit."""
    found = answers["bypass"]
    assert len(fed(found)) == 17
    assert found.fed["server"] == frozenset({"grid"})
    assert found.live["hybrid-feed.load>hybrid.grid"] == frozenset({"grid"})
    assert found.live["battery-isolator.load>hybrid.battery"] == frozenset({"battery"})
    assert found.live["hybrid-array-a-isolator.load>hybrid.array A"] == frozenset({"array"})
    assert not found.live["hybrid.backup>hybrid-bypass.unit"]


def test_with_everything_off_the_head_the_battery_and_the_array_stay_live(answers):
    """Derived, not listed: up to the first open switch from every source (common practice)."""
    found = answers["all off"]
    assert not fed(found)
    assert set(found.still_live()) == {
        "supply.load>cutout.line",
        "cutout.load>meter.line",
        "meter.load>main-isolator.line",
        "battery.dc>battery-isolator.line",
        "hybrid-array-a.dc>hybrid-array-a-isolator.line",
        "hybrid-array-b.dc>hybrid-array-b-isolator.line",
    }


def test_at_night_the_array_is_dead(topology):
    found = answer(topology, State("night", daylight=False))
    assert all("array" not in sources for sources in found.live.values())


@pytest.mark.parametrize("state", ["grid", "island", "bypass", "all off"])
def test_one_bond_for_each_live_neutral(answers, state):
    for network in answers[state].networks:
        assert len(network.bonds) == 1
        assert network.behind_rcd == ()


@pytest.mark.parametrize(
    ("place", "state", "bonds", "behind"),
    [
        ("essential board", "grid", 2, 1),
        ("essential board", "island", 1, 1),
        ("essential board", "bypass", 2, 1),
        ("none", "grid", 1, 0),
        ("none", "island", 0, 0),
    ],
)
def test_seeded_errors_in_the_bond_are_counted(larkmoor, place, state, bonds, behind):
    topology = build(edit(larkmoor, Change("wiring/bond_place", place)))
    found = answer(topology, next(one for one in standard_states(topology) if one.name == state))
    (network,) = found.networks
    assert len(network.bonds) == bonds
    assert len(network.behind_rcd) == behind


def test_a_bond_before_the_rcd_is_not_behind_it(larkmoor):
    """Without a residual-current device in the essential board's feed nothing is behind one."""
    job = edit(
        larkmoor, Change("wiring/bond_place", "essential board"), Change("wiring/essential_rcd", False)
    )
    topology = build(job)
    found = answer(topology, standard_states(topology)[1])
    assert found.networks[0].behind_rcd == ()


def test_an_unswitched_neutral_keeps_the_supplys_bond_on_the_island(larkmoor):
    """Where the transfer doesn't open the neutral the unit must not make a second bond (common practice)."""
    job = edit(
        larkmoor,
        Change("sheets/hybrids/hybrid-6/neutral_switched", False),
        Change("wiring/bond_place", "none"),
    )
    topology = build(job)
    (network,) = answer(topology, standard_states(topology)[1]).networks
    assert network.bonds == ("neutral-earth bond of the supply",)
    doubled = build(edit(job, Change("wiring/bond_place", "unit relay")))
    (network,) = answer(doubled, standard_states(doubled)[1]).networks
    assert len(network.bonds) == 2


def test_without_a_bypass_there_is_no_such_state_and_a_unit_off_feeds_nothing_essential(larkmoor):
    topology = build(edit(larkmoor, Change("wiring/bypass", False)))
    assert "bypass" not in {state.name for state in standard_states(topology)}
    found = answer(topology, State("unit off").with_hand("hybrid", "off"))
    assert not fed(found) & HELD


def test_a_switch_by_hand(topology):
    """Opening the unit's feed makes an island beside the live grid: two networks, each with its own bond."""
    found = answer(topology, State("grid").with_hand("hybrid-feed", "open"))
    assert found.unit_modes == {"hybrid": "island"}
    assert sorted(len(network.bonds) for network in found.networks) == [1, 1]
    assert found.fed["x-ray"] == frozenset({"grid"})
    assert found.fed["server"] == frozenset({"battery", "array"})


def test_without_its_battery_a_unit_forms_no_island(topology):
    state = State("island", grid_present=False).with_hand("battery-isolator", "open")
    found = answer(topology, state)
    assert found.unit_modes == {"hybrid": "off"}
    assert not fed(found)


# --- every position of the switches, against a search written for this test --------------------------
def expected_live(positions, grid_present):
    """By the words of the single-line diagram, for the demo job: which ends are live from the grid and the
    unit."""
    closed = {name for name, position in positions.items() if position == "closed"}
    grid_at_block = grid_present and "main-isolator" in closed
    unit_on = positions["hybrid"] == "on"
    grid_at_unit = grid_at_block and "hybrid-feed" in closed
    battery_in = "battery-isolator" in closed
    arrays_in = bool({"hybrid-array-a-isolator", "hybrid-array-b-isolator"} & closed)
    parallel = unit_on and grid_at_unit
    island = unit_on and not grid_at_unit and battery_in
    unit_sources = set()
    if parallel or island:
        unit_sources |= ({"battery"} if battery_in else set()) | ({"array"} if arrays_in else set())
    backup = set(unit_sources) | ({"grid"} if parallel else set())
    block = ({"grid"} if grid_at_block else set()) | (unit_sources if parallel else set())
    bypassed = set(block) if "hybrid-bypass-feed" in closed else set()
    essential = {"unit": backup, "grid": bypassed, "off": set()}[positions["hybrid-bypass"]]
    return {
        "x-ray": block if "board-switch" in closed else set(),
        "server": essential if "hybrid-essential-rcd" in closed else set(),
    }


def test_every_reachable_position_of_every_switch(topology):
    """2^9 x 3 positions, with and without the grid."""
    switches = topology.switches()
    assert len(switches) == 10
    checked = 0
    for choice in itertools.product(*(part.positions for part in switches)):
        positions = dict(zip((part.id for part in switches), choice, strict=True))
        for grid_present in (True, False):
            found = answer(topology, State("search", tuple(positions.items()), grid_present))
            wanted = expected_live(positions, grid_present)
            for circuit, sources in wanted.items():
                assert found.fed[circuit] == frozenset(sources), (positions, grid_present, circuit)
            checked += 1
    assert checked == 2**9 * 3 * 2


def test_ids_come_from_the_decisions(larkmoor, topology):
    """Adding a circuit leaves every other id as it was."""
    data = larkmoor.model_dump(mode="json")
    data["circuits"].append({**data["circuits"][0], "id": "new-fridge", "name": "New fridge"})
    from lodestaff.job.edit import validated

    more = build(validated(data))
    assert set(more.parts) - set(topology.parts) == {"circuit-new-fridge"}
    assert set(topology.parts) <= set(more.parts)


def test_two_units_on_two_phases(larkmoor):
    """Nothing is bound to one unit: a second hybrid on L2 has its own essential board and bond."""
    data = larkmoor.model_dump(mode="json")
    data["site"]["phases"] = ["L1", "L2"]
    data["mains"]["system"] = "two of three phases"
    data["units"].append({**data["units"][0], "id": "second", "name": "Second", "phase": "L2"})
    data["banks"].append({**data["banks"][0], "id": "second-battery", "unit": "second"})
    data["circuits"][0]["phase"] = "L2"
    from lodestaff.job.edit import validated

    topology = build(validated(data))
    found = answer(topology, standard_states(topology)[1])
    assert len(found.networks) == 2
    assert all(len(network.bonds) == 1 for network in found.networks)
    assert found.fed["vaccine-fridges"] == frozenset({"battery"})
