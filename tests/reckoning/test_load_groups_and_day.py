"""Lanes of the rails, what a drop changes, the day's stack, and circuits of the library."""

import numpy as np
import pytest
from tests.unlike import UNLIKE

from lodestaff.catalogue.library import building_kinds, library, library_circuit
from lodestaff.energy.calendar import STEP_H, household_hour, is_weekend, month_of_step
from lodestaff.job import Role, edit, load_job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.day_stack import can_move, day_stack, moved_changes
from lodestaff.reckoning.from_library import circuit_of
from lodestaff.reckoning.load_groups import ROLES, drop_changes, load_groups
from lodestaff.samples import sample_names, sample_path

SHARED = Reckoner()


def sample(name):
    job = load_job(sample_path(name))
    return job, SHARED.wiring(job)


@pytest.mark.parametrize("name", sample_names())
def test_every_circuit_stands_once_on_each_of_its_legs(name):
    job, wiring = sample(name)
    found = load_groups(job, wiring)
    assert list(dict.fromkeys(group.role for group in found)) == list(ROLES)
    for c in job.circuits:
        on = [group for group in found if c.id in group.circuits]
        assert all(group.role is c.role for group in on)
        assert [group.leg for group in on] == ([*c.legs] if len(job.site.phases) > 1 else [""])
    assert len({group.key for group in found}) == len(found)


@pytest.mark.parametrize("name", UNLIKE)
def test_a_drop_lands_where_it_was_dropped(name):
    """Any circuit on any group: where the job takes it, the circuit is then on that group, or the leg can't
    be left."""
    job, wiring = sample(name)
    found = load_groups(job, wiring)
    for c in job.circuits[:6]:
        for group in found:
            changes = drop_changes(job, wiring, c, group)
            if not changes:
                continue
            try:
                made = edit(job, *changes)
            except JobError:
                continue
            after = made.circuit(c.id)
            assert after.role is group.role
            if len(c.legs) == 1 and group.leg:
                assert after.phase == group.leg
            board = SHARED.wiring(made).board_of(c.id)
            if (
                group.board
                and group.board in {part.id for part in job.parts}
                and set(after.legs) <= {group.leg, *after.legs}
            ):
                legs = next(one.legs for one in wiring.boards if one.id == group.board)
                if set(after.legs) <= set(legs) or not legs:
                    assert board is not None
                    assert board.id == group.board, (c.id, group.key, changes)


def test_dropping_it_where_it_is_changes_nothing():
    for name in sample_names():
        job, wiring = sample(name)
        for group in load_groups(job, wiring):
            for id in group.circuits:
                assert drop_changes(job, wiring, job.circuit(id), group) == ()


def test_two_boards_of_two_sources_and_a_second_supply():
    job, wiring = sample("ocotillo-wash-centre")
    held = [group for group in load_groups(job, wiring) if group.role is Role.HELD]
    assert [(group.board, group.leg) for group in held] == [
        ("backup-1", "A"),
        ("backup-1", "B"),
        ("backup-2", "A"),
        ("backup-2", "B"),
    ]
    assert {group.source for group in held} == {("hybrid-1",), ("hybrid-2",)}
    assert all(group.stop == (4.5, pytest.approx(6.3)) for group in held)
    surplus = [group for group in load_groups(job, wiring) if group.role is Role.SURPLUS]
    assert any(group.contactor == "with surplus" for group in surplus)
    assert any("tank" in group.circuits for group in surplus)


