"""Currents, transformers' signs, moves, failures and adjustments, on installations small enough to reckon
by hand."""

import pytest

from lodestaff.job import Change, edit
from lodestaff.job.edit import validated
from lodestaff.templates import KINDS, compose
from lodestaff.topology import answer, build, islands, standard_states
from lodestaff.topology.flows import flows
from lodestaff.topology.moves import failures, next_moves, reachable_hazards
from lodestaff.topology.settle import State


def flowing(job, name="grid"):
    topology = build(job)
    state = next(one for one in standard_states(topology) if one.name == name)
    found = answer(topology, state)
    kva = {circuit.id: circuit.running_kva for circuit in job.circuits}
    return topology, found, flows(topology, found, kva, job.pack.value("nominal_v").value)


@pytest.fixture(scope="module")
def kinds():
    return {letter: compose(point.wanted) for letter, point in KINDS.items()}


class TestFlows:
    def test_the_tails_carry_all_circuits_and_all_sources(self, larkmoor):
        """By hand: the sum of all circuits, and the hybrid's 6 kVA, each at 230 V (Kirchhoff's law)."""
        _, _, found = flowing(larkmoor)
        tails = found.conductors["meter.load>main-isolator.line"]
        assert tails.load_a == pytest.approx(sum(c.running_kva for c in larkmoor.circuits) * 1000 / 230)
        assert tails.source_a == pytest.approx(6000 / 230)

    def test_at_every_bus_what_comes_in_goes_out(self, kinds):
        """Kirchhoff's law at every board of every kind: its feed carries the sum of what it feeds."""
        for letter, job in kinds.items():
            topology, found, passing = flowing(job, "island")
            for part in topology.parts.values():
                if part.kind != "board":
                    continue
                into = [one for one in topology.conductors if one.b == (part.id, "in")]
                out = [
                    one for one in topology.conductors if one.a == (part.id, "out") and "PE" not in one.cores
                ]
                if (
                    len(into) == 1
                    and found.live[into[0].id]
                    and len({leg for one in out for leg in one.cores}) == 2
                ):
                    loads = sum(
                        passing.conductors[one.id].load_a for one in out if one.id in passing.conductors
                    )
                    assert passing.conductors[into[0].id].load_a == pytest.approx(loads), (letter, part.id)

    def test_on_the_island_the_unit_is_the_root(self, larkmoor):
        _, _, found = flowing(larkmoor, "island")
        assert "meter.load>main-isolator.line" not in found.conductors
        held = sum(c.running_kva for c in larkmoor.circuits if c.role in ("held", "shed first"))
        feed = found.conductors["hybrid.backup>hybrid-bypass.unit"]
        assert feed.load_a == pytest.approx(held * 1000 / 230)
        assert feed.source_a == 0

    def test_a_circuit_between_legs_loads_both_with_half(self, kinds):
        """4.2 kW between two legs of 120 V: 4200 / 240 = 17.5 A in each."""
        job = kinds["D"]
        topology, _, found = flowing(job)
        dryer = next(one for one in topology.conductors if one.b[0] == "circuit-dryer")
        assert found.conductors[dryer.id].load_a == pytest.approx(17.5)

    def test_the_sign_turns_with_the_transformer_and_with_the_side(self, kinds):
        _, _, found = flowing(kinds["A"])
        assert set(found.seen["ct"].values()) == {1}
        _, _, turned = flowing(edit(kinds["A"], Change("parts/ct/reversed", True)))
        assert set(turned.seen["ct"].values()) == {-1}

    def test_side_by_side_each_sees_its_own(self, kinds):
        _, _, found = flowing(kinds["K"])
        assert "hybrid-1" in found.seen["ct-1"]
        assert "hybrid-2" not in found.seen["ct-1"]
        assert set(found.seen["ct-1"]) & set(found.seen["ct-2"]) == {
            "tank"
        }  # which has an inlet on either side

    def test_a_transformer_sees_its_phase_only(self, kinds):
        _, _, found = flowing(kinds["J"])
        assert "hybrid-1" in found.seen["ct"]
        assert "hybrid-2" not in found.seen["ct"]

    def test_paralleled_units_share_by_halves(self, kinds):
        """With a generator of no use, on the grid: the well-known equal share of equal units (common
        practice)."""
        job = edit(
            kinds["L"],
            Change("mains/grid", True),
            Change("units/hybrid-1/fed_from", "block"),
            Change("units/hybrid-2/fed_from", "block"),
        )
        _, _, found = flowing(job)
        assert found.parts["hybrid-1"].load_a == pytest.approx(found.parts["hybrid-2"].load_a)
        assert found.parts["hybrid-1"].load_a * 2 == pytest.approx(found.parts["bypass"].load_a)


