"""The wires of the simulated site: Kirchhoff's laws, legs and phases, bonds, what a transformer on the wrong
conductor makes of it."""

import pytest

from lodestaff.job import load_job
from lodestaff.plant.built import as_drawn, channels_of, grid_cts, on_next_leg, swapped
from lodestaff.plant.network import OPEN_OHM, Network, Service, Wires, angles_of
from lodestaff.samples import sample_names, sample_path
from lodestaff.topology import State, answer, build
from lodestaff.topology.flows import flows
from lodestaff.topology.graph import graph_of
from lodestaff.topology.model import NEUTRAL, QUIET, Bond

SHARE = 0.2  # of all loads: little enough that the volts hardly sag


def network(job, topology, grid=True, wires=None):
    volts = job.pack.value("nominal_v").value
    found = answer(topology, State("grid" if grid else "island", grid_present=grid))
    service = Service(angles_of(job.site.phases, job.mains.system), volts, volts, 0.15)
    return Network(topology, found, service, wires or Wires()), found


def drawn(job, found):
    """Every fed circuit at a share of its running power, no reactive part."""
    twice = {c.b[0].removeprefix("circuit-") for c in build(job).conductors if c.b[1] == "in 2"}
    return {c.id: SHARE * c.running_w / 1000 for c in job.circuits if found.fed[c.id] and c.id not in twice}


@pytest.fixture(scope="module", params=sample_names())
def site(request):
    job = load_job(sample_path(request.param))
    return job, build(job)


def test_what_comes_in_goes_out_at_every_board(site):
    job, topology = site
    net, found = network(job, topology, grid=job.mains.grid)
    weights = net.drawn(drawn(job, found))
    for part in topology.parts.values():
        feed = [c for c in topology.conductors if c.b == (part.id, "in")]
        if part.kind != "board" or len(feed) != 1:
            continue
        for core in feed[0].cores:
            if core not in net.phasor:
                continue
            out = sum(
                net.amps_of(c.id, core, weights) for c in topology.conductors if c.a == (part.id, "out")
            )
            assert abs(net.amps_of(feed[0].id, core, weights) - out) < 0.05, (part.id, core)


def test_a_transformer_reads_what_the_tree_says_that_it_sees(site):
    """Two ways to the same figure: phasors through a nodal solution, sums along a tree."""
    job, topology = site
    if not job.mains.grid:
        return
    net, found = network(job, topology)
    seen = flows(topology, found, {}, 1.0).seen
    kw = drawn(job, found)
    weights = net.drawn(kw)
    for ct in topology.cts:
        total = 0.0
        for one in channels_of(topology, ct):
            amps, volts = net.channel(one.conductor, one.core, one.leg)
            total += one.sign * (complex(volts @ weights) * complex(amps @ weights).conjugate()).real / 1000
        legs = {one.leg for one in channels_of(topology, ct)}
        wanted = sum(
            sign * SHARE * job.circuit(name).running_w / 1000 * len(legs & set(job.circuit(name).legs))
            / len(job.circuit(name).legs)
            for name, sign in seen[ct.id].items()
            if name in kw
        )  # fmt: skip
        assert total == pytest.approx(wanted, rel=0.04, abs=0.05), ct.id  # constant current in sagging volts


def test_the_supply_gives_what_all_draw_and_the_wires_lose(site):
    job, topology = site
    net, found = network(job, topology, grid=job.mains.grid)
    kw = drawn(job, found)
    weights = net.drawn(kw)
    leads = [s.part for s in topology.sources] + list(found.forming)
    assert sum(net.given_kw(name, weights) for name in leads) == pytest.approx(sum(kw.values()), rel=0.04)


def one_load(name, circuit):
    job = load_job(sample_path(name))
    topology = build(job)
    net, _ = network(job, topology)
    return job, topology, net, net.drawn({circuit: job.circuit(circuit).running_w / 1000})


def power(net, channel, weights):
    amps, volts = net.channel(channel.conductor, channel.core, channel.leg)
    return channel.sign * (complex(volts @ weights) * complex(amps @ weights).conjugate()).real / 1000


