"""Shutting down and restarting every kind: each switch once, in an order that ends with what can't be
switched off."""

import pytest

from lodestaff.job import Change, edit
from lodestaff.quantities.errors import JobError
from lodestaff.templates import KINDS, compose
from lodestaff.topology import answer, build, standard_states
from lodestaff.topology.isolation import ways_in
from lodestaff.topology.questions import inside_cases
from lodestaff.wiring.isolation import GROUPS, isolation
from lodestaff.wiring.labels import labels


@pytest.fixture(scope="module", params=sorted(KINDS))
def kind(request):
    job = compose(KINDS[request.param].wanted)
    return job, build(job)


def test_every_switch_is_worked_once_each_way(kind):
    job, topology = kind
    found = isolation(job, topology)
    names = {part.id for part in topology.switches()}
    assert sorted(step.part for step in found.shutdown) == sorted(names)
    assert sorted(step.part for step in found.restart) == sorted(names)
    positions = {part.id: part.positions for part in topology.switches()}
    assert all(step.position in positions[step.part] for step in (*found.shutdown, *found.restart))


def test_the_last_step_leaves_what_the_state_all_off_leaves(kind):
    """Derived twice: by switching off one after the other, and by the state in which all are off."""
    job, topology = kind
    off = answer(topology, standard_states(topology)[-1])
    found = isolation(job, topology)
    reached = set(off.still_live()) - inside_cases(topology)  # nobody's hand gets into a sealed case
    assert found.shutdown[-1].live == len(reached) == len(found.stays_live)
    assert not any(off.fed.values())


def test_units_are_switched_off_before_their_feeds(kind):
    job, topology = kind
    order = [step.part for step in isolation(job, topology).shutdown]
    for unit in topology.units:
        if f"{unit.unit}-feed" in order:
            assert order.index(unit.unit) < order.index(f"{unit.unit}-feed")


def test_every_way_into_a_unit_is_isolated_in_the_samples(kind):
    _, topology = kind
    ways = ways_in(topology)
    assert {way.unit for way in ways} == {unit.unit for unit in topology.units}
    for way in ways:
        assert way.at_unit, way
        assert way.at_board or not way.two_ends, way


def test_labels_stand_where_somebody_may_open_something(kind):
    job, topology = kind
    places = {label.place for label in labels(job, topology)}
    for part in topology.parts.values():
        if part.kind == "unit" and topology.unit(part.id).module_level:
            assert (
                f"where the cable of {part.name} ends" in places
            )  # the units themselves lie under the modules
        elif part.kind in ("unit", "battery", "isolator", "breaker", "bypass", "supply", "board"):
            assert part.name in places, part.id


@pytest.mark.parametrize("letter", ["K", "L", "R"])
def test_a_generator_is_locked_out_first_and_released_last(letter):
    job = compose(KINDS[letter].wanted)
    topology = build(job)
    found = isolation(job, topology)
    engines = {part.id for part in topology.parts.values() if part.kind == "generator"}
    assert engines
    first, last = found.shutdown[: len(engines)], found.restart[-len(engines) :]
    assert {step.part for step in first} == {step.part for step in last} == engines
    assert all("locked out" in step.words and step.caution == "generator" for step in first)
    assert all("released" in step.words for step in last)


def test_it_goes_source_by_source_and_says_where_to_prove_dead(kind):
    """Groups follow one another and none comes twice; what is dead at the end is proved once, right where it
    came to be dead; what stays live is proved nowhere."""
    job, topology = kind
    steps = isolation(job, topology).shutdown
    groups = [step.group for step in steps]
    assert groups == sorted(groups, key=GROUPS.index)
    proved = [place for step in steps for place in step.proofs]
    assert len(proved) == len(set(proved))
    off = answer(topology, standard_states(topology)[-1])
    names = {unit.unit: topology.parts[unit.unit].name for unit in topology.units}
    for unit in topology.units:
        wires = [one.id for one in topology.conductors if unit.grid in (one.a, one.b)]
        dead = bool(wires) and not any(off.live[wire] for wire in wires)
        assert (f"AC terminals of {names[unit.unit]}" in proved) == dead
        if unit.sealed:
            assert f"battery terminals of {names[unit.unit]}" not in proved
    for part in topology.parts.values():
        if part.kind == "board":
            assert part.name in proved


@pytest.mark.parametrize("letter", ["E"])
def test_rapid_shutdown_comes_first_and_takes_the_roof_down(letter):
    job = compose(KINDS[letter].wanted)
    first = isolation(job, build(job)).shutdown[0]
    assert first.group == "Rapid shutdown"
    assert all("array" in place for place in first.proofs)
    assert first.proofs
    assert "locked off" in first.words


def test_a_person_puts_a_step_elsewhere_with_a_reason():
    job = compose(KINDS["B"].wanted)
    topology = build(job)
    before = isolation(job, topology)
    array = next(step.part for step in before.shutdown if step.group == "Arrays")
    first = before.shutdown[0].part
    moved = edit(
        job, Change("reorderings", [{"part": array, "before": first, "why": "it hangs at the door"}])
    )
    after = isolation(moved, topology)
    assert after.shutdown[0].part == array
    assert after.shutdown[0].why == "it hangs at the door"
    assert after.shutdown[0].loaded
    assert not any(step.loaded or step.why for step in before.shutdown)
    assert [s.part for s in after.shutdown if s.part != array] == [
        s.part for s in before.shutdown if s.part != array
    ]
    assert [s.part for s in after.restart] == [s.part for s in before.restart]
    assert {place for s in after.shutdown for place in s.proofs} == {
        place for s in before.shutdown for place in s.proofs
    }
    gone = edit(job, Change("reorderings", [{"part": "nowhere", "before": "", "why": "it was there once"}]))
    assert [stray.part for stray in isolation(gone, topology).strays] == ["nowhere"]
    with pytest.raises(JobError):
        edit(job, Change("reorderings", [{"part": array, "before": first, "why": ""}]))


def test_labels_say_what_a_switch_is_for(kind):
    job, topology = kind
    texts = {label.place: label.text for label in labels(job, topology)}
    for part in job.parts:
        if part.kind == "shutdown":
            assert "rapid shutdown" in texts[topology.parts[f"{part.id}-switch"].name]
        if part.kind == "generator":
            first = "lock out" if part.started_by else "stop the generator"
            assert first in texts[topology.parts[f"{part.id}-isolator"].name]
    if not any(part.kind == "shutdown" for part in job.parts):
        assert not any("rapid shutdown" in text for text in texts.values())