class TestIslands:
    def test_who_forms_who_follows_and_what_hangs_on_it(self, kinds):
        topology = build(kinds["H"])
        (one,) = islands(topology, answer(topology, State("island", grid_present=False)))
        assert one.forming == ("battery-unit-1", "battery-unit-2")
        assert one.following == ("branch-1", "branch-2")
        assert len(one.circuits) == 11

    def test_two_units_on_two_phases_are_two_islands(self, kinds):
        topology = build(kinds["J"])
        found = islands(topology, answer(topology, State("island", grid_present=False)))
        assert [one.forming for one in found] == [("hybrid-1",), ("hybrid-2",)]
        assert set(found[0].circuits).isdisjoint(found[1].circuits)

    def test_a_battery_unit_without_a_gateway_forms_none(self, kinds):
        """Anti-islanding: on the grid's wires nothing may form a network, whatever its sheet says (common
        practice)."""
        job = edit(kinds["G"], Change("sheets/battery_units/battery-unit-3/forms_island", True))
        topology = build(job)
        found = answer(topology, State("island", grid_present=False))
        assert found.forming == frozenset()
        assert not any(found.fed.values())

    def test_optimisers_on_every_module_rest_until_the_unit_runs(self, kinds):
        topology = build(kinds["M"])
        off = answer(topology, State("off", (("hybrid-1", "off"),)))
        arrays = [one for one in topology.conductors if topology.parts[one.a[0]].kind == "array"]
        live = {one.id: bool(off.live[one.id]) for one in arrays}
        assert {name for name, on in live.items() if not on} == {
            one.id for one in arrays if "hybrid-1" in one.id
        }

    def test_a_contactor_drops_the_charger_in_an_outage(self, kinds):
        topology = build(kinds["F"])
        assert answer(topology, State("grid")).fed["charger"]
        assert not answer(topology, State("island", grid_present=False)).fed["charger"]
        assert answer(topology, State("grid", surplus=False)).fed["charger"]

    def test_surplus_loads_run_while_they_are_called(self, kinds):
        topology = build(kinds["R"])
        assert answer(topology, State("island", grid_present=False)).fed["element-1"]
        assert not answer(topology, State("island", grid_present=False, surplus=False)).fed["element-1"]

    def test_a_tank_on_two_supplies_is_live_from_the_other(self, kinds):
        """One inlet dead is no dead tank: with its grid board open it is still fed from the other system."""
        topology = build(kinds["K"])
        found = answer(topology, State("grid").with_hand("grid-1-feed", "open"))
        assert found.fed["tank"]

    def test_an_array_not_landed_is_live_at_its_loose_end(self, larkmoor):
        topology = build(larkmoor)
        state = next(one for one in standard_states(topology) if one.name == "array not landed")
        found = answer(topology, state)
        assert all(found.live[name] == frozenset({"array"}) for name in state.loose)
        assert not found.live["hybrid-array-a-isolator.load>hybrid.array A"]


class TestMoves:
    def test_every_other_position_is_a_move(self, larkmoor):
        topology = build(larkmoor)
        found = next_moves(topology, State("grid"))
        assert len(found) == sum(len(part.positions) - 1 for part in topology.switches())
        main = next(one for one in found if one.part == "main-isolator")
        assert len(main.darkened) == 6  # all that is not on the essential board
        assert main.hazards == ()

    def test_a_move_that_makes_sources_meet_says_so(self, kinds):
        topology = build(edit(kinds["D"], Change("parts/interlock/interlocked", False)))
        found = next_moves(topology, State("island", grid_present=False))
        bad = [one for one in found if one.hazards]
        assert [(one.part, one.position) for one in bad] == [("interlock-unit", "closed")]
        assert bad[0].hazards[0].kind == "backfeed"
        assert reachable_hazards(topology)

    def test_what_a_failure_leaves(self, kinds):
        """Batteries shared out unevenly, 4 modules on one and 2 on the other: what is left is the other's."""
        first, second = failures(build(kinds["M"]))
        assert (first.unit, first.batteries, first.lost) == ("hybrid-1", ("battery-2",), ())
        assert (second.unit, second.batteries) == ("hybrid-2", ("battery-1",))
        (one,) = failures(build(kinds["C"]))
        assert one.fed == ()
        assert len(one.lost) == 11


