"""Symbols by the pack's standard: IEC 60617 and ANSI/IEEE 315 in general forms (from memory)."""

import pytest

from lodestaff.templates import KINDS, compose
from lodestaff.topology import answer, build, standard_states
from lodestaff.topology.model import Kind
from lodestaff.wiring import draw
from lodestaff.wiring.symbols import ANSI, SYMBOLS


@pytest.mark.parametrize(("letter", "standard"), [("C", "IEC"), ("H", "IEC"), ("E", "ANSI")])
def test_a_job_draws_by_its_packs_standard(letter, standard):
    topology = build(compose(KINDS[letter].wanted))
    assert topology.symbols == standard
    fuse = [shape for shape in draw(topology, {}).shapes if shape.owner == "cutout" and shape.kind != "text"]
    assert any(shape.kind == "polygon" for shape in fuse) == (standard == "IEC")
    assert any(len(shape.points) > 10 for shape in fuse) == (standard == "ANSI")


def test_every_kind_of_part_has_a_symbol_or_a_frame():
    plain = {"board", "relay"}  # a frame; a relay is drawn in the unit that it belongs to
    assert set(SYMBOLS) | plain == set(Kind.__args__)
    assert set(ANSI) < set(SYMBOLS)


@pytest.mark.parametrize("letter", ["D", "E", "K", "L"])
def test_an_open_switch_is_drawn_apart_from_a_closed_one(letter):
    """A symbol that looks the same in both positions would lie."""
    topology = build(compose(KINDS[letter].wanted))
    states = standard_states(topology)
    usual, off = (answer(topology, state).positions for state in (states[0], states[-1]))
    closed, opened = draw(topology, usual), draw(topology, off)

    def shapes(drawing, part):
        return [
            (shape.kind, shape.points)
            for shape in drawing.shapes
            if shape.owner == part and shape.kind != "text"
        ]

    for part in topology.switches():
        drawn = part.kind in ("isolator", "breaker", "rcd", "bypass", "throw", "interlock") and part.ports
        if drawn and usual[part.id] != off[part.id]:
            assert shapes(closed, part.id) != shapes(opened, part.id), part.id
