"""Seeded errors of the wiring are found in the state in which they occur, and what cures them does.

What is right and wrong here is common practice of the trade, no source, unless a line says otherwise.
"""

import pytest

from lodestaff.job import Change, edit
from lodestaff.job.edit import validated
from lodestaff.reckoning.findings import findings
from lodestaff.templates import KINDS, compose


@pytest.fixture(scope="module")
def kinds():
    made = {}

    def of(letter):
        if letter not in made:
            made[letter] = compose(KINDS[letter].wanted)
        return made[letter]

    return of


def found(reckoner, job, code, bad=True):
    ones = [one for one in findings(reckoner, job) if one.code == code]
    return [one for one in ones if str(one.verdict) in ("blocks", "warns")] if bad else ones


def states(ones):
    return {one.state for one in ones}


class TestBonds:
    def test_a_second_bond_in_the_board_of_a_gateway(self, reckoner, kinds):
        """A link left in the board beside the gateway's relay: two bonds with the grid and on the island."""
        job = edit(kinds("F"), Change("parts/board/link", True))
        wrong = found(reckoner, job, "WIRE-BOND")
        assert {"grid", "island"} <= states(wrong)
        assert all(one.blocks and one.figure.value == 2 for one in wrong if one.state in ("grid", "island"))
        assert found(reckoner, kinds("F"), "WIRE-BOND") == []

    def test_the_factory_link_of_a_gateway_that_is_no_service_disconnect(self, reckoner, kinds):
        """North American practice: the neutral isn't switched, the bond stays at the service, the link
        comes out."""
        job = edit(kinds("N"), Change("parts/gateway/bond", "link"))
        assert {"grid", "island"} <= states(found(reckoner, job, "WIRE-BOND"))
        assert found(reckoner, kinds("N"), "WIRE-BOND") == []

    def test_a_bond_behind_a_residual_current_device(self, reckoner, kinds):
        job = edit(kinds("B"), Change("parts/outlet/link", True), Change("units/hybrid/bond", "none"))
        wrong = found(reckoner, job, "WIRE-BOND")
        assert "stands behind an RCD" in next(one.text for one in wrong if one.state == "island")

    def test_two_relays_of_one_island_are_two_bonds(self, reckoner, kinds):
        """Two hybrids whose outputs are joined may not both make the bond: one relay, or one at the
        changeover."""
        data = kinds("C").model_dump(mode="json")
        data["units"] = [
            {**data["units"][0], "id": name, "name": name.title(), "group": "pair"} for name in ("one", "two")
        ]
        data["banks"] = [
            {**data["banks"][0], "id": f"battery-{name}", "unit": name} for name in ("one", "two")
        ]
        for string in data["strings"]:
            string["unit"] = "one"
        data["parts"] = [
            {"kind": "combiner", "id": "outputs", "name": "Outputs", "feeds": ["one:backup", "two:backup"]},
            *[
                {**part, "first": "outputs"}
                if part["id"] == "bypass"
                else {**part, "at": "one"}
                if part["kind"] == "electrode"
                else {**part, "serves": "one"}
                if part["kind"] == "ct"
                else part
                for part in data["parts"]
            ],
        ]
        data["adjustments"] = []
        job = validated(data)
        assert states(found(reckoner, job, "WIRE-BOND")) == {"island"}
        assert (
            found(reckoner, edit(job, Change("units/two/bond", "none")), "WIRE-BOND") != []
        )  # two failed: none left


class TestTransfer:
    def test_a_missing_interlock_lets_hands_close_both(self, reckoner, kinds):
        """The main panel from both sides: in an outage the hybrid feeds the operator's wires."""
        job = edit(kinds("D"), Change("parts/interlock/interlocked", False))
        wrong = found(reckoner, job, "WIRE-XFER")
        assert any("the operator's wires" in one.text and "Hybrid" in one.text for one in wrong)
        (cure,) = {remedy for one in wrong for remedy in one.remedies}
        assert found(reckoner, edit(job, *cure.changes), "WIRE-XFER") == []

    def test_a_bypass_of_two_switches_without_interlock(self, reckoner, kinds):
        job = edit(kinds("E"), Change("parts/bypass/interlocked", False))
        assert any("closed" in one.text or "wires" in one.text for one in found(reckoner, job, "WIRE-XFER"))

    def test_a_generator_put_beside_the_grid(self, reckoner, kinds):
        """Two running switches of a changeover without an interlock: generator and grid meet."""
        data = kinds("C").model_dump(mode="json")
        data["parts"].append({"kind": "generator", "id": "generator", "name": "Generator", "rated_kva": 8})
        data["parts"].append(
            {
                "kind": "throw",
                "id": "changeover",
                "name": "Changeover",
                "use": "transfer",
                "first": "block",
                "second": "generator",
                "rated_a": 63,
                "interlocked": False,
            }
        )
        next(part for part in data["parts"] if part["id"] == "bypass")["second"] = "changeover"
        wrong = found(reckoner, validated(data), "WIRE-XFER")
        assert any("Generator and grid" in one.text for one in wrong)
        assert all("Generator running" in one.state for one in wrong if "Generator and grid" in one.text)

    def test_the_through_current_is_held_against_the_rating(self, reckoner, kinds):
        job = edit(kinds("F"), Change("parts/gateway/rated_a", 40))
        (wrong,) = found(reckoner, job, "WIRE-XFER")
        assert "Gateway" in wrong.text
        assert wrong.limit == 40
        assert wrong.figure.value > 40

    def test_what_passes_the_unit_not_its_inverter_is_the_limit(self, reckoner, kinds):
        """An 8 kVA hybrid carries 35 A on its own; with the grid the whole building passes its changeover."""
        (one,) = found(reckoner, kinds("C"), "LOAD-WHOLE")
        assert one.limit == 60
        assert str(one.verdict) == "warns"
        small = edit(kinds("C"), Change("sheets/hybrids/hybrid-8/pass_through_a", 40))
        assert found(reckoner, small, "LOAD-WHOLE")[0].blocks
        large = edit(kinds("C"), Change("sheets/hybrids/hybrid-8/pass_through_a", 100))
        assert found(reckoner, large, "LOAD-WHOLE") == []

    def test_paralleled_units_share_what_passes(self, reckoner, kinds):
        (one,) = found(reckoner, kinds("D"), "LOAD-WHOLE", bad=False)
        assert "pass Hybrid" in one.text
        assert found(reckoner, kinds("L"), "LOAD-WHOLE", bad=False) == []  # no grid passes


