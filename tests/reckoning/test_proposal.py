"""The proposed split and the dealing of legs on whole jobs: within every limit, applied by its own
changes."""

import pytest

from lodestaff.job import Change, Role, edit, load_job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.findings import answers
from lodestaff.reckoning.legs import deal_out
from lodestaff.reckoning.proposal import propose, worth
from lodestaff.samples import sample_names, sample_path
from lodestaff.templates import KINDS, compose


@pytest.fixture(scope="module")
def kinds():
    return {letter: compose(KINDS[letter].wanted) for letter in "CDFHJK"}


def test_the_demos_best_set(reckoner, larkmoor):
    """What must stay on stays; the compressor's start is what a 6 kVA unit can't take on top of the
    others."""
    found = propose(reckoner, larkmoor, larkmoor.units[0])
    assert found.choice.exact
    assert {"vaccine-fridges", "monitors", "server"} <= set(found.choice.chosen)
    assert dict(found.choice.left_out)["dental-compressor"]
    assert any("dental-compressor" in more.gained for more in found.further)
    assert "car-charger" not in dict(found.choice.left_out)


@pytest.mark.parametrize("letter", ["C", "D", "F", "H", "K"])
def test_a_proposal_keeps_every_limit_and_is_what_its_changes_make(reckoner, kinds, letter):
    job = kinds[letter]
    unit = next(one for one in job.units if reckoner.backed(job, one).forming[:1] == (one,))
    found = propose(reckoner, job, unit)
    choice = found.choice
    assert choice.running <= found.limits.continuous + 1e-6
    assert choice.peak <= found.limits.surge + 1e-6
    assert choice.energy_kwh <= found.limits.energy_kwh + 1e-6
    changed = edit(job, *found.changes)
    for circuit in changed.circuits:
        if circuit.id in choice.chosen:
            assert circuit.role in (Role.HELD, Role.SHED)
        elif circuit.id in dict(choice.left_out):
            assert circuit.role is Role.GRID
    assert propose(reckoner, changed, unit).choice.running <= found.limits.continuous + 1e-6


ASKED = ("LOAD-CONT: held", "LOAD-SURGE: start", "LOAD-SURGE: restart", "LOAD-ENERGY", "LOAD-LOCK: held")


def complaints(reckoner, job, lead):
    return {
        one.rule
        for one in answers(reckoner, job, *ASKED)
        if one.owner in ("", lead.id) and one.status in ("blocks", "warns")
    }


@pytest.mark.parametrize("name", sample_names())
def test_what_is_proposed_raises_nothing_that_it_could_have_avoided(reckoner, name):
    """Whatever still warns or blocks, warns or blocks with nothing held but what must be."""
    job = load_job(sample_path(name))
    for lead in reckoner.leads(job):
        if not any(c.role in (Role.HELD, Role.SHED) for c in reckoner.backed(job, lead).circuits):
            continue
        after = edit(job, *propose(reckoner, job, lead).changes)
        least = edit(
            job,
            *(
                Change(f"circuits/{c.id}/role", "grid only")
                for c in job.circuits
                if c.role in (Role.HELD, Role.SHED) and c.care == "none"
            ),
        )
        assert complaints(reckoner, after, lead) <= complaints(reckoner, least, lead)


def test_what_would_empty_the_battery_without_a_wish_comes_off(reckoner, larkmoor):
    held = edit(
        larkmoor, Change("circuits/kennel-heat/role", "held"), Change("circuits/car-charger/role", "held")
    )
    after = edit(held, *propose(reckoner, held, held.units[0]).changes)
    assert (after.circuit("kennel-heat").role, after.circuit("car-charger").role) == (Role.GRID, Role.LOCKED)
    chosen = edit(
        held,
        Change("circuits/kennel-heat/on_battery", "on the battery"),
        Change("circuits/kennel-heat/running_w", 500.0),
    )
    assert "kennel-heat" in propose(reckoner, chosen, chosen.units[0]).choice.chosen


def test_systems_side_by_side_choose_among_their_own(reckoner, kinds):
    one, other = (propose(reckoner, kinds["K"], unit).choice for unit in kinds["K"].units)
    assert not set(one.chosen) & set(other.chosen)


def test_priorities_are_the_peoples(reckoner, larkmoor):
    assert worth(larkmoor.circuit("server")) == 10  # wished for
    first = edit(
        larkmoor,
        Change("circuits/dental-compressor/priority", 10),
        Change("circuits/reception-heat/priority", 0),
    )
    assert worth(first.circuit("dental-compressor")) == 10
    found = propose(reckoner, first, first.units[0])
    assert "reception-heat" not in found.choice.chosen or "dental-compressor" in found.choice.chosen


def test_what_must_be_held_and_does_not_fit_is_said(reckoner, larkmoor):
    job = edit(larkmoor, *(Change(f"circuits/{c.id}/care", "medical") for c in larkmoor.circuits))
    with pytest.raises(JobError, match="does not fit"):
        propose(reckoner, job, job.units[0])


def test_without_an_island_there_is_nothing_to_propose(reckoner):
    job = compose(KINDS["A"].wanted)
    with pytest.raises(JobError, match="forms no island"):
        propose(reckoner, job, job.units[0])


def test_dealing_lessens_the_imbalance_and_its_changes_are_the_job(reckoner, kinds):
    for one in deal_out(reckoner, kinds["K"]):
        assert one.after.imbalance_pct <= one.before.imbalance_pct + 1e-6
        assert len(one.moved) == one.dealt.moved == len(one.changes)
    job = edit(kinds["K"], *(change for one in deal_out(reckoner, kinds["K"]) for change in one.changes))
    assert all(one.dealt.moved == 0 for one in deal_out(reckoner, job))


def test_one_leg_needs_no_dealing(reckoner, larkmoor):
    assert deal_out(reckoner, larkmoor) == ()