def test_between_legs_of_120_240_a_leg_read_by_the_others_volts_is_below_zero():
    """Half a turn apart: what leg B draws is export by leg A's volts (derived)."""
    _, topology, net, weights = one_load("cinder-flat-house", "laundry")
    ct = grid_cts(topology)[0]
    leg = next(c for c in topology.conductors if c.b[0] == "circuit-laundry").cores[0]
    right = {one.leg: power(net, one, weights) for one in channels_of(topology, ct)}
    wrong = swapped(as_drawn(topology)).channels[ct.id]
    assert right[leg] > 0.5
    assert power(net, next(one for one in wrong if one.core == leg), weights) == pytest.approx(
        -right[leg], rel=0.03
    )


def test_a_third_of_a_turn_apart_it_is_half_and_below_zero():
    """cos 120° = -0.5 (derived)."""
    quern = load_job(sample_path("quern-hall-joinery"))
    single = max((c for c in quern.circuits if len(c.legs) == 1), key=lambda c: c.running_w)
    _, topology, net, weights = one_load("quern-hall-joinery", single.id)
    ct = grid_cts(topology)[0]
    channels = channels_of(topology, ct)
    shown = {one.leg: power(net, one, weights) for one in channels}
    leg = max(shown, key=lambda name: shown[name])
    other = next(one for one in channels if one.leg != leg)
    moved = type(other)(other.leg, other.conductor, leg)
    assert power(net, moved, weights) == pytest.approx(-0.5 * shown[leg], rel=0.05)
    assert on_next_leg(as_drawn(topology)).channels[ct.id] != channels


def test_two_bonds_share_the_neutrals_current_and_one_carries_none(larkmoor):
    topology = build(larkmoor)
    net, found = network(larkmoor, topology)
    weights = net.drawn(drawn(larkmoor, found))
    assert net.bond_a("supply-bond", weights) < 0.01
    second = Bond("second", ("hybrid-essential", "out"), "a link left there")
    from dataclasses import replace

    twice = replace(topology, bonds=(*topology.bonds, second))
    net, found = network(larkmoor, twice)
    weights = net.drawn(drawn(larkmoor, found))
    assert net.bond_a("second", weights) > 0.5
    assert net.bond_a("second", weights) == pytest.approx(net.bond_a("supply-bond", weights), rel=0.02)
    feed = next(c for c in twice.conductors if c.b == ("hybrid-essential", "in"))
    stray = sum(net.amps_of(feed.id, core, weights) for core in feed.cores)
    assert abs(stray) == pytest.approx(net.bond_a("second", weights), rel=0.02)


def test_a_loop_closes_through_a_bond_and_through_nothing_else(larkmoor):
    from dataclasses import replace

    topology = build(larkmoor)
    line = graph_of(topology).cores_at(("hybrid-essential", "out"))["L1"]
    assert network(larkmoor, topology, grid=False)[0].ohms(line, None) < 2.0
    open_ = replace(topology, bonds=tuple(bond for bond in topology.bonds if bond.relay is None))
    line = graph_of(open_).cores_at(("hybrid-essential", "out"))["L1"]
    assert network(larkmoor, open_, grid=False)[0].ohms(line, None) == OPEN_OHM


def test_crossed_legs_lie_at_the_volts_between_them():
    job = load_job(sample_path("juniper-draw-ranch"))
    topology = build(job)
    feed = next(c for c in topology.conductors if c.b == topology.unit("hybrid").grid)
    crossed = Wires({feed.id: {"A": "B", "B": "A"}})
    for wires, volts in ((Wires(), 0.0), (crossed, 240.0)):
        net, _ = network(job, topology, wires=wires)
        weights = net.drawn({})
        here, there = net.node(feed.b, "A"), net.node(("main-isolator", "line"), "A")
        assert abs(net.volts_between(here, there, weights)) == pytest.approx(volts, abs=0.5)


def test_an_islands_unit_carries_its_legs_apart(site):
    """What an island's units give together is what hangs on it."""
    job, topology = site
    net, found = network(job, topology, grid=False)
    kw = {name: value for name, value in drawn(job, found).items() if found.fed[name]}
    weights = net.drawn(kw)
    given = sum(net.given_kw(name, weights) for name in found.forming)
    assert given == pytest.approx(sum(kw.values()), rel=0.05, abs=0.01)
    for conductor in topology.conductors:  # no current in what is dead
        if not found.live[conductor.id] and "DC+" not in conductor.cores:
            for core in conductor.cores:
                if core not in (NEUTRAL, *QUIET):
                    assert abs(net.amps_of(conductor.id, core, weights)) < 0.05
