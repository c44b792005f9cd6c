"""Layout and states hold for any split, names and wiring decisions, not for the demo's alone."""

import itertools

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lodestaff.job.edit import validated
from lodestaff.topology import answer, build, standard_states
from lodestaff.wiring import draw, lay_out

names = st.text(alphabet="abcdefghijklmnopqrstuvwxyz ", min_size=1, max_size=28).filter(str.strip)


@st.composite
def installations(draw, larkmoor):
    """The demo with other circuits, one or two units, other wiring."""
    data = larkmoor.model_dump(mode="json")
    template = data["circuits"][0]
    count = draw(st.integers(1, 24))
    phases = draw(st.sampled_from([["L1"], ["L1", "L2"]]))
    data["site"]["phases"] = phases
    data["mains"]["system"] = "two of three phases" if len(phases) == 2 else "single phase"
    roles = st.sampled_from(["held", "shed first", "grid only", "locked out"])
    data["circuits"] = [
        {
            **template,
            "id": f"c{n}",
            "name": draw(names),
            "role": draw(roles),
            "phase": draw(st.sampled_from(phases)),
        }
        for n in range(count)
    ]
    data["wiring"] = {
        "bypass": draw(st.booleans()),
        "bond_place": draw(st.sampled_from(["unit relay", "essential board", "none"])),
        "electrode": True,
        "essential_rcd": draw(st.booleans()),
    }
    if len(phases) == 2 and draw(st.booleans()):
        data["units"].append({**data["units"][0], "id": "second", "name": "Second", "phase": "L2"})
        data["banks"].append({**data["banks"][0], "id": "second-battery", "unit": "second"})
    data["site"]["supply"]["earthing"]["value"] = draw(st.sampled_from(["TN-C-S", "TN-S", "TT"]))
    return validated(data)


@settings(
    max_examples=40,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(st.data(), st.sampled_from([2.8, 4.4]))
def test_no_two_parts_overlap_and_everything_is_on_the_sheet(larkmoor, data, text_mm):
    topology = build(data.draw(installations(larkmoor)))
    layout = lay_out(topology, text_mm)
    boxes = list(layout.boxes.values())
    for a, b in itertools.combinations(boxes, 2):
        apart = (
            a.x + a.w <= b.x + 0.01
            or b.x + b.w <= a.x + 0.01
            or a.y + a.h <= b.y + 0.01
            or b.y + b.h <= a.y + 0.01
        )
        assert apart, (a.part.id, b.part.id)
    for box in boxes:
        assert 0 <= box.x <= box.x + box.w <= layout.width
        assert 0 <= box.y <= box.y + box.h <= layout.height


@settings(
    max_examples=40,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(st.data())
def test_conductors_are_square_and_every_one_is_drawn(larkmoor, data):
    topology = build(data.draw(installations(larkmoor)))
    drawing = draw(topology, answer(topology, standard_states(topology)[0]).positions)
    lines = {shape.owner: shape.points for shape in drawing.shapes if shape.style == "conductor"}
    assert set(lines) == {conductor.id for conductor in topology.conductors}
    for points in lines.values():
        for (ax, ay), (bx, by) in itertools.pairwise(points):
            assert abs(ax - bx) < 0.06 or abs(ay - by) < 0.06


@settings(
    max_examples=50,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(st.data())
def test_states_of_any_installation(larkmoor, data):
    """What is fed follows from role and phase; on the island a bond is there only where a unit makes one."""
    job = data.draw(installations(larkmoor))
    topology = build(job)
    found = {state.name: answer(topology, state) for state in standard_states(topology)}
    backed = {unit.phase for unit in job.units}
    for circuit in job.circuits:
        on_board = circuit.role in ("held", "shed first")
        wired = not on_board or circuit.phase in backed
        if not wired:
            assert circuit.id not in found["grid"].fed
            continue
        assert found["grid"].fed[circuit.id]
        assert bool(found["island"].fed[circuit.id]) == on_board
        assert not found["all off"].fed[circuit.id]
        assert ("bypass" in found) == job.wiring.bypass
        if job.wiring.bypass:
            assert found["bypass"].fed[circuit.id]
    bonds = {"unit relay": 1, "essential board": 1, "none": 0}[job.wiring.bond_place]
    islands = found["island"].networks
    assert len(islands) == len(job.units)
    for network in islands:
        assert len(network.bonds) == bonds
        behind = job.wiring.bond_place == "essential board" and job.wiring.essential_rcd
        assert bool(network.behind_rcd) == behind
    assert all(found["all off"].live[name] for name in found["all off"].still_live())
