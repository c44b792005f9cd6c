"""Every kind of system in every state that hands can reach, against an independent reading of the same
graph."""

import itertools
import random

import pytest

from lodestaff.templates import KINDS, compose
from lodestaff.topology import answer, build, standard_states
from lodestaff.topology.settle import State
from tests.topology.oracle import Reading

ALL_UP_TO = (
    1200  # so many positions of all switches are enumerated whole; of more, all pairs of moves and a sample
)
SAMPLED = 60


@pytest.fixture(scope="module", params=sorted(KINDS))
def kind(request):
    return request.param, build(compose(KINDS[request.param].wanted))


def states_to_try(topology):
    """All positions where they are few; else every move and pair of moves from the usual, and random
    positions."""
    switches = topology.switches()
    count = 1
    for part in switches:
        count *= len(part.positions)
    grids = (True, False)
    if count <= ALL_UP_TO:
        for choice in itertools.product(*(part.positions for part in switches)):
            hands = tuple(zip((part.id for part in switches), choice, strict=True))
            yield from (State("all", hands, grid) for grid in grids)
        return
    moves = [(part.id, position) for part in switches for position in part.positions[1:]]
    for one in moves:
        yield from (State("one", (one,), grid) for grid in grids)
    pairs = list(itertools.combinations(moves, 2))
    dice = random.Random(6)
    for pair in dice.sample(pairs, min(len(pairs), SAMPLED)):
        yield from (State("two", pair, grid) for grid in grids)
    for _ in range(SAMPLED):
        hands = tuple((part.id, dice.choice(part.positions)) for part in switches)
        yield State("any", hands, dice.random() < 0.5, dice.random() < 0.8, dice.random() < 0.8)


def held_against(topology, state):
    found = answer(topology, state)
    reading = Reading(topology, state, found.settled.settings, found.unit_modes)
    assert found.settled.at_rest, state
    assert reading.complaints() == [], state
    live = reading.live()
    assert found.sources == live, state
    for circuit, terminal in topology.circuits.items():
        into = [one.id for one in topology.conductors if one.b[0] == terminal[0] and "DC+" not in one.cores]
        assert bool(found.fed[circuit]) == any(live[name] for name in into), (state, circuit)
    assert sorted((len(n.bonds), len(n.behind_rcd)) for n in found.networks) == reading.bonds(), state
    return found


def test_standard_states_against_the_reading(kind):
    letter, topology = kind
    for state in standard_states(topology):
        found = held_against(topology, state)
        assert found.hazards == (), (letter, state)
        for network in found.networks:
            assert len(network.bonds) == 1, (letter, state.name, network)
            assert network.behind_rcd == (), (letter, state.name)


def test_every_reachable_position_against_the_reading(kind):
    """No hands make sources meet unsynchronised, nor feed the operator's wires, in any kind as it ships."""
    letter, topology = kind
    tried = 0
    for state in states_to_try(topology):
        found = held_against(topology, state)
        assert found.hazards == (), (letter, state)
        tried += 1
    assert tried >= 2 * len(topology.switches())


def test_where_a_network_is_live_its_bonds_are_one_unless_a_neutral_is_opened(kind):
    """With every switch that hands may open closed, each live neutral network has its one bond, grid or no
    grid."""
    _, topology = kind
    units = [(unit.unit, position) for unit in topology.units for position in ("on", "off")]
    for chosen in itertools.combinations(units, min(2, len(units))):
        for grid in (True, False):
            found = answer(topology, State("units", tuple(dict(chosen).items()), grid))
            assert all(len(network.bonds) == 1 for network in found.networks), (chosen, grid)


def test_every_circuit_has_a_board_and_every_decision_a_place(kind):
    _, topology = kind
    assert topology.orphans == ()
    assert topology.unwired == ()


def test_no_two_parts_share_a_name(kind):
    _, topology = kind
    names = [part.name for part in topology.parts.values() if part.kind != "circuit"]
    assert sorted(names) == sorted(set(names))
