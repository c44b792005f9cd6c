"""Currents along the tree against a nodal solution of the same graph: conductances and injections, by SciPy.

The solver knows no tree: every conductor and closed contact is a small resistance, circuits and units are
currents at their nodes, and what leads the network holds its node at zero.
"""

import numpy as np
import pytest
from scipy.sparse import coo_matrix
from scipy.sparse.linalg import spsolve

from lodestaff.job import load_job
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.samples import sample_names, sample_path
from lodestaff.topology.flows import flows
from lodestaff.topology.graph import graph_of
from lodestaff.topology.model import GENERATOR, GRID, QUIET
from lodestaff.topology.states import RUNNING

OHM = 1e-3
STATES = ("grid", "island", "bypass", "generator")


def joins(topology, graph, answer, phase):
    """Pairs of nodes of a phase, with the conductor between them; '' for a contact of a device."""
    for one in topology.conductors:
        if phase in one.cores and one.id not in answer.state.loose:
            a, b = graph.conductor_pairs[one.id][one.cores.index(phase)]
            yield a, b, one.id
    for part in topology.parts.values():
        for contact in part.contacts:
            closed = contact.positions is None or (
                answer.settled.settings.get(contact.key or part.id) in contact.positions
            )
            if closed and phase in contact.cores:
                yield graph.number[part.id, contact.a, phase], graph.number[part.id, contact.b, phase], ""


def solved(topology, answer, phase, root, drawn):
    """The current in each conductor, A along its arrow, where `drawn` is taken at each node."""
    graph = graph_of(topology)
    edges = list(joins(topology, graph, answer, phase))
    near = {}
    for a, b, _ in edges:
        near.setdefault(a, set()).add(b)
        near.setdefault(b, set()).add(a)
    inside, waiting = {root}, [root]
    while waiting:
        for other in near.get(waiting.pop(), ()):
            if other not in inside:
                inside.add(other)
                waiting.append(other)
    place = {node: number for number, node in enumerate(sorted(inside - {root}))}
    rows, columns, values = [], [], []
    for a, b, _ in edges:
        if a not in inside:
            continue
        for one, other in ((a, b), (b, a)):
            if one != root:
                rows.append(place[one])
                columns.append(place[one])
                values.append(1 / OHM)
                if other != root:
                    rows.append(place[one])
                    columns.append(place[other])
                    values.append(-1 / OHM)
    matrix = coo_matrix((values, (rows, columns)), shape=(len(place), len(place))).tocsr()
    right = np.array([-drawn.get(node, 0.0) for node in sorted(inside - {root})])
    volts = {root: 0.0, **dict(zip(sorted(inside - {root}), spsolve(matrix, right), strict=True))}
    return {name: (volts[a] - volts[b]) / OHM for a, b, name in edges if name and a in inside}, edges, inside


@pytest.mark.parametrize("name", sample_names())
def test_currents_agree_with_a_nodal_solution(name):
    """In every state, on every leg: what all circuits draw, and what all units give, each by itself."""
    job = load_job(sample_path(name))
    wiring = Reckoner().wiring(job)
    topology, graph, volts = wiring.topology, graph_of(wiring.topology), job.pack.value("nominal_v").value
    kva = {circuit.id: circuit.running_kva for circuit in job.circuits}
    compared = 0
    for state in STATES:
        answer = wiring.state(state)
        if answer is None:
            continue
        found = flows(topology, answer, kva, volts)
        leads = [
            (one.part, one.at) for one in topology.sources if one.kind == GRID and answer.state.grid_present
        ]
        leads += [(one.part, one.at) for one in topology.sources
                  if one.kind == GENERATOR and answer.positions.get(one.part) == "running"]  # fmt: skip
        leads += [(unit.unit, unit.out) for unit in topology.units if unit.unit in answer.forming]
        for phase in job.site.phases:
            roots = [(part, graph.cores_at(at)[phase]) for part, at in leads if phase in graph.cores_at(at)]
            for part, root in roots[:1]:
                taken, given = {}, {}
                for circuit, (end, port) in topology.circuits.items():
                    for inlet in (port, f"{port} 2"):
                        cores = graph.cores_at((end, inlet))
                        if phase in cores and answer.fed.get(circuit):
                            legs = sum(core not in QUIET for core in cores)
                            node = cores[phase]
                            taken[node] = taken.get(node, 0.0) + kva[circuit] * 1000 / legs / volts
                for unit in topology.units:
                    if phase in unit.legs and unit.unit != part and answer.unit_modes[unit.unit] in RUNNING:
                        node = graph.cores_at(unit.out).get(phase)
                        if node is not None:
                            given[node] = unit.rated_kva * 1000 / len(unit.legs) / volts
                back = () if state == "generator" else ((given, 2),)  # a generator takes nothing back
                for drawn, which in ((taken, 1), *back):
                    amps, edges, inside = solved(topology, answer, phase, root, drawn)
                    if len({tuple(sorted(edge[:2])) for edge in edges if edge[0] in inside}) >= len(inside):
                        continue  # a ring of paralleled units: they share, which the tree doesn't ask
                    for conductor, current in amps.items():
                        leg = next(leg for leg in found.conductors[conductor].legs if leg[0] == phase)
                        assert leg[which] == pytest.approx(abs(current), abs=1e-6), (state, phase, conductor)
                        compared += 1
    assert compared > 20