class TestTransformers:
    def test_a_limit_on_chosen_circuits_is_not_proven(self, reckoner, kinds):
        job = edit(kinds("P"), Change("parts/ct/proves_limit", True))
        wrong = [one for one in found(reckoner, job, "WIRE-CT") if one.blocks]
        assert any("Existing inverter" in one.text for one in wrong)
        cure = next(remedy for one in wrong for remedy in one.remedies if "supply" in remedy.name)
        assert [one for one in found(reckoner, edit(job, *cure.changes), "WIRE-CT") if one.blocks] == []

    def test_a_transformer_beyond_other_generation_hides_it(self, reckoner, kinds):
        """Existing generation on the block, the transformer on the gateway's feed: its export is never
        seen."""
        job = edit(kinds("I"), Change("units/existing/fed_from", "block"), Change("parts/ct/on", ["gateway"]))
        wrong = [one for one in found(reckoner, job, "WIRE-CT") if "doesn't see" in one.text]
        assert any("Existing inverter" in one.text and one.blocks and one.state == "grid" for one in wrong)

    def test_without_one_at_the_supply_no_limit_is_proven(self, reckoner, kinds):
        (one,) = found(reckoner, kinds("K"), "WIRE-CT")
        assert "neither the export nor the import limit" in one.text

    def test_a_turned_transformer(self, reckoner, kinds):
        job = edit(kinds("A"), Change("parts/ct/reversed", True))
        (wrong,) = found(reckoner, job, "WIRE-CT")
        assert "counts import as export" in wrong.text
        assert found(reckoner, edit(job, *wrong.remedies[0].changes), "WIRE-CT") == []

    def test_systems_side_by_side_must_not_see_each_other(self, reckoner, kinds):
        job = edit(kinds("K"), Change("parts/ct-1/on", ["main-isolator"]))
        assert any(
            "chase" in one.text and "Hybrid 2" in one.text
            for one in found(reckoner, job, "WIRE-CT")
            if one.blocks
        )

    def test_a_hybrid_that_sees_other_generation_is_warned(self, reckoner, kinds):
        job = edit(
            kinds("P"), Change("parts/ct/on", ["main-isolator"]), Change("parts/ct/watches", "whole site")
        )
        assert any("takes that sun for" in one.text for one in found(reckoner, job, "WIRE-CT"))

    def test_a_moved_transformer_is_replayed_and_an_orphan_is_told(self, reckoner, kinds):
        job = edit(
            kinds("I"),
            Change("adjustments", [{"kind": "move ct", "id": "m1", "ct": "ct", "on": ["essential"]}]),
        )
        assert any("doesn't see" in one.text for one in found(reckoner, job, "WIRE-CT"))
        lost = edit(
            job, Change("adjustments", [{"kind": "move ct", "id": "m1", "ct": "gone", "on": ["essential"]}])
        )
        (one,) = found(reckoner, lost, "WIRE-PLAN")
        assert "gone" in one.text