class TestAdjustments:
    def test_an_isolator_is_put_into_a_conductor(self, larkmoor):
        made = {"kind": "insert", "id": "iso", "name": "Isolator", "what": "isolator", "into": "hybrid:grid"}
        topology = build(edit(larkmoor, Change("adjustments", [made])))
        assert topology.conductor("hybrid-feed.load>iso.line").run == "hybrid-feed"
        assert topology.conductor("iso.load>hybrid.grid").run == "hybrid-feed"
        assert answer(topology, State("grid").with_hand("iso", "open")).unit_modes == {"hybrid": "island"}

    def test_they_are_replayed_when_the_decisions_change(self, larkmoor):
        made = {"kind": "insert", "id": "iso", "name": "Isolator", "what": "meter", "into": "hybrid:grid"}
        job = edit(larkmoor, Change("adjustments", [made]), Change("wiring/bypass", False))
        assert "iso" in build(job).parts
        assert build(job).orphans == ()

    def test_an_orphan_is_kept_and_told(self, larkmoor):
        made = {
            "kind": "insert",
            "id": "iso",
            "name": "Isolator",
            "what": "isolator",
            "into": "hybrid-bypass:grid",
        }
        job = edit(larkmoor, Change("adjustments", [made]))
        assert build(job).orphans == ()
        without = edit(job, Change("wiring/bypass", False))
        assert [one.id for one in build(without).orphans] == ["iso"]
        assert without.adjustments == job.adjustments

    def test_a_bypass_round_a_unit(self, larkmoor):
        job = edit(
            larkmoor,
            Change("wiring/bypass", False),
            Change(
                "adjustments",
                [
                    {
                        "kind": "bypass",
                        "id": "by",
                        "name": "By",
                        "around": "hybrid:backup",
                        "grid": "block",
                        "rated_a": 63,
                    }
                ],
            ),
        )
        topology = build(job)
        found = answer(topology, next(one for one in standard_states(topology) if one.name == "bypass"))
        assert found.fed["server"] == frozenset({"grid"})

    def test_a_feeder_is_intercepted_by_a_gateway(self, kinds):
        """The board that stood on the block is fed through the gateway; no circuit is moved."""
        data = kinds["A"].model_dump(mode="json")
        data["parts"].append(
            {"kind": "gateway", "id": "gw", "name": "Gateway", "fed_from": "block", "rated_a": 100}
        )
        data["adjustments"].append({"kind": "intercept", "id": "i", "board": "board", "by": "gw"})
        topology = build(validated(data))
        assert any(one.a == ("gw", "load") for one in topology.conductors)
        assert answer(topology, State("grid")).fed == dict.fromkeys(
            topology.circuits, frozenset({"grid", "battery", "array"})
        )
        lost = {**data, "parts": [part for part in data["parts"] if part["id"] != "gw"]}
        assert [one.id for one in build(validated(lost)).orphans] == ["i"]

    def test_a_further_board_takes_the_circuits_it_names(self, larkmoor):
        made = {
            "kind": "board",
            "id": "annexe",
            "name": "Annexe",
            "fed_from": "hybrid-essential",
            "circuits": ["server"],
        }
        topology = build(edit(larkmoor, Change("adjustments", [made])))
        assert topology.conductor("annexe.out>circuit-server.in")
        assert answer(topology, State("island", grid_present=False)).fed["server"]

    def test_a_pen_is_never_switched(self, kinds):
        """Two conductors up to where the PEN is split; the bond is made there, ahead of any switch."""
        topology = build(kinds["P"])
        pens = [one for one in topology.conductors if one.pen]
        assert [one.name for one in pens] == ["L1 PEN"] * 3
        found = answer(topology, State("grid").with_hand("main-isolator", "open"))
        assert all(len(network.bonds) == 1 for network in found.networks)
