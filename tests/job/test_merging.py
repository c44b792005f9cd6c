"""Two copies that went apart: what one changed is taken, what both changed is shown, nothing is lost."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.cli.running import run, run_json

from lodestaff.job import Change, edit, load_job, save_job
from lodestaff.job.journal import append, read
from lodestaff.job.merging import merge
from lodestaff.quantities.errors import JobError
from lodestaff.samples import sample_path


@pytest.fixture(scope="module")
def base():
    return load_job(sample_path("quern-hall-joinery"))


def hand(name):
    return {"id": name, "name": name.capitalize(), "skills": ["general"]}


def test_what_each_changed_alone_is_in_it(base):
    circuit = base.circuits[0].id
    ours = edit(base, Change("limits/reserve_soc", 0.4), Change("visits/hands", [hand("a")]))
    theirs = edit(base, Change(f"circuits/{circuit}/running_w", 777.0), Change("title", "Quern Hall, new"))
    found = merge(base, ours, theirs)
    assert found.clashes == ()
    assert set(found.taken) == {f"circuits/{circuit}/running_w", "title"}
    assert (found.job.limits.reserve_soc, found.job.title) == (0.4, "Quern Hall, new")
    assert found.job.circuit(circuit).running_w == 777.0
    assert [one.id for one in found.job.visits.hands] == ["a"]
    assert merge(base, theirs, ours).job == found.job


def test_what_both_changed_is_shown_and_a_side_decides(base):
    ours, theirs = (edit(base, Change("limits/reserve_soc", soc)) for soc in (0.4, 0.5))
    found = merge(base, ours, theirs)
    (clash,) = found.clashes
    assert (clash.path, clash.ours, clash.theirs) == ("limits/reserve_soc", 0.4, 0.5)
    assert found.job.limits.reserve_soc == 0.4
    assert merge(base, ours, theirs, "theirs").job.limits.reserve_soc == 0.5


def test_rows_are_added_taken_out_and_changed_against_each_other(base):
    start = edit(base, Change("visits/hands", [hand("a"), hand("b")]))
    ours = edit(start, Change("visits/hands", [hand("a"), hand("b"), hand("c")]))
    theirs = edit(start, Change("visits/hands", [hand("b"), hand("d")]))
    found = merge(start, ours, theirs)
    assert [one.id for one in found.job.visits.hands] == ["b", "c", "d"]
    assert found.clashes == ()
    changed = edit(start, Change("visits/hands/a/phone", "01632 960 100"))
    (clash,) = merge(start, changed, theirs).clashes
    assert (clash.path, clash.theirs) == ("visits/hands/a", None)  # changed here, taken out there


def test_without_a_base_nothing_is_lost(base):
    ours = edit(base, Change("visits/hands", [hand("a")]))
    theirs = edit(base, Change("visits/hands", [hand("b")]), Change("title", "Other"))
    found = merge(None, ours, theirs)
    assert {one.id for one in found.job.visits.hands} == {"a", "b"}
    assert [clash.path for clash in found.clashes] == ["title"]


def test_jobs_that_are_no_copies_are_refused(base):
    with pytest.raises(JobError, match="different jobs"):
        merge(None, base, load_job(sample_path("far-byre")))


FIELDS = ("limits/reserve_soc", "limits/export_kw", "title", "site/place")
VALUES = {
    "limits/reserve_soc": (0.3, 0.4, 0.5),
    "limits/export_kw": (0.0, 1.0, 2.0),
    "title": ("A", "B", "C"),
    "site/place": ("P", "Q", "R"),
}
sides = st.dictionaries(st.sampled_from(FIELDS), st.integers(0, 2))


@settings(max_examples=40)
@given(mine=sides, other=sides)
def test_any_changes_end_where_a_hand_would_put_them(mine, other):
    """Derived: field by field, by the three values alone."""
    base = load_job(sample_path("far-byre"))
    start = edit(base, *(Change(path, values[0]) for path, values in VALUES.items()))
    ours = edit(start, *(Change(path, VALUES[path][n]) for path, n in mine.items()))
    theirs = edit(start, *(Change(path, VALUES[path][n]) for path, n in other.items()))
    found = merge(start, ours, theirs)
    data, clashes = found.job.model_dump(mode="json"), {one.path for one in found.clashes}
    for path in FIELDS:
        a, b, was = (VALUES[path][side.get(path, 0)] for side in (mine, other, {}))
        right = b if a == was else a
        value = data
        for step in path.split("/"):
            value = value[step]
        assert value == right
        assert (path in clashes) == (a != b and was not in (a, b))


def test_on_the_command_line_with_the_journals_of_both(base, capsys, tmp_path):
    paths = {name: tmp_path / f"{name}.json" for name in ("base", "ours", "theirs", "out")}
    save_job(base, paths["base"])
    save_job(edit(base, Change("limits/reserve_soc", 0.4)), paths["ours"])
    save_job(edit(base, Change("title", "There"), Change("limits/reserve_soc", 0.6)), paths["theirs"])
    append(paths["ours"], "note", "here")
    append(paths["theirs"], "note", "there")
    words = ("merge", paths["ours"], paths["theirs"], "--base", paths["base"], "-o", paths["out"])
    code, out, _ = run(capsys, *words)
    assert code == 1
    assert "clashes  limits/reserve_soc: 0.4 here, 0.6 there" in out
    assert not paths["out"].exists()
    code, answer = run_json(capsys, *words, "--take", "theirs")
    assert (code, answer["taken"], answer["file"]) == (0, ["title"], str(paths["out"]))
    made = load_job(paths["out"])
    assert (made.title, made.limits.reserve_soc) == ("There", 0.6)
    assert {entry.text for entry in read(paths["out"])} == {"here", "there"}