class TestShutdownAndIsland:
    def test_a_transmitter_fed_from_what_dies_in_an_outage(self, reckoner, kinds):
        """Fed from the block: alive with the grid, dead on the island, and the sun goes with it."""
        job = edit(kinds("E"), Change("parts/transmitter/fed_from", "block"))
        wrong = found(reckoner, job, "ARR-RSD")
        assert states(wrong) == {"island"}
        assert wrong[0].blocks
        assert found(reckoner, kinds("E"), "ARR-RSD") == []

    def test_with_a_flat_battery_the_sun_waits_for_its_own_transmitter(self, reckoner, kinds):
        """Fed on the island by the unit alone it notes so; fed from the block there is no such question."""
        (told,) = [
            one for one in found(reckoner, kinds("E"), "ARR-RSD", False) if one.quantity == "flat battery"
        ]
        assert str(told.verdict) == "notes"
        job = edit(kinds("E"), Change("parts/transmitter/fed_from", "block"))
        assert not [one for one in found(reckoner, job, "ARR-RSD", False) if one.quantity == "flat battery"]

    def test_what_follows_may_not_be_larger_than_what_forms(self, reckoner, kinds):
        job = edit(kinds("F"), Change("sheets/battery_units/battery-unit-8/rated_kw", 5.0))
        (wrong,) = found(reckoner, job, "ARR-ISLAND")
        assert wrong.blocks
        assert wrong.margin == pytest.approx(-1.0)
        assert wrong.state == "island"

    def test_what_doesnt_curtail_by_frequency_is_told_and_unknown_is_open(self, reckoner, kinds):
        (wrong,) = found(reckoner, kinds("I"), "ARR-ISLAND")
        assert "Existing inverter" in wrong.text
        job = edit(kinds("F"), Change("sheets/inverters/inverter-6/frequency_curtailment", None))
        (one,) = found(reckoner, job, "ARR-ISLAND", bad=False)
        assert one.status == "open"


class TestLive:
    def test_a_held_circuit_on_the_grids_side_is_dead_in_an_outage(self, reckoner, kinds):
        first = next(circuit.id for circuit in kinds("I").circuits if circuit.role == "held")
        job = edit(kinds("I"), Change(f"circuits/{first}/board", "board"))
        (wrong,) = found(reckoner, job, "WIRE-LIVE")
        assert wrong.state == "island"
        assert wrong.subjects == (first,)

    def test_a_charger_without_its_contactor_is_fed_in_an_outage(self, reckoner, kinds):
        job = edit(kinds("F"), Change("circuits/charger/board", "board"))
        (wrong,) = found(reckoner, job, "WIRE-LIVE")
        assert "locked out" in wrong.text
        assert found(reckoner, kinds("F"), "WIRE-LIVE") == []

    def test_with_everything_off_what_stays_live_is_named(self, reckoner, kinds):
        (one,) = [
            one for one in found(reckoner, kinds("E"), "WIRE-LIVE", bad=False) if one.state == "all off"
        ]
        assert (
            "Module shutdown A (array)" in one.text
        )  # not beyond it: the devices at the modules have opened
        assert "DC disconnect A to" not in one.text

    @pytest.mark.parametrize("letter", ["B", "C", "F"])
    def test_a_borrowed_neutral(self, reckoner, kinds, letter):
        """Line from one board, neutral to another: found in every state in which the line is live."""
        job = kinds(letter)
        boards = [part.id for part in job.parts if part.kind == "board"]
        if len(boards) < 2:
            data = job.model_dump(mode="json")
            data["parts"].append(
                {
                    "kind": "board",
                    "id": "annexe",
                    "name": "Annexe",
                    "fed_from": "block",
                    "main": "rcd",
                    "holds": "named only",
                }
            )
            job, boards = validated(data), [*boards, "annexe"]
        first = next(c for c in job.circuits if c.role == "held")
        job = edit(
            job,
            Change(f"circuits/{first.id}/board", boards[0]),
            Change(f"circuits/{first.id}/neutral_board", boards[1]),
        )
        wrong = found(reckoner, job, "WIRE-NEUTRAL")
        assert "grid" in states(wrong)
        assert all(one.blocks for one in wrong)
        assert found(reckoner, edit(job, *wrong[0].remedies[0].changes), "WIRE-NEUTRAL", bad=False) == []

    def test_a_borrowed_neutral_across_the_changeover_has_no_way_back(self, reckoner, kinds):
        job = edit(kinds("B"), Change("circuits/fridge/neutral_board", "board"))
        wrong = {one.state: one.text for one in found(reckoner, job, "WIRE-NEUTRAL")}
        assert "no way back" in wrong["island"]
        assert "sees one of both" in wrong["grid"]


class TestIsolation:
    def test_a_unit_without_an_isolator_is_told_and_given_one(self, reckoner, larkmoor):
        (wrong,) = found(reckoner, larkmoor, "WIRE-ISO")
        assert "Hybrid, AC feed" in wrong.text
        assert found(reckoner, edit(larkmoor, *wrong.remedies[0].changes), "WIRE-ISO") == []

    def test_the_packs_number_of_disconnects(self, reckoner, kinds):
        """NEC 690.13: not more than six switches to a system (from memory)."""
        ones = [one for one in found(reckoner, kinds("E"), "WIRE-ISO", bad=False) if "switches" in one.text]
        assert [(one.figure.value, one.limit) for one in ones] == [(3, 6)]
        few = edit(kinds("E"), Change("pack/values/disconnects_max/value", 2))
        assert any("2 at most" in one.text and one.blocks for one in found(reckoner, few, "WIRE-ISO"))
