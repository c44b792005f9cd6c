"""A job refuses what cannot be, in one line that names the place; edits never touch the job before."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lodestaff.job import Change, Role, edit
from lodestaff.job.edit import validated
from lodestaff.job.history import History
from lodestaff.quantities.errors import JobError


@pytest.mark.parametrize(
    ("path", "value", "where", "words"),
    [
        ("circuits/server/running_w", -5, "circuits/server/running_w", "greater than 0"),
        ("circuits/server/running_w", "many", "circuits/server/running_w", "valid number"),
        ("circuits/server/running_w", float("nan"), "circuits/server/running_w", "finite"),
        ("site/weather/seed", -1, "seed", "greater than or equal to 0"),
        ("circuits/server/power_factor", 1.2, "power_factor", "less than or equal to 1"),
        ("circuits/server/kwh_year", 9000, "circuits/server", "more than 230 W running all year"),
        (
            "circuits/server/role",
            "sometimes",
            "role",
            "'held', 'shed first', 'grid only', 'locked out' or 'surplus only'",
        ),
        ("circuits/server/phase", "L2", "job", "'L2' is not there; choose from 'L1'"),
        ("circuits/server/weekday", [1.0] * 23, "weekday", "at least 24"),
        ("circuits/server/months", [0.0] * 12, "circuits/server", "a weight above 0"),
        ("limits/reserve_soc", 0.05, "job", "outside the battery's 0.1 to 1"),
        ("limits/reserve_soc", 30, "limits/reserve_soc", "less than or equal to 1"),
        ("limits/export_kw", -1, "limits/export_kw", "greater than or equal to 0"),
        ("limits/windows/night/end_h", 1.0, "limits/windows/night", "must begin and end at different hours"),
        ("site/latitude_deg", 91, "site/latitude_deg", "less than or equal to 66"),
        ("site/phases", [], "site/phases", "at least 1"),
        ("units/hybrid/sheet", "nothing", "job", "'nothing' is not there"),
        ("banks/battery/modules", 0, "banks/battery/modules", "greater than or equal to 1"),
        ("strings/string-1/tracker", "C", "job", "choose from 'A', 'B'"),
        ("faces/south-east/modules/m1/string", "string-9", "job", "'string-9' is not there"),
        ("faces/south-east/modules/m1/x_m", 7.0, "job", "reaches beyond the face"),
        ("faces/south-east/modules/m1/x_m", 1.5, "job", "lies on m2"),
        ("faces/south-west/modules/m1/x_m", 5.3, "job", "lies on"),
        ("faces/south-east/azimuth_deg", 360, "azimuth_deg", "less than 360"),
        ("site/weather/clearness", [0.3] * 11, "site/weather", "at least 12"),
        ("site/weather/temperature_low_c", [30.0] * 12, "site/weather", "above high"),
    ],
)
def test_impossible_values_are_refused_by_place(larkmoor, path, value, where, words):
    with pytest.raises(JobError) as caught:
        edit(larkmoor, Change(path, value))
    assert where in str(caught.value)
    assert words in str(caught.value)
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize(
    "path", ["circuits/nobody/role", "nowhere/at/all", "limits/windows/noon/end_h", "circuits/server/0"]
)
def test_a_path_that_is_not_there_is_named(larkmoor, path):
    with pytest.raises(JobError):
        edit(larkmoor, Change(path, 1))


def test_two_parts_with_one_id_are_refused(larkmoor):
    data = larkmoor.model_dump(mode="json")
    data["circuits"].append(data["circuits"][0])
    with pytest.raises(JobError, match="'vaccine-fridges' stands twice"):
        validated(data)


def test_two_banks_on_one_unit_are_refused(larkmoor):
    data = larkmoor.model_dump(mode="json")
    data["banks"].append({**data["banks"][0], "id": "second"})
    with pytest.raises(JobError, match="two banks on one unit"):
        validated(data)


def test_an_edit_leaves_the_job_before_as_it_was(larkmoor):
    text = larkmoor.model_dump_json()
    after = edit(larkmoor, Change("circuits/server/role", "grid only"), Change("limits/reserve_soc", 0.5))
    assert after.circuit("server").role is Role.GRID
    assert after.limits.reserve_soc == 0.5
    assert larkmoor.model_dump_json() == text


def test_a_window_can_be_taken_out(larkmoor):
    assert edit(larkmoor, Change("limits/windows/night", None)).limits.windows == ()


def test_starting_power_follows_the_soft_starter(larkmoor):
    motor = larkmoor.circuit("dental-compressor")
    assert motor.start_kva == pytest.approx(0.75 / 0.8 * 5.2)
    soft = edit(larkmoor, Change("circuits/dental-compressor/soft_start_multiple", 2.5)).circuit(
        "dental-compressor"
    )
    assert soft.start_kva == pytest.approx(0.75 / 0.8 * 2.5)


def test_undo_and_redo_by_name(larkmoor):
    history = History(larkmoor)
    assert history.undo() is None
    history.apply("Move Server to grid only", edit(larkmoor, Change("circuits/server/role", "grid only")))
    assert history.changed
    assert history.undo_name == "Move Server to grid only"
    assert history.undo() == "Move Server to grid only"
    assert not history.changed
    assert history.job == larkmoor
    assert history.redo() == "Move Server to grid only"
    assert history.job.circuit("server").role is Role.GRID


def test_an_edit_that_changes_nothing_leaves_no_step(larkmoor):
    history = History(larkmoor)
    assert not history.apply(
        "nothing", edit(larkmoor, Change("limits/reserve_soc", larkmoor.limits.reserve_soc))
    )
    assert history.undo_name is None


def test_undoing_back_to_what_was_saved_is_unchanged(larkmoor):
    history = History(larkmoor)
    history.apply("a", edit(larkmoor, Change("limits/reserve_soc", 0.4)))
    history.mark_saved(history.job)
    history.apply("b", edit(history.job, Change("limits/reserve_soc", 0.5)))
    history.undo()
    assert not history.changed
    history.undo()
    assert history.changed


@given(st.lists(st.sampled_from(["apply", "undo", "redo"]), max_size=30), st.integers(0, 100))
def test_any_walk_through_history_keeps_one_line(larkmoor, walk, seed):
    """Against a plain list with an index."""
    history, line, at = History(larkmoor), [larkmoor], 0
    for step, verb in enumerate(walk):
        if verb == "apply":
            job = larkmoor.model_copy(update={"title": f"{seed} {step}"})
            history.apply(f"step {step}", job)
            line, at = [*line[: at + 1], job], at + 1
        elif verb == "undo":
            history.undo()
            at = max(0, at - 1)
        else:
            history.redo()
            at = min(len(line) - 1, at + 1)
        assert history.job is line[at]
        assert (history.undo_name is None) == (at == 0)
        assert (history.redo_name is None) == (at == len(line) - 1)


def test_a_step_to_undo_shares_what_it_left_alone(larkmoor):
    """Seen: 294 kB a step. An edit takes the parts that it changed."""
    first = larkmoor.circuits[0].id
    edited = edit(larkmoor, Change(f"circuits/{first}/name", "Another"))
    assert edited.pack is larkmoor.pack
    assert edited.sheets is larkmoor.sheets
    assert [a is b for a, b in zip(edited.circuits, larkmoor.circuits, strict=True)].count(False) == 1
    assert edited.circuits[0].name == "Another"
    assert validated(edited.model_dump(mode="json")) == edited


def test_steps_to_undo_are_bounded(larkmoor):
    history = History(larkmoor)
    for number in range(1100):
        history.apply("a", larkmoor.model_copy(update={"title": str(number)}))
    assert history.steps == 1000