class TestDay:
    def test_the_stack_is_the_mean_of_the_month(self, reckoner, larkmoor):
        stack = day_stack(reckoner, larkmoor, 5)
        days = ((month_of_step() == 4) & ~is_weekend()).sum() / 96
        whole = sum(
            reckoner.circuit_kw(larkmoor, c)[(month_of_step() == 4) & ~is_weekend()].sum() * STEP_H
            for c in larkmoor.circuits
        )
        assert stack.total_kw.sum() == pytest.approx(whole / days)
        assert {id for id, _ in stack.layers} == {c.id for c in larkmoor.circuits}
        assert stack.under_sun_kwh() <= min(stack.total_kw.sum(), stack.sun_kw.sum())

    @pytest.mark.parametrize("hours", [1, 5, -3, 23])
    def test_moved_runs_are_the_same_runs_later(self, reckoner, larkmoor, hours):
        """Seeded runs land elsewhere by chance: the hours' means move with the weights."""
        circuit = larkmoor.circuit("laundry")
        before = dict(day_stack(reckoner, larkmoor, 5).layers)["laundry"]
        made = edit(larkmoor, *moved_changes(circuit, hours))
        after = dict(day_stack(reckoner, made, 5).layers)["laundry"]
        assert after.sum() == pytest.approx(before.sum(), rel=0.25)
        centre = lambda kw: np.angle((kw * np.exp(2j * np.pi * np.arange(24) / 24)).sum()) / 2 / np.pi * 24  # noqa: E731
        assert (centre(after) - centre(before) - hours + 12) % 24 - 12 == pytest.approx(0, abs=1.0)
        assert made.circuit("laundry").kwh_year == circuit.kwh_year

    def test_a_whole_turn_and_no_hours_change_nothing(self, larkmoor):
        circuit = larkmoor.circuit("laundry")
        assert moved_changes(circuit, 0) == moved_changes(circuit, 24) == ()
        assert len(moved_changes(circuit, 2, weekend=True)) == 1

    def test_what_is_always_there_can_not_be_moved(self, larkmoor):
        assert not can_move(larkmoor.circuit("server"))
        assert moved_changes(larkmoor.circuit("server"), 3) == ()

    def test_hours_are_the_households(self, larkmoor):
        """Summer time: 12:00 of the household is 11:00 standard (fact of the calendar)."""
        hour = household_hour(larkmoor.time_zone, 0.0)
        assert hour[200 * 96 + 44] == 12.0


class TestLibrary:
    @pytest.mark.parametrize("pack", ["uk", "na", "anz"])
    @pytest.mark.parametrize("building", building_kinds())
    def test_every_circuit_is_sound_in_every_pack(self, larkmoor, building, pack):
        taken = set()
        for row in library(building, pack, pack == "anz"):
            made = circuit_of(larkmoor, row, taken)
            taken.add(made.id)
            assert made.name
            assert made.kwh_year <= made.running_w * 8.76
            assert made.use

    def test_words_go_by_pack(self):
        names = {pack: library_circuit("house", "water", pack).name for pack in ("uk", "na", "anz")}
        assert names == {"uk": "Immersion heater", "na": "Water heater", "anz": "Hot water"}

    def test_seasons_turn_with_the_hemisphere(self):
        north, south = (library_circuit("house", "heat-pump", "uk", south) for south in (False, True))
        assert north.values["months"][0] == south.values["months"][6]
        assert north.values["months"][0] > north.values["months"][6]

    def test_a_new_one_goes_on_the_lightest_leg_under_a_free_name(self):
        job = load_job(sample_path("ocotillo-wash-centre"))
        row = library_circuit("station", "lab", "na")
        made = circuit_of(job, row, {c.id for c in job.circuits})
        assert made.id == "lab-2"
        load = {
            leg: sum(c.running_kva / len(c.legs) for c in job.circuits if leg in c.legs) for leg in ("A", "B")
        }
        assert made.phase == min(load, key=load.get)

    def test_what_is_not_there_is_said(self):
        with pytest.raises(JobError, match="no kind of building 'castle'"):
            library("castle", "uk")
        with pytest.raises(JobError, match="no circuit 'moat'"):
            library_circuit("house", "moat", "uk")


def test_surplus_loads_in_the_year():
    """The sample's elements take only what was exported or lost, and the tank gets its need from two
    supplies."""
    job = load_job(sample_path("ocotillo-wash-centre"))
    reckoner = Reckoner()
    figures = reckoner.figures(job)
    without = reckoner.figures(
        job.model_copy(update={"circuits": tuple(c for c in job.circuits if c.role is not Role.SURPLUS)})
    )
    assert figures.surplus_load_kwh > 500
    assert figures.export_kwh + figures.curtailed_kwh < without.export_kwh + without.curtailed_kwh
    elements = sum(c.kwh_year for c in job.circuits if c.id.startswith("element"))
    tank = job.circuit("tank")
    assert figures.load_kwh - without.load_kwh <= elements + tank.kwh_year + 1
    from lodestaff.reckoning.figures import imbalance_kwh

    assert max(imbalance_kwh(reckoner.year(job), reckoner.converters(job)).values()) < 1e-9
