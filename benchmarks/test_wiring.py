"""Rebuilding the largest kind with all its states, as a ratio to the same sets found by networkx in the
same run."""

import networkx as nx

from lodestaff.job import Change, edit
from lodestaff.reckoning.cabling import proposed
from lodestaff.reckoning.passing import passing
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.wired import Wiring
from lodestaff.templates import KINDS, compose
from lodestaff.topology import answer, build, standard_states
from lodestaff.topology.graph import graph_of
from lodestaff.topology.moves import joining_states, next_moves, reachable_hazards
from lodestaff.wiring import draw, seen_at


def largest():
    """The kind with the most parts."""
    jobs = [compose(point.wanted) for point in KINDS.values()]
    return max(jobs, key=lambda job: len(build(job).parts))


def by_networkx(topology, found):
    """The sets of joined cores of one state, by the well-known library."""
    graph, settings = graph_of(topology), found.settled.settings
    joins = nx.Graph()
    joins.add_nodes_from(range(graph.count))
    joins.add_edges_from(graph.all_conductors + graph.fixed)
    for way in graph.ways:
        if settings.get(way.key) in way.positions:
            joins.add_edges_from(way.pairs)
    return list(nx.connected_components(joins))


def test_rebuild_with_all_states(benchmark, noted, seconds):
    """From the decisions to what is live, fed and bonded in every standard state."""
    job = largest()

    def rebuild():
        topology = build(job)
        return topology, [answer(topology, state) for state in standard_states(topology)]

    topology, found = benchmark(rebuild)
    benchmark.extra_info["parts"], benchmark.extra_info["states"] = len(topology.parts), len(found)
    once = seconds(lambda: [by_networkx(topology, one) for one in found], 3)
    noted(benchmark, "one search of each state by networkx", once)


def test_currents_in_all_states(benchmark, noted, seconds):
    """What passes every conductor in every standard state, beside the same states' joined cores."""
    job = largest()
    wiring = Wiring(build(job))
    found = wiring.answers
    benchmark.pedantic(
        lambda fresh: [passing(fresh, job, one) for one in fresh.answers],
        setup=lambda: ((_with_answers(wiring.topology),), {}),
        rounds=10,
    )
    once = seconds(lambda: [by_networkx(wiring.topology, one) for one in found], 3)
    noted(benchmark, "one search of each state by networkx", once)


def test_cables_proposed_for_every_run(benchmark, noted, seconds):
    """Conductor, device and what goes with them from the pack's tables, beside one rebuild of states."""
    job = edit(largest(), Change("cables", []))
    benchmark(lambda: proposed(Reckoner(), job))
    once = seconds(lambda: Wiring(build(job)).answers, 3)
    noted(benchmark, "one rebuild with all states", once)


def _with_answers(topology):
    """A wiring whose states are known and whose currents aren't."""
    fresh = Wiring(topology)
    assert fresh.answers
    return fresh


def test_next_moves(benchmark, noted, seconds):
    """Every state that one hand reaches from the grid."""
    topology = build(largest())
    state = standard_states(topology)[0]
    moves = benchmark(next_moves, topology, state)
    found = answer(topology, state)
    each = seconds(lambda: by_networkx(topology, found), 5) * len(moves)
    noted(benchmark, "one search of each by networkx", each)


def test_search_for_sources_that_meet(benchmark, noted, seconds):
    """All pairs of moves of the devices that join sources."""
    topology = build(largest())
    benchmark(reachable_hazards, topology)
    found = answer(topology, standard_states(topology)[0])
    count = sum(1 for _ in joining_states(topology))
    noted(
        benchmark,
        "one search of each state by networkx",
        seconds(lambda: by_networkx(topology, found), 5) * count,
    )


def test_drawing_the_overview(benchmark, noted, seconds):
    """Layout and shapes of the overview; baseline: of every device."""
    topology = build(largest())
    positions = answer(topology, standard_states(topology)[0]).positions
    benchmark(lambda: draw(seen_at(topology, "overview"), positions))
    whole = seconds(lambda: draw(topology, positions), 3)
    noted(benchmark, "drawing every device", whole)
